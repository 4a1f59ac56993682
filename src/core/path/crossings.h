// Where lines cross themselves and each other. Cut lines must not.
#pragma once

#include "path/path.h"

#include <span>
#include <vector>

namespace yokai {

struct SelfCrossing {
    int first = 0, second = 0; // segments: from point i to the next; first < second
    Point at;
};

// Some crossings of segments that are not neighbours, in the order of `first`; all
// of them when there are fewer than `most`. Touching counts. Takes time in
// proportion to the points for lines whose segments are of like length.
std::vector<SelfCrossing> selfCrossings(std::span<const Point> closed, std::size_t most = 64);

struct LineCrossing {
    int first = 0, second = 0; // lines, maybe the same
    Point at;
};

// Where several lines cross themselves and each other, as above.
std::vector<LineCrossing> crossingsAmong(std::span<const Polyline> lines, const std::vector<bool>& closed, std::size_t most = 1000);

// Cuts off the smaller of the two loops at each crossing; `tags` (one a point) go
// along, and a point put in gets the tag 1. Gives whether the line is now simple.
bool cutLoops(Polyline& closed, std::vector<unsigned char>& tags);

} // namespace yokai
