// What is done to single nodes of a closed path: each gives the stretch that takes the place of what ran between
// two other nodes, so that an edit can hold it.
//
// Unit: mm. Segment k of a path ends at node k.
#pragma once

#include "path/cut.h"

#include <optional>

namespace yokai {

struct Redrawn {
    PathPlace from, to; // nodes of the path, in its order
    Path stretch;       // open, from the one to the other
};

// None of a path that has too few nodes for it.
std::optional<Redrawn> nodeMoved(const Path& path, std::size_t node, Point by); // with its handles
// One curve for the two, which leaves the neighbours as it meets them and comes as near to what was as it can.
std::optional<Redrawn> nodeTaken(const Path& path, std::size_t node);
std::optional<Redrawn> nodeAdded(const Path& path, const PathPlace& at); // the shape stays
std::optional<Redrawn> segmentStraight(const Path& path, std::size_t segment);
std::optional<Redrawn> nodeSmooth(const Path& path, std::size_t node); // its handles in one line

} // namespace yokai
