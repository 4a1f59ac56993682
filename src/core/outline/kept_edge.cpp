#include "outline/kept_edge.h"

#include <algorithm>
#include <cmath>

namespace yokai {

KeptEdge::KeptEdge(const Contours& contours, double pxPerMm) : pxPerMm_(pxPerMm)
{
    Rect box = Rect::nothing();
    for (const Contour& c : contours)
        box.add(bounds(c.points));
    if (!(box.y0 <= box.y1))
        return;
    top_ = box.y0;
    rows_.resize(std::size_t(box.height()) + 1);
    for (const Contour& c : contours)
        for (std::size_t k = 0; k < c.points.size(); ++k) {
            const Side side{c.points[k], c.points[k + 1 == c.points.size() ? 0 : k + 1]};
            for (int row = rowOf(std::min(side.from.y, side.to.y)); row <= rowOf(std::max(side.from.y, side.to.y)); ++row)
                rows_[std::size_t(row)].push_back(side);
        }
}

int KeptEdge::rowOf(double y) const { return std::clamp(int(std::floor(y - top_)), 0, int(rows_.size()) - 1); }

KeptEdge::Nearest KeptEdge::nearest(Point mm) const
{
    const Point p = mm * pxPerMm_;
    if (rows_.empty())
        return {std::numeric_limits<double>::infinity(), mm, {0, -1}};
    const int own = rowOf(p.y);
    bool inside = false;
    if (p.y >= top_ && p.y <= top_ + double(rows_.size()))
        for (const Side& s : rows_[std::size_t(own)])
            if ((s.from.y > p.y) != (s.to.y > p.y) && p.x < s.from.x + (p.y - s.from.y) / (s.to.y - s.from.y) * (s.to.x - s.from.x))
                inside = !inside;
    double nearest = std::numeric_limits<double>::infinity(); // squared
    Point at, along;
    const auto look = [&](int row) {
        for (const Side& s : rows_[std::size_t(row)]) {
            const Point d = s.to - s.from;
            const double squared = dot(d, d), t = squared > 0 ? std::clamp(dot(p - s.from, d) / squared, 0.0, 1.0) : 0;
            const Point foot = s.from + d * t, way = p - foot;
            if (dot(way, way) < nearest) {
                nearest = dot(way, way);
                at = foot;
                along = d;
            }
        }
    };
    // Row by row, as long as one may hold what is nearer.
    for (int row = own; row < int(rows_.size()) && (row == own || (row + top_ - p.y) * (row + top_ - p.y) < nearest || row + top_ < p.y); ++row)
        look(row);
    for (int row = own - 1; row >= 0 && ((p.y - (row + 1 + top_)) * (p.y - (row + 1 + top_)) < nearest || p.y < row + 1 + top_); --row)
        look(row);
    const double away = std::sqrt(nearest);
    // On the edge itself its own direction tells; off it, the way to it.
    constexpr double off = 1e-6; // px
    const Point out = away > off ? (p - at) * ((inside ? -1 : 1) / away) : unit({along.y, -along.x});
    return {(inside ? -away : away) / pxPerMm_, at * (1 / pxPerMm_), out};
}

} // namespace yokai
