// A test patch: a small grid of squares, each cut at a speed and a power (or force) of its own, with both written beside it. The square
// that came out right says what the material wants.
//
// Unit: mm on the patch, (0, 0) its top-left corner, y down.
#pragma once

#include "machine/cut_item.h"
#include "machine/plan_spec.h"

namespace yokai {

struct PatchSpec {
    Process process = Process::Through;
    Speed slowest = Speed::mmPerSecond(10), fastest = Speed::mmPerSecond(50); // across, from left to right
    double least = 40, most = 200;                                            // percent or gram, downwards
    int columns = 5, rows = 5;
    Length square = 6_mm, gap = 3_mm;
    bool operator==(const PatchSpec&) const = default;
};

struct Patch {
    double width = 0, height = 0;
    CutItems items;
    std::vector<OperationStep> operations;      // one for the labels, then one a square
    std::vector<ProcessSettings> settings;      // a square each, row by row
    std::vector<Rect> squares;                  // where each lies
};

// For a machine of that kind, from what the material has; nothing of either is changed. Throws Error(Usage) for a grid that is none.
Patch patchOf(const PatchSpec& spec, MachineKind kind, const Material& material);

} // namespace yokai
