#include "desk/worker.h"

#include "words.h"

namespace yokai {

DeriveWorker::DeriveWorker(QObject* parent) : QObject(parent), thread_([this] { run(); }) {}

DeriveWorker::~DeriveWorker()
{
    const std::scoped_lock lock(mutex_);
    quit_ = true;
    waiting_.reset();
    current_.request_stop();
    wake_.notify_all();
}

quint64 DeriveWorker::request(Job job, Revision revision, PieceId uncropped, bool live, bool nests)
{
    auto asked = std::make_shared<Shown>();
    asked->job = std::move(job);
    asked->revision = revision;
    asked->uncropped = uncropped;
    const std::scoped_lock lock(mutex_);
    waiting_ = std::move(asked);
    nests_ = nests;
    if (running_ && (!live || nesting_)) // of a nesting there is something to see already
        current_.request_stop();
    wake_.notify_all();
    return ++requests_;
}

void DeriveWorker::stop()
{
    const std::scoped_lock lock(mutex_);
    const bool onlyWaited = waiting_ && !running_;
    waiting_.reset();
    if (nesting_)
        enough_ = true;
    else
        current_.request_stop();
    if (onlyWaited)
        emit idle(requests_);
}

std::shared_ptr<const Shown> DeriveWorker::take()
{
    const std::scoped_lock lock(mutex_);
    return std::move(ready_);
}

void DeriveWorker::hand(std::shared_ptr<const Shown> shown)
{
    {
        const std::scoped_lock lock(mutex_);
        ready_ = std::move(shown);
    }
    emit finished();
}

void DeriveWorker::derive(Shown& shown, bool nests, const Work& work)
{
    Watch watch{nests, {}, [this] { return enough_.load(); }};
    watch.better = [&](const Derived& better) {
        auto seen = std::make_shared<Shown>();
        seen->job = shown.job;
        seen->revision = shown.revision;
        seen->uncropped = shown.uncropped;
        seen->nesting = true;
        seen->derived = better;
        look(*seen, work);
        hand(std::move(seen));
        nesting_ = true;
    };
    struct Ended {
        std::atomic<bool>&nesting, &enough;
        ~Ended() { nesting = enough = false; }
    } const ended{nesting_, enough_};
    shown.derived = yokai::derive(shown.job, cache_, work, Want::All, watch);
    look(shown, work);
}

void DeriveWorker::look(Shown& shown, const Work& work)
{
    for (const PieceResult& piece : shown.derived.pieces)
        shown.pictures.push_back(pictures_.of(piece, lookOf(shown.job.cut.plan), work));
    pictures_.forgetOthers();
    for (const PieceResult& piece : shown.derived.pieces) {
        std::vector<std::shared_ptr<const HitIndex>>& hits = shown.hits.emplace_back();
        for (const LayerResult& layer : piece.layers)
            hits.push_back(std::make_shared<const HitIndex>(piece, layer, work));
    }
}

const HitIndex* Shown::hit(std::size_t piece, LayerId layer) const
{
    const auto& layers = derived.pieces[piece].layers;
    for (std::size_t k = 0; k < layers.size(); ++k)
        if (layers[k].id == layer)
            return hits[piece][k].get();
    return nullptr;
}

bool Shown::covers(std::size_t piece, Point at) const
{
    return std::any_of(hits[piece].begin(), hits[piece].end(), [at](const auto& hit) { return hit->covers(at); });
}

void DeriveWorker::run()
{
    for (;;) {
        std::shared_ptr<Shown> shown;
        Work work;
        quint64 number = 0;
        bool nests = false;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [&] { return quit_ || waiting_; });
            // Locked again: the thread sanitizer sees none of what a condition variable does for itself.
            lock.unlock();
            lock.lock();
            if (quit_)
                return;
            if (!waiting_) // stopped in between
                continue;
            shown = std::move(waiting_);
            waiting_.reset();
            number = requests_;
            current_ = std::stop_source();
            work.stop = current_.get_token();
            nests = nests_;
            running_ = true;
        }
        work.progress = [this](double fraction, std::string_view step) { emit progressed(fraction, QString::fromUtf8(step.data(), qsizetype(step.size()))); };
        try {
            try {
                derive(*shown, nests, work);
                hand(std::move(shown));
            } catch (...) {
                rethrowAsError(ErrorKind::Input, "this job");
            }
        } catch (const Cancelled&) {
            // A newer job is waiting, or the maker pressed stop: the last result stays on screen.
        } catch (const Error& e) {
            emit failed(words(e));
        }
        bool nothingWaits = false;
        {
            const std::scoped_lock lock(mutex_);
            running_ = false;
            nothingWaits = !waiting_;
            if (nothingWaits)
                number = requests_;
        }
        if (nothingWaits)
            emit idle(number);
    }
}

} // namespace yokai
