// The system tells the program to end: SIGTERM, SIGHUP or SIGINT, as at the end of a session. It is heard on the window's thread, which
// then has time to stop the machine and keep the work.
#pragma once

#include <QObject>

class QSocketNotifier;

namespace yokai {

class Ending : public QObject {
    Q_OBJECT
public:
    explicit Ending(QObject* parent = nullptr); // one a program
    ~Ending() override;

signals:
    void told(int signal);

private:
    QSocketNotifier* notifier_;
};

} // namespace yokai
