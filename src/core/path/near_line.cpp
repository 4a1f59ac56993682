#include "path/near_line.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

constexpr double cell = 1;

} // namespace

Point NearLine::Stretch::nearest(Point p) const
{
    const Point d = to - from;
    return from + d * std::clamp(dot(p - from, d) / std::max(1e-18, dot(d, d)), 0.0, 1.0);
}

NearLine::Cell NearLine::cellOf(Point p) { return {int(std::floor(p.x / cell)), int(std::floor(p.y / cell))}; }

NearLine::NearLine(std::span<const Polyline> lines)
{
    for (const Polyline& line : lines)
        for (std::size_t k = 0; k + 1 < line.size(); ++k) {
            const int steps = int(distance(line[k], line[k + 1]) / cell) + 1;
            for (int s = 0; s <= steps; ++s)
                if (auto& in = cells_[cellOf(mix(line[k], line[k + 1], double(s) / steps))]; in.empty() || in.back() != stretches_.size())
                    in.push_back(stretches_.size());
            stretches_.push_back({line[k], line[k + 1]});
        }
}

std::optional<Point> NearLine::near(Point p) const
{
    const auto [x, y] = cellOf(p);
    std::optional<Point> best;
    for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx)
            if (const auto found = cells_.find({x + dx, y + dy}); found != cells_.end())
                for (const std::size_t k : found->second)
                    if (const Point q = stretches_[k].nearest(p); !best || distance(p, q) < distance(p, *best))
                        best = q;
    return best;
}

Point NearLine::to(Point p) const
{
    if (const auto close = near(p))
        return *close;
    Point best = stretches_.empty() ? p : stretches_.front().from;
    for (const Stretch& s : stretches_)
        if (const Point q = s.nearest(p); distance(p, q) < distance(p, best))
            best = q;
    return best;
}

} // namespace yokai
