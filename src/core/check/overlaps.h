// Where paths cross, lie on each other or run close beside each other.
//
// Unit: mm.
#pragma once

#include "check/faults.h"

namespace yokai {

struct Overlaps {
    Faults crossings; // value 0; those nearer to each other than a tenth of a mm are one
    Faults doubled;   // a stretch that lies on another: its length
    Faults close;     // a stretch beside another line's: the least distance
};
inline void owned(const Overlaps& o, Owns& out)
{
    for (const Faults* faults : {&o.crossings, &o.doubled, &o.close})
        owned(*faults, out);
}

// `line`: of each path, which line it belongs to; `gap`: how close two lines may come.
Overlaps overlapsOf(const PathSet& paths, const std::vector<int>& line, double gap);

} // namespace yokai
