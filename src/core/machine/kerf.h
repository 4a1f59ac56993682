// Kerf: a beam takes away as much on either side of where it goes, so it goes beside the line, by half of it: outside
// of what is to stay, inside of what falls out. Corners stay corners.
//
// The line as arcs and straight lines, whose offsets are arcs and lines again, exactly. Where those run into one another beyond
// their neighbours: offsets of flattened curves by polyclipping (Vatti; mitred corners), fitted with curves again.
// Unit: mm.
#pragma once

#include "base/work.h"
#include "path/path.h"

namespace yokai {

// A closed path moved outwards (negative: inwards) by `by`, within `tolerance`, drawn in the same direction. None where it is
// narrower than that; several where it falls apart. Open paths, and moves by nothing, stay.
Paths movedAside(const Path& path, double by, double tolerance, const Work& work = {});

// What of a closed path is gone once it was moved aside: an opening narrower than the kerf, a notch or a neck that closes.
struct KerfLoss {
    Point at;         // in it
    double width = 0; // of it, mm
};
std::vector<KerfLoss> lostBeside(const Path& path, double by, double tolerance);

} // namespace yokai
