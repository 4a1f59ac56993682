// A sheet on a machine's bed, cut: its marks found, the fit, the plan, the program streamed. Each by itself, and all in a row.
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
    std::function<void(const Fit&, std::size_t marks)> fitted; // may throw, and nothing is cut
    std::function<void(const Plan&)> planned;
    std::function<void(std::size_t runsDone)> run;
    std::function<void(Point at, MachineState state)> at; // mm on the bed
};

// The machine the order names, or one as large as the sheet that needs nothing.
Machine machineOf(const CutOrder& order);

// By the machine's own eye, where the sheet should lie. Throws as findByEye().
std::vector<MarkPair> marksByEye(const CutOrder& order, MachineLine& line, const CutWatch& watch, const Work& work);
// As the order has it, of marks that were measured. Throws Error(Fit) where they cannot be trusted.
Fit fitOf(const CutOrder& order, std::span<const MarkPair> marks);
// Throws Error(Reach) where the cut would leave the bed.
Plan planFor(const CutOrder& order, const std::optional<Fit>& fit, const Work& work);
// How a program is watched that counts in the machine's own way.
SerialMachine::Watch watchOf(const CutRun& run, const Machine& machine, const CutWatch& watch);

// Throws Error(Fit), Error(Reach), Error(Device), LinkLost, or Cancelled; the machine is then left with its tool up.
CutDone cutOnMachine(const CutOrder& order, const LinkSpec& link, CutControl& control, const CutWatch& watch, const Work& work);

} // namespace yokai
