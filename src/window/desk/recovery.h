// Work that is not saved is kept all the same: a few seconds after a change, in a folder of this window's own. What a
// window left behind that did not come to its end is offered to the next.
#pragma once

#include "desk/desk.h"

#include <QImage>
#include <QLockFile>
#include <QTimer>

#include <thread>

namespace yokai {

// What was left behind.
struct LeftWork {
    QString folder;
    QString name; // of the job
    QString path; // where it was saved last; may be empty
    QString when; // in the locale's words
    QImage picture;
};

class Recovery : public QObject {
    Q_OBJECT
public:
    // Keeps at most so many seconds after a change.
    static constexpr int seconds = 4;
    explicit Recovery(Desk& desk, QObject* parent = nullptr);
    ~Recovery() override; // a window that comes to its end leaves nothing behind

    static std::vector<LeftWork> left(); // the newest first; none that a window is still at
    // Takes it up, as not saved; it stays where it is until it is saved or given up.
    void takeUp(const LeftWork& work);
    static void drop(const LeftWork& work);
    // What is not saved is kept now, and stays when this window has come to its end.
    void leave();

private:
    bool lock(const QString& folder);
    void keep();
    void clear();
    Desk& desk_;
    QTimer timer_;
    QString folder_;                  // empty: nothing is kept yet
    std::unique_ptr<QLockFile> lock_; // of the folder, while the window is there
    Revision kept_ = 0;
    bool writing_ = false, said_ = false, leaves_ = false;
    std::jthread thread_; // last: it writes to the folder
};

} // namespace yokai
