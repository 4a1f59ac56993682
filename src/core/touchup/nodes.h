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

// Nodes that follow each other are moved or taken out together: one stretch a run of them. None of a path that
// has too few nodes left beside them.
using NodeSet = std::vector<std::size_t>; // rising
std::vector<Redrawn> nodesMoved(const Path& path, const NodeSet& nodes, Point by); // with their handles
// One curve for what is left of a run, which leaves the neighbours as it meets them and comes as near to what was as it can.
std::vector<Redrawn> nodesTaken(const Path& path, const NodeSet& nodes);
std::vector<Redrawn> nodesSmooth(const Path& path, const NodeSet& nodes); // their handles in one line
std::vector<Redrawn> nodesCorners(const Path& path, const NodeSet& nodes); // their handles towards their neighbours
// Of the curves and lines between nodes of the set that follow each other; of a single one, of those beside it.
std::vector<Redrawn> segmentsStraight(const Path& path, const NodeSet& nodes);
std::vector<Redrawn> segmentsCurved(const Path& path, const NodeSet& nodes);

std::optional<Redrawn> nodeAdded(const Path& path, const PathPlace& at); // the shape stays
// One of the two handles of a node put elsewhere. `pair`: the other stays in line with it.
enum class Handle { Before, After };
std::optional<Redrawn> handleMoved(const Path& path, std::size_t node, Handle which, Point to, bool pair);
Point handleOf(const Path& path, std::size_t node, Handle which);

} // namespace yokai
