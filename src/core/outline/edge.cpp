#include "outline/edge.h"

#include <algorithm>

namespace yokai {

Edge::Edge(const Contours& contours)
{
    std::size_t total = 0;
    for (const Contour& c : contours)
        total += c.points.size();
    points.reserve(total);
    next.reserve(total);
    before.reserve(total);
    corner.reserve(total);
    for (const Contour& c : contours) {
        const int first = int(points.size()), n = int(c.points.size());
        for (int i = 0; i < n; ++i) {
            points.push_back(c.points[std::size_t(i)]);
            next.push_back(first + around(i + 1, n));
            before.push_back(first + around(i - 1, n));
            corner.push_back(c.corners.empty() ? 0 : c.corners[std::size_t(i)]);
            box.add(c.points[std::size_t(i)]);
        }
    }
}

void walk(const Edge& edge, Point p, int start, Nearest& best)
{
    const auto squaredTo = [&](int v) {
        const Point d = edge.points[std::size_t(v)] - p;
        return dot(d, d);
    };
    int v = start;
    double d = squaredTo(v);
    for (const bool forward : {true, false}) {
        int misses = 0;
        for (int k = start; misses < 3;) {
            k = forward ? edge.next[std::size_t(k)] : edge.before[std::size_t(k)];
            if (k == start)
                break;
            const double dk = squaredTo(k);
            if (dk < d) {
                d = dk;
                v = k;
                misses = 0;
            } else {
                ++misses;
            }
        }
    }
    // The nearest point lies on one of the two segments at v, or is v.
    const Point a = edge.points[std::size_t(v)];
    if (d < best.squared)
        best = {v, -1, a, d};
    for (const int k : {edge.next[std::size_t(v)], edge.before[std::size_t(v)]}) {
        const Point dir = edge.points[std::size_t(k)] - a;
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
    const int next = edge.next[std::size_t(nearest.vertex)], before = edge.before[std::size_t(nearest.vertex)];
    const Point out = edge.points[std::size_t(next)] - v, in = v - edge.points[std::size_t(before)];
    const Point along = nearest.other < 0 ? unit(in) + unit(out) : nearest.other == next ? out : in;
    // The shape lies on the right of its edge, as drawn with y down.
    return dot(p - nearest.at, {along.y, -along.x}) < 0;
}

} // namespace yokai
