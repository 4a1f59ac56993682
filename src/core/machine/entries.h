// Where a closed line may be begun. A beam begins at a corner, where the mark it leaves does not show; a blade on a smooth or
// straight stretch, where it lies in its heading and needs no turn.
//
// Unit: mm.
#pragma once

#include "path/path.h"

#include <vector>

namespace yokai {

struct Entries {
    Path path;                       // the same line, with a node wherever it may be begun
    std::vector<std::size_t> starts; // segments of it at whose ends that is; at most 16, spread along it
};

// Corners of more than 20 degrees; of a line that has none, any node.
Entries cornerEntries(const Path& path);
// Places at least `clear` along the line from any corner; where no stretch is so long, those farthest from one.
Entries smoothEntries(const Path& path, double clear);

Path begunAfter(const Path& path, std::size_t segment); // begun at the end of that segment

} // namespace yokai
