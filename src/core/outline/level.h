// The way of a level line through the lattice: its loops, roughly placed, joined up as they
// truly are. Private to the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "outline/meetings.h"

#include <unordered_map>

namespace yokai {

// Cells of the lattice, by Lattice::index, in which three stretches of the edge or more are met
// at the line: a point on each. The cell's corners alone may tell of two.
using Spots = std::unordered_map<std::size_t, std::vector<int>>;

struct Level {
    std::vector<Polyline> loops; // each point within about a step of where it belongs; outlines run as contours do
    Spots spots;
};

Level levelOf(const Edge& edge, const Lattice& lattice, const Meetings& meetings, double offset, const Work& work);

} // namespace yokai
