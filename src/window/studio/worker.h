// The one thread that derives. It always works towards the newest job: a job that
// waits is replaced by a newer one, and a run that takes long is stopped for it.
#pragma once

#include "job/derive.h"
#include "studio/pictures.h"

#include <QObject>

#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace yokai {

// A derived job with what the screen needs of it, all immutable.
struct Shown {
    Job job;
    Derived derived;
    std::vector<PiecePicture> pictures; // one a piece
};

class DeriveWorker : public QObject {
    Q_OBJECT
public:
    explicit DeriveWorker(QObject* parent = nullptr);
    ~DeriveWorker() override;
    // `live`: one of many in a row (a slider); the run under way may finish first.
    // Gives the request's number; idle() tells the number of the last one worked on.
    quint64 request(const Job& job, bool live);
    void stop();

signals: // delivered on the receiver's thread
    void finished(std::shared_ptr<const yokai::Shown> shown);
    void progressed(double fraction, QString step);
    void idle(quint64 request);

private:
    void run();

    StepCache cache_;
    PictureCache pictures_;
    std::mutex mutex_;
    std::condition_variable wake_;
    std::optional<Job> waiting_;
    quint64 requests_ = 0;
    std::stop_source current_;
    bool running_ = false, quit_ = false;
    std::chrono::steady_clock::time_point began_;
    std::jthread thread_; // last: it uses all of the above
};

} // namespace yokai
