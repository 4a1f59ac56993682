// Where what stays between two stretches of a line's paths, or what falls out between them, is narrow.
//
// A narrow stretch is one along which the largest balls that fit between its sides, which face each
// other to within a fifth of a right angle or so, are smaller than the limit: the medial axis, found
// place by place. It counts where the sides come nearest to each other, as in a neck or a strip, or
// where they run to a point so slowly that a long stretch is narrow. What merely runs to a point is a
// corner.
//
// Unit: mm.
#pragma once

#include "check/trace.h"

namespace yokai {

// One fault for each narrow stretch, whose value is its width: the least, or of what runs to a
// point the middle one.
Faults narrowPlaces(const Trace& trace, Facing side, double limit);

// The middles of the narrow stretch that is nearest to a place: runs of the centres of those balls. None where nothing is narrow.
std::vector<Polyline> narrowMiddles(const Trace& trace, Facing side, double limit, Point at);

} // namespace yokai
