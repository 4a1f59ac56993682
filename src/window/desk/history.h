// The job as it is, the jobs before it and those taken back.
//
// Each job bears a revision, a number that is never used twice. Results, saves, hand-offs
// and cuts remember theirs; whether one is current, saved or stale is a comparison.
#pragma once

#include "job/job.h"

#include <QString>

#include <functional>
#include <vector>

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
    bool undo() { return travel(undo_, redo_); }
    bool redo() { return travel(redo_, undo_); }

private:
    struct Step {
        Job job;
        Revision revision;
        QString what, key;
    };
    bool travel(std::vector<Step>& from, std::vector<Step>& to);

    Job job_;
    Revision revision_ = 0, last_ = 0;
    std::vector<Step> undo_, redo_;
    bool runOpen_ = false; // further edits with the same key join the last step
};

} // namespace yokai
