#include "desk/history.h"

#include "job/weight.h"

#include <algorithm>
#include <set>

namespace yokai {

bool History::edit(const QString& what, const std::function<void(Job&)>& change, const QString& key)
{
    Job next = job_;
    change(next);
    giveIds(next);
    if (next == job_)
        return false;
    const bool joins = runOpen_ && !key.isEmpty() && !undo_.empty() && undo_.back().key == key;
    if (!joins) {
        undo_.push_back({job_, revision_, what, key, weightOf(job_)});
        steps_ += undo_.back().weight;
    }
    for (const Step& step : redo_)
        steps_ -= step.weight;
    redo_.clear();
    runOpen_ = !key.isEmpty();
    job_ = std::move(next);
    revision_ = fresh();
    if (!joins)
        lighten();
    return true;
}

// A picture of jobs long gone weighs most.
std::size_t History::oldPictures() const
{
    std::set<const Bytes*> seen;
    std::size_t bytes = 0;
    for (const Piece& piece : job_.pieces)
        seen.insert(piece.artwork.picture.bytes.get());
    for (const Steps* steps : {&undo_, &redo_})
        for (const Step& step : *steps)
            for (const Piece& piece : step.job.pieces)
                if (const SharedBytes& picture = piece.artwork.picture.bytes; picture && seen.insert(picture.get()).second)
                    bytes += picture->size();
    return bytes;
}

std::size_t History::weight() const { return steps_ + oldPictures(); }

// One step back there always is.
void History::lighten()
{
    const auto& before = undo_.back().job.pieces;
    const bool pictures = !std::equal(before.begin(), before.end(), job_.pieces.begin(), job_.pieces.end(),
                                      [](const Piece& a, const Piece& b) { return a.artwork.picture.bytes == b.artwork.picture.bytes; }); // looking at all is slow
    while (undo_.size() > 1 && (steps_ > mostWeight || (pictures && weight() > mostWeight))) {
        steps_ -= undo_.front().weight;
        undo_.pop_front();
    }
}

void History::start(Job job)
{
    giveIds(job);
    job_ = std::move(job);
    revision_ = fresh();
    undo_.clear();
    redo_.clear();
    steps_ = 0;
    runOpen_ = false;
}

bool History::travel(Steps& from, Steps& to)
{
    if (from.empty())
        return false;
    Step step = std::move(from.back());
    from.pop_back();
    steps_ -= step.weight;
    const std::size_t weight = weightOf(job_);
    steps_ += weight;
    to.push_back({std::move(job_), revision_, step.what, {}, weight});
    job_ = std::move(step.job);
    revision_ = step.revision;
    runOpen_ = false;
    return true;
}

} // namespace yokai
