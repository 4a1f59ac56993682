// Squares of 6 mm, each a path of its own, twenty to a row, on a bed of 300 by 300 mm.
#pragma once

#include "formats/program/program.h"

namespace yokai::test {

inline Machine machineToCut(bool byHeight)
{
    Machine machine;
    machine.kind = byHeight ? MachineKind::Cutter : MachineKind::Laser;
    machine.tool.by = byHeight ? ToolBy::Height : ToolBy::Spindle;
    machine.tool.up = 3_mm;
    machine.tool.down = -(1_mm);
    return machine;
}

inline Plan squaresToCut(const Machine& machine, int count = 20)
{
    CutItems items;
    for (int k = 0; k < count; ++k) {
        CutItem item;
        item.copy = k;
        const double x = 5 + 9.0 * (k % 20), y = 5 + 9.0 * (k / 20);
        item.path = polygonPath(Polyline{{x, y}, {x + 6, y}, {x + 6, y + 6}, {x, y + 6}});
        items.push_back(std::move(item));
    }
    PlanSpec spec;
    spec.machine = machine;
    return planOf(items, 200, 200, spec);
}

} // namespace yokai::test
