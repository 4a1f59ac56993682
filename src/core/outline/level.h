// The way of a level line through the lattice: its loops, roughly placed, joined up as they
// truly are. Private to the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "outline/lattice.h"

namespace yokai {

// Each point within about a step of where it belongs; outlines run as contours do.
std::vector<Polyline> levelLoops(const Edge& edge, const Lattice& lattice, double offset, const Work& work);

} // namespace yokai
