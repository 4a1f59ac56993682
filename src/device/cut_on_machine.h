// A sheet on a machine's bed, cut: its marks found by the machine's eye, the fit, the plan, the program streamed.
#pragma once

#include "device/cut_run.h"
#include "formats/drawing.h"
#include "machine/plan.h"
#include "register/fit.h"

namespace yokai {

struct CutOrder {
    Drawing sheet; // its cuts, and its marks as they were printed
    CutSpec spec;  // machine, material, operations, fit
    bool findMarks = true;
    std::vector<MarkPair> marks;  // found otherwise; then the eye does not look
    std::filesystem::path record; // where to keep how far it got
};

struct CutDone {
    std::vector<MarkPair> marks; // designed on the sheet, measured on the bed, y up
    std::optional<Fit> fit;
    Plan plan;
    std::size_t runs = 0; // of the plan's, that were cut
};

struct CutWatch {
    std::function<void(const MarkPair&)> mark;
    std::function<void(const Plan&)> planned;
    std::function<void(std::size_t runsDone)> run;
    std::function<void(Point at, MachineState state)> at; // mm on the bed
};

// The machine the order names, or one as large as the sheet that needs nothing.
Machine machineOf(const CutOrder& order);

// Throws Error(Fit) where the marks cannot be trusted, Error(Device), LinkLost, or Cancelled; the machine is then left with its tool up.
// Error(Input) where the cut would leave the bed.
CutDone cutOnMachine(const CutOrder& order, const LinkSpec& link, CutControl& control, const CutWatch& watch, const Work& work);

} // namespace yokai
