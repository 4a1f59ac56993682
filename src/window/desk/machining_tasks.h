// What the parts of the machining room share: what a task takes with it, and what it reaches.
#pragma once

#include "desk/desk.h"
#include "desk/machining.h"

namespace yokai {

// With where the tool truly goes, to be drawn.
std::shared_ptr<const Planned> drawn(Plan plan, const std::optional<Fit>& fit);

// What a task takes with it.
struct Machining::Asked {
    std::shared_ptr<const Shown> shown; // none: the machine alone is meant
    CutSpec cut;
    int sheet = 0;
    QString port; // empty: the stand-in
    bool freshSheet = false;
    std::optional<Fit> fit;
    std::vector<MarkPair> marks;
    std::string name; // of the job
    Machine machine() const { return cut.plan.machine.value_or(Machine{}); }
};

// On the line's thread.
struct Machining::There {
    std::unique_ptr<TestBed> bed;
    std::unique_ptr<MachineLine> line;
    Job laid; // what the stand-in's sheet was printed for,
    int sheet = 0;
    CutOrder order; // of the sheet that is asked about

    MachineLine& reach(const Asked& asked, const Work& work, const std::function<void(BedPicture)>& seen);
    void close()
    {
        line.reset();
        bed.reset();
    }
};

} // namespace yokai
