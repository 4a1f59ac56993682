// The order in which a plan without a machine cuts items.
#pragma once

#include "machine/plan.h"

#include <utility>

namespace yokai::test {

inline CutItems inCuttingOrder(const CutItems& items, double width = 210, double height = 297)
{
    CutItems out;
    int last = -1;
    for (const ToolRun& run : planOf(items, width, height, PlanSpec{}).runs)
        if (run.item != std::exchange(last, run.item))
            out.push_back(items[std::size_t(run.item)]);
    return out;
}

} // namespace yokai::test
