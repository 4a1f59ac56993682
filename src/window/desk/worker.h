// The one thread that derives. It always works towards the newest job: a job that waits
// is replaced by a newer one. While a gesture goes on the run under way may finish, so that
// something is seen of it however long a run takes; any other change stops it.
#pragma once

#include "desk/history.h"
#include "desk/pictures.h"
#include "job/derive.h"
#include "job/hit_index.h"

#include <QObject>

#include <atomic>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace yokai {

// A derived job with what the screen needs of it, all immutable.
struct Shown {
    Job job;
    Revision revision = 0;
    PieceId uncropped; // this piece is shown whole, not as the job has it
    bool nesting = false; // something better is still looked for
    Derived derived;
    std::vector<PiecePicture> pictures; // one a piece
    std::vector<std::vector<std::shared_ptr<const HitIndex>>> hits; // one a layer of each piece
    const HitIndex* hit(std::size_t piece, LayerId layer) const; // null where it is not there
    bool covers(std::size_t piece, Point at) const;              // whether a place is on any of its layers, mm
};

class DeriveWorker : public QObject {
    Q_OBJECT
public:
    explicit DeriveWorker(QObject* parent = nullptr);
    ~DeriveWorker() override;
    // `live`: one of many in a row (a slider). Gives the request's number; idle() tells the
    // number of the last one worked on.
    quint64 request(Job job, Revision revision, PieceId uncropped, bool live, bool nests);
    void stop(); // while nesting: with the best there is
    // The newest result; null where it was taken already.
    std::shared_ptr<const Shown> take();

signals:             // delivered on the receiver's thread
    void finished(); // there is something to take
    void progressed(double fraction, QString step);
    void failed(QString why);
    void idle(quint64 request);

private:
    void run();
    void derive(Shown& shown, bool nests, const Work& work);
    void hand(std::shared_ptr<const Shown> shown);
    void look(Shown& shown, const Work& work); // what the screen needs of what was derived

    StepCache cache_;
    PictureCache pictures_;
    std::mutex mutex_;
    std::condition_variable wake_;
    std::shared_ptr<Shown> waiting_;
    std::shared_ptr<const Shown> ready_;
    quint64 requests_ = 0;
    std::stop_source current_;
    bool running_ = false, quit_ = false, nests_ = false;
    std::atomic<bool> nesting_ = false, enough_ = false;
    std::jthread thread_; // last: it uses all of the above
};

} // namespace yokai
