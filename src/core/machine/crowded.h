// Where lines run, so that leads keep clear of them. Private to the machine room.
//
// Unit: mm.
#pragma once

#include "path/path.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <vector>

namespace yokai {

constexpr double leadClearance = 0.4; // mm: leads keep as far off other lines

// What no other line may be nearer to than leads are: points along all lines, by cells.
class Crowded {
public:
    void add(int item, const Path& path)
    {
        for (const Point p : densely(path))
            cells_[cellOf(p)].emplace_back(item, p);
    }
    bool clear(Point p, int item) const
    {
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx)
                if (const auto found = cells_.find({cellOf(p).first + dx, cellOf(p).second + dy}); found != cells_.end())
                    for (const auto& [other, q] : found->second)
                        if (other != item && distance(p, q) < leadClearance)
                            return false;
        return true;
    }

private:
    using Cell = std::pair<int, int>;
    static Cell cellOf(Point p) { return {int(std::floor(p.x / leadClearance)), int(std::floor(p.y / leadClearance))}; }
    static Polyline densely(const Path& path)
    {
        Polyline out;
        path.each([&](Point from, const Segment& s) {
            const int steps = std::clamp(int(distance(from, s.end) / (leadClearance / 2)) + (s.line ? 1 : 4), 1, 4000);
            for (int k = 0; k < steps; ++k)
                out.push_back(pointOn(from, s, double(k) / steps));
        });
        return out;
    }
    std::map<Cell, std::vector<std::pair<int, Point>>> cells_;
};

} // namespace yokai
