// The job as it is, the jobs before it and those taken back.
//
// Each job bears a revision, a number that is never used twice. Results, saves, hand-offs
// and cuts remember theirs; whether one is current, saved or stale is a comparison.
#pragma once

#include "job/job.h"

#include <QString>

#include <deque>
#include <functional>

namespace yokai {

using Revision = quint64;

class History {
public:
    const Job& job() const { return job_; }
    Revision revision() const { return revision_; }

    // Edits with the same non-empty key that follow each other are one step until settle()
    // or another edit ends the run. An edit that changes nothing is none.
    bool edit(const QString& what, const std::function<void(Job&)>& change, const QString& key = {});
    void settle() { runOpen_ = false; }
    void start(Job job); // a new job, with no past
    Revision fresh() { return ++last_; } // for a job that is only tried out

    bool canUndo() const { return !undo_.empty(); }
    bool canRedo() const { return !redo_.empty(); }
    QString undoText() const { return undo_.empty() ? QString() : undo_.back().what; }
    QString redoText() const { return redo_.empty() ? QString() : redo_.back().what; }
    // Bytes that the jobs before and after this one hold, with those of pictures that this one has no more.
    std::size_t weight() const;
    static constexpr std::size_t mostWeight = std::size_t(300) << 20; // over which the oldest go

    bool undo() { return travel(undo_, redo_); }
    bool redo() { return travel(redo_, undo_); }

private:
    struct Step {
        Job job;
        Revision revision;
        QString what, key;
        std::size_t weight;
    };
    using Steps = std::deque<Step>;
    bool travel(Steps& from, Steps& to);
    void lighten();
    std::size_t oldPictures() const;

    Job job_;
    Revision revision_ = 0, last_ = 0;
    Steps undo_, redo_;
    std::size_t steps_ = 0; // what both weigh, without pictures
    bool runOpen_ = false; // further edits with the same key join the last step
};

} // namespace yokai
