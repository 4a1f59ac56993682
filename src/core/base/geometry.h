// Points, boxes and affine maps in millimetres (or in whatever unit the caller
// says). Plain values; y points down unless a header says otherwise.
#pragma once

#include <algorithm>
#include <cmath>
#include <limits>

namespace yokai {

struct Point {
    double x = 0, y = 0;
    constexpr bool operator==(const Point&) const = default;
};
constexpr Point operator+(Point a, Point b) { return {a.x + b.x, a.y + b.y}; }
constexpr Point operator-(Point a, Point b) { return {a.x - b.x, a.y - b.y}; }
constexpr Point operator*(Point a, double k) { return {a.x * k, a.y * k}; }
constexpr double dot(Point a, Point b) { return a.x * b.x + a.y * b.y; }
constexpr double cross(Point a, Point b) { return a.x * b.y - a.y * b.x; }
inline double norm(Point a) { return std::sqrt(dot(a, a)); }
inline double distance(Point a, Point b) { return norm(a - b); }
inline Point unit(Point a)
{
    const double n = norm(a);
    return n > 0 ? a * (1 / n) : Point{1, 0};
}
constexpr Point mix(Point a, Point b, double t) { return a + (b - a) * t; }

struct Rect {
    double x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    static constexpr Rect nothing()
    {
        constexpr double inf = std::numeric_limits<double>::infinity();
        return {inf, inf, -inf, -inf};
    }
    constexpr bool empty() const { return !(x0 < x1 && y0 < y1); }
    constexpr double width() const { return x1 - x0; }
    constexpr double height() const { return y1 - y0; }
    constexpr Point centre() const { return {(x0 + x1) / 2, (y0 + y1) / 2}; }
    constexpr bool contains(Point p) const { return p.x >= x0 && p.x <= x1 && p.y >= y0 && p.y <= y1; }
    constexpr bool overlaps(const Rect& o) const { return x0 < o.x1 && o.x0 < x1 && y0 < o.y1 && o.y0 < y1; }
    constexpr Rect grown(double d) const { return {x0 - d, y0 - d, x1 + d, y1 + d}; }
    constexpr Rect moved(Point d) const { return {x0 + d.x, y0 + d.y, x1 + d.x, y1 + d.y}; }
    constexpr void add(Point p)
    {
        x0 = std::min(x0, p.x);
        y0 = std::min(y0, p.y);
        x1 = std::max(x1, p.x);
        y1 = std::max(y1, p.y);
    }
    constexpr void add(const Rect& r)
    {
        if (!(r.x0 <= r.x1))
            return;
        add(Point{r.x0, r.y0});
        add(Point{r.x1, r.y1});
    }
    constexpr bool operator==(const Rect&) const = default;
};

// x' = a x + c y + e, y' = b x + d y + f: the order of PDF and SVG matrices.
struct Affine {
    double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;

    static constexpr Affine move(double dx, double dy) { return {1, 0, 0, 1, dx, dy}; }
    static constexpr Affine scale(double sx, double sy) { return {sx, 0, 0, sy, 0, 0}; }
    static Affine turn(double radians)
    {
        const double c = std::cos(radians), s = std::sin(radians);
        return {c, s, -s, c, 0, 0};
    }
    constexpr Point operator()(Point p) const { return {a * p.x + c * p.y + e, b * p.x + d * p.y + f}; }
    // (m * n)(p) == m(n(p))
    constexpr Affine operator*(const Affine& n) const
    {
        return {a * n.a + c * n.b, b * n.a + d * n.b, a * n.c + c * n.d, b * n.c + d * n.d, a * n.e + c * n.f + e, b * n.e + d * n.f + f};
    }
    constexpr double det() const { return a * d - b * c; }
    constexpr Affine inverse() const
    {
        const double k = 1 / det();
        return {d * k, -b * k, -c * k, a * k, (c * f - d * e) * k, (b * e - a * f) * k};
    }
    constexpr bool operator==(const Affine&) const = default;
};

// The affine map nearest to any other over a box: the parallelogram nearest to where the four corners go.
template <class Map> Affine nearestAffine(const Rect& box, Map&& map)
{
    const Point o = map(Point{box.x0, box.y0}), x = map(Point{box.x1, box.y0}), y = map(Point{box.x0, box.y1}), far = map(Point{box.x1, box.y1});
    const Point dx = ((x - o) + (far - y)) * (0.5 / box.width()), dy = ((y - o) + (far - x)) * (0.5 / box.height());
    const Point middle = (o + x + y + far) * 0.25, c = box.centre();
    return {dx.x, dx.y, dy.x, dy.y, middle.x - dx.x * c.x - dy.x * c.y, middle.y - dx.y * c.x - dy.y * c.y};
}

} // namespace yokai
