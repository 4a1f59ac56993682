// The nearest place of lines, by cells: for thousands of places to be compared with them.
//
// Unit: the caller's; cells of 1 suit mm.
#pragma once

#include "path/path.h"

#include <map>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace yokai {

class NearLine {
public:
    explicit NearLine(std::span<const Polyline> lines);
    // None farther off than about 1.
    std::optional<Point> near(Point p) const;
    Point to(Point p) const; // wherever it is

private:
    struct Stretch {
        Point from, to;
        Point nearest(Point p) const;
    };
    using Cell = std::pair<int, int>;
    static Cell cellOf(Point p);
    std::vector<Stretch> stretches_;
    std::map<Cell, std::vector<std::size_t>> cells_;
};

} // namespace yokai
