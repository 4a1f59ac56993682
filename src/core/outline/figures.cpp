#include "outline/figures.h"

#include <numbers>
#include <random>

namespace yokai {

namespace {

// Curves for an arc of the unit circle: handles of 4/3 tan(angle / 4).
void addArc(Path& path, Point centre, double rx, double ry, double from, double to, int pieces)
{
    const double step = (to - from) / pieces, handle = 4.0 / 3 * std::tan(step / 4);
    for (int i = 0; i < pieces; ++i) {
        const double a = from + i * step, b = a + step;
        const Point pa{std::cos(a), std::sin(a)}, pb{std::cos(b), std::sin(b)};
        const auto put = [&](Point p) { return Point{centre.x + rx * p.x, centre.y + ry * p.y}; };
        path.curveTo(put({pa.x - handle * pa.y, pa.y + handle * pa.x}), put({pb.x + handle * pb.y, pb.y - handle * pb.x}), put(pb));
    }
}

bool holds(const Circle& c, Point p) { return distance(c.centre, p) <= c.radius * (1 + 1e-12) + 1e-12; }

Circle through(Point a, Point b) { return {mix(a, b, 0.5), distance(a, b) / 2}; }

Circle through(Point a, Point b, Point c)
{
    const Point u = b - a, v = c - a;
    const double d = 2 * cross(u, v);
    if (std::abs(d) < 1e-12 * (dot(u, u) + dot(v, v))) { // in a row: the farthest two
        Circle best = through(a, b);
        for (const Circle& other : {through(a, c), through(b, c)})
            if (other.radius > best.radius)
                best = other;
        return best;
    }
    const Point m{(v.y * dot(u, u) - u.y * dot(v, v)) / d, (u.x * dot(v, v) - v.x * dot(u, u)) / d};
    return {a + m, norm(m)};
}

} // namespace

Path boxFigure(const Rect& box, double cornerRadius)
{
    Path path;
    const double r = std::clamp(cornerRadius, 0.0, std::min(box.width(), box.height()) / 2), pi = std::numbers::pi;
    if (r < 1e-9) {
        path.start = {box.x0, box.y0};
        for (const Point p : {Point{box.x1, box.y0}, Point{box.x1, box.y1}, Point{box.x0, box.y1}, Point{box.x0, box.y0}})
            path.lineTo(p);
        return path;
    }
    path.start = {box.x0 + r, box.y0};
    const auto line = [&](Point p) {
        if (distance(p, path.segments.empty() ? path.start : path.segments.back().end) > 1e-9)
            path.lineTo(p, false);
    };
    line({box.x1 - r, box.y0});
    addArc(path, {box.x1 - r, box.y0 + r}, r, r, -pi / 2, 0, 2);
    line({box.x1, box.y1 - r});
    addArc(path, {box.x1 - r, box.y1 - r}, r, r, 0, pi / 2, 2);
    line({box.x0 + r, box.y1});
    addArc(path, {box.x0 + r, box.y1 - r}, r, r, pi / 2, pi, 2);
    line({box.x0, box.y0 + r});
    addArc(path, {box.x0 + r, box.y0 + r}, r, r, pi, 3 * pi / 2, 2);
    path.segments.back().end = path.start;
    return path;
}

Path ellipseFigure(Point centre, double across, double down)
{
    Path path;
    path.start = {centre.x + across, centre.y};
    addArc(path, centre, across, down, 0, 2 * std::numbers::pi, 8);
    path.segments.back().end = path.start;
    return path;
}

std::vector<Point> hullOf(std::vector<Point> p)
{
    // Andrew's monotone chain, 1979.
    std::sort(p.begin(), p.end(), [](Point a, Point b) { return a.x != b.x ? a.x < b.x : a.y < b.y; });
    p.erase(std::unique(p.begin(), p.end()), p.end());
    if (p.size() < 3)
        return p;
    std::vector<Point> hull;
    for (int half = 0; half < 2; ++half) {
        const std::size_t base = hull.size();
        for (const Point q : p) {
            while (hull.size() >= base + 2 && cross(hull.back() - hull[hull.size() - 2], q - hull.back()) <= 0)
                hull.pop_back();
            hull.push_back(q);
        }
        hull.pop_back();
        std::reverse(p.begin(), p.end());
    }
    return hull;
}

Circle smallestCircle(std::vector<Point> points)
{
    std::vector<Point> p = hullOf(std::move(points));
    std::shuffle(p.begin(), p.end(), std::mt19937(1)); // expected linear time; the same order each time
    Circle c;
    if (p.empty())
        return c;
    c = {p[0], 0};
    for (std::size_t i = 1; i < p.size(); ++i) {
        if (holds(c, p[i]))
            continue;
        c = {p[i], 0};
        for (std::size_t j = 0; j < i; ++j) {
            if (holds(c, p[j]))
                continue;
            c = through(p[i], p[j]);
            for (std::size_t k = 0; k < j; ++k)
                if (!holds(c, p[k]))
                    c = through(p[i], p[j], p[k]);
        }
    }
    return c;
}

Point ellipseRound(const std::vector<Point>& points)
{
    const Rect box = bounds(points);
    const Point centre = box.centre(), half{std::max(1e-9, box.width() / 2), std::max(1e-9, box.height() / 2)};
    double most = 0;
    for (const Point p : points)
        most = std::max(most, std::hypot((p.x - centre.x) / half.x, (p.y - centre.y) / half.y));
    return half * most;
}

} // namespace yokai
