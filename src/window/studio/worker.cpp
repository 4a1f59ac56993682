#include "studio/worker.h"

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

quint64 DeriveWorker::request(const Job& job, bool live)
{
    const std::scoped_lock lock(mutex_);
    waiting_ = job;
    const auto ran = std::chrono::steady_clock::now() - began_;
    if (running_ && (!live || ran > std::chrono::milliseconds(400)))
        current_.request_stop();
    wake_.notify_all();
    return ++requests_;
}

void DeriveWorker::stop()
{
    const std::scoped_lock lock(mutex_);
    waiting_.reset();
    current_.request_stop();
}

void DeriveWorker::run()
{
    for (;;) {
        auto shown = std::make_shared<Shown>();
        Work work;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [&] { return quit_ || waiting_; });
            if (quit_)
                return;
            shown->job = std::move(*waiting_);
            waiting_.reset();
            current_ = std::stop_source();
            work.stop = current_.get_token();
            running_ = true;
            began_ = std::chrono::steady_clock::now();
        }
        work.progress = [this](double fraction, std::string_view step) { emit progressed(fraction, QString::fromUtf8(step.data(), qsizetype(step.size()))); };
        try {
            shown->derived = derive(shown->job, cache_, work);
            for (const PieceResult& piece : shown->derived.pieces)
                shown->pictures.push_back(pictures_.of(piece, work));
            pictures_.forgetOthers();
            emit finished(shown);
        } catch (const Cancelled&) {
            // A newer job is waiting, or the maker pressed stop: the last result stays on screen.
        } catch (const std::bad_alloc&) {
            emit progressed(-1, tr("There is not enough memory for this job; close other programs or use smaller pictures."));
        }
        bool nothingWaits = false;
        quint64 last = 0;
        {
            const std::scoped_lock lock(mutex_);
            running_ = false;
            nothingWaits = !waiting_;
            last = requests_;
        }
        if (nothingWaits)
            emit idle(last);
    }
}

} // namespace yokai
