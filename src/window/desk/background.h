// Long work off the window's thread, one at a time: what it does, how far it is, how it ended. All of it on one thread, so that
// what it opens may stay open from one task to the next.
#pragma once

#include "base/work.h"
#include "check/finding.h"

#include <QObject>
#include <QString>

#include <functional>
#include <memory>

class QThread;

namespace yokai {

class Background : public QObject {
    Q_OBJECT
public:
    explicit Background(QObject* parent = nullptr);
    ~Background() override;

    // `task` returns what to say at the end; `after` runs on the window's thread if it came
    // to its end. False, and nothing done, while other work is under way.
    bool start(const QString& what, std::function<QString(const Work&)> task, std::function<void()> after = {});
    bool busy() const { return busy_; }
    void stop() { stop_.request_stop(); }
    // Done on that thread at the very end: closes what tasks left open.
    void atEnd(std::function<void()> last) { last_ = std::move(last); }

signals:
    void changed();                                // begun or ended
    void progressed(double fraction, QString step); // below 0: ended
    void said(QString text, int severity);

private:
    bool busy_ = false;
    std::stop_source stop_;
    std::function<void()> last_;
    std::unique_ptr<QThread> thread_; // a QThread with its loop: serial lines and processes need one
    std::unique_ptr<QObject> runner_; // lives there
};

} // namespace yokai
