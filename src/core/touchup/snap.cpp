#include "touchup/snap.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace yokai {

namespace {

Point footOn(const StraightGuide& guide, Point p)
{
    const Point along = guide.b - guide.a;
    const double squared = dot(along, along);
    return squared > 0 ? guide.a + along * (dot(p - guide.a, along) / squared) : guide.a;
}

std::optional<Point> crossingOf(const StraightGuide& a, const StraightGuide& b)
{
    const Point u = a.b - a.a, v = b.b - b.a;
    const double det = cross(u, v);
    constexpr double parallel = 1e-9;
    if (std::abs(det) < parallel * norm(u) * norm(v))
        return std::nullopt;
    return a.a + u * (cross(b.a - a.a, v) / det);
}

// Level, upright, along and across the leg before, from where it goes on.
std::vector<StraightGuide> rightAngles(const SnapGround& ground)
{
    std::vector<StraightGuide> out;
    if (!ground.from)
        return out;
    const Point from = *ground.from;
    out.push_back({from, from + Point{1, 0}});
    out.push_back({from, from + Point{0, 1}});
    if (ground.before)
        if (const Point leg = from - *ground.before; norm(leg) > 0) {
            out.push_back({from, from + leg});
            out.push_back({from, from + Point{-leg.y, leg.x}});
        }
    return out;
}

class Nearest {
public:
    Nearest(Point p, double reach) : p_(p), least_(reach) {}
    void offer(Point at)
    {
        if (const double away = distance(at, p_); away <= least_) {
            least_ = away;
            best_ = at;
        }
    }
    std::optional<Point> best() const { return best_; }

private:
    Point p_;
    double least_;
    std::optional<Point> best_;
};

} // namespace

Snapped snapped(Point p, const SnapGround& ground, double reach)
{
    Nearest nodes(p, reach), crossings(p, reach), guides(p, reach), edges(p, reach), angles(p, reach);
    const auto moves = [&](Point at) { return std::find(ground.but.begin(), ground.but.end(), at) != ground.but.end(); };
    for (const Paths* paths : ground.lines) {
        for (const Path& path : *paths) {
            if (!path.closed && !moves(path.start))
                nodes.offer(path.start);
            for (const Segment& s : path.segments)
                if (!moves(s.end))
                    nodes.offer(s.end);
        }
    }
    if (nodes.best())
        return {*nodes.best(), SnapTo::Node};
    const std::vector<StraightGuide> right = rightAngles(ground);
    for (std::size_t k = 0; k < ground.guides.size(); ++k) {
        guides.offer(footOn(ground.guides[k], p));
        for (std::size_t other = k + 1; other < ground.guides.size(); ++other)
            if (const auto at = crossingOf(ground.guides[k], ground.guides[other]))
                crossings.offer(*at);
        for (const StraightGuide& angle : right)
            if (const auto at = crossingOf(ground.guides[k], angle))
                crossings.offer(*at);
    }
    for (const StraightGuide& angle : right)
        angles.offer(footOn(angle, p));
    if (crossings.best())
        return {*crossings.best(), SnapTo::Crossing};
    if (guides.best())
        return {*guides.best(), SnapTo::Guide};
    if (ground.but.empty()) // a line that is being moved draws nothing to itself
        for (const Paths* paths : ground.lines)
            if (const auto near = nearestPlace(*paths, p))
                edges.offer(near->at);
    if (const Rect& r = ground.picture; !r.empty())
        for (const auto& [a, b] : {std::pair(Point{r.x0, r.y0}, Point{r.x1, r.y0}), {{r.x1, r.y0}, {r.x1, r.y1}}, {{r.x1, r.y1}, {r.x0, r.y1}}, {{r.x0, r.y1}, {r.x0, r.y0}}}) {
            const Point way = b - a;
            edges.offer(a + way * std::clamp(dot(p - a, way) / dot(way, way), 0.0, 1.0));
        }
    if (edges.best())
        return {*edges.best(), SnapTo::Edge};
    if (angles.best())
        return {*angles.best(), SnapTo::RightAngle};
    return {p, SnapTo::Nothing};
}

} // namespace yokai
