#include "outline/edge.h"

#include <algorithm>

namespace yokai {

Edge::Edge(const Contours& contours)
{
    std::size_t total = 0;
    for (const Contour& c : contours)
        total += c.points.size();
    points.reserve(total);
    contour.reserve(total);
    corner.reserve(total);
    for (const Contour& c : contours) {
        const int first = int(points.size()), n = int(c.points.size());
        points.insert(points.end(), c.points.begin(), c.points.end());
        contour.insert(contour.end(), std::size_t(n), int(ranges.size()));
        ranges.push_back({first, first + n});
        if (c.corners.empty())
            corner.insert(corner.end(), std::size_t(n), 0);
        else
            corner.insert(corner.end(), c.corners.begin(), c.corners.end());
        for (const Point p : c.points)
            box.add(p);
    }
}

void walk(const Edge& edge, Point p, int start, Nearest& best)
{
    const Point* points = edge.points.data();
    const auto [first, end] = edge.rangeOf(start);
    const auto next = [first = first, end = end](int k) { return k + 1 == end ? first : k + 1; };
    const auto before = [first = first, end = end](int k) { return k == first ? end - 1 : k - 1; };
    const auto squaredTo = [&](int v) {
        const Point d = points[v] - p;
        return dot(d, d);
    };
    int v = start;
    double d = squaredTo(v);
    const auto seek = [&](auto on) {
        int misses = 0;
        for (int k = on(start); misses < 3 && k != start; k = on(k)) {
            const double dk = squaredTo(k);
            if (dk < d) {
                d = dk;
                v = k;
                misses = 0;
            } else {
                ++misses;
            }
        }
    };
    seek(next);
    seek(before);
    // The nearest point lies on one of the two segments at v, or is v.
    const Point a = points[v];
    if (d < best.squared)
        best = {v, -1, a, d};
    for (const int k : {next(v), before(v)}) {
        const Point dir = points[k] - a;
        const double along = dot(p - a, dir), whole = dot(dir, dir);
        if (along <= 0 || along >= whole)
            continue;
        const Point q = a + dir * (along / whole);
        const double dq = dot(p - q, p - q);
        if (dq < best.squared)
            best = {v, k, q, dq};
    }
}

bool within(const Edge& edge, Point p, const Nearest& nearest)
{
    const Point v = edge.points[std::size_t(nearest.vertex)];
    const int next = edge.next(nearest.vertex), before = edge.before(nearest.vertex);
    const Point out = edge.points[std::size_t(next)] - v, in = v - edge.points[std::size_t(before)];
    const Point along = nearest.other < 0 ? unit(in) + unit(out) : nearest.other == next ? out : in;
    // The shape lies on the right of its edge, as drawn with y down.
    return dot(p - nearest.at, {along.y, -along.x}) < 0;
}

} // namespace yokai
