// Bodies packed onto sheets by their true shapes: first places on a raster, then one more body at
// a time pressed in among the others, or the sheet made shorter, and the crowd separated again.
//
// The work is counted in places looked at, not in time: the same asked with the same seed gives the same
// sheets, on a fast machine sooner; only one so slow that it would take half as long again ends earlier. Unit: mm on the sheet, y down.
#pragma once

#include "sheet/nest/crowd.h"

#include <functional>
#include <optional>

namespace yokai::nesting {

struct Ask {
    const Body* body = nullptr;
    std::optional<int> copies; // absent: as many as fit
    int share = 1;             // of those that fit, beside the others'
};

struct Settled {
    int what = 0; // of the asked
    int sheet = 0;
    Pose pose;
};

struct Nesting {
    Rules rules;
    double gap = 0;
    std::vector<std::vector<Member>> there; // on each sheet before: clear zones and what a hand put there; the last counts for all after
    std::vector<Ask> asks;
    double seconds = 5; // of a machine of two processors as of 2020
    std::uint64_t seed = 1;
    int mostSheets = 1000;
};

// `better` is told each time there is something better to see. `enough` asks to end with what there is;
// `work` throws Cancelled. Bodies that fit no empty sheet are left out.
std::vector<Settled> nest(const Nesting& in, const Work& work = {}, const std::function<void(const std::vector<Settled>&)>& better = {},
                          const std::function<bool()>& enough = {});

} // namespace yokai::nesting
