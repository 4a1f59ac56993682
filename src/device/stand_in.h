// The stand-in, a program of its own, for as long as it is needed; closing its input ends it.
#pragma once

#include <QProcess>
#include <QString>
#include <QStringList>

namespace yokai {

class StandIn {
public:
    // Throws Error(Device) where it does not start.
    explicit StandIn(const QString& program, const QStringList& options = {});
    ~StandIn();
    StandIn(const StandIn&) = delete;
    StandIn& operator=(const StandIn&) = delete;
    const QString& port() const { return port_; }

private:
    QProcess process_;
    QString port_;
};

} // namespace yokai
