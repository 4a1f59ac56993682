#include "desk/history.h"

namespace yokai {

bool History::edit(const QString& what, const std::function<void(Job&)>& change, const QString& key)
{
    constexpr std::size_t mostSteps = 500;
    Job next = job_;
    change(next);
    giveIds(next);
    if (next == job_)
        return false;
    const bool joins = runOpen_ && !key.isEmpty() && !undo_.empty() && undo_.back().key == key;
    if (!joins)
        undo_.push_back({job_, revision_, what, key});
    if (undo_.size() > mostSteps)
        undo_.erase(undo_.begin());
    redo_.clear();
    runOpen_ = !key.isEmpty();
    job_ = std::move(next);
    revision_ = fresh();
    return true;
}

void History::start(Job job)
{
    giveIds(job);
    job_ = std::move(job);
    revision_ = fresh();
    undo_.clear();
    redo_.clear();
    runOpen_ = false;
}

bool History::travel(std::vector<Step>& from, std::vector<Step>& to)
{
    if (from.empty())
        return false;
    Step step = std::move(from.back());
    from.pop_back();
    to.push_back({std::move(job_), revision_, step.what, {}});
    job_ = std::move(step.job);
    revision_ = step.revision;
    runOpen_ = false;
    return true;
}

} // namespace yokai
