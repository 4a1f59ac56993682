#include "path/path.h"

#include <array>
#include <numbers>

namespace yokai {

void Path::lineTo(Point p, bool corner)
{
    const Point from = segments.empty() ? start : segments.back().end;
    segments.push_back({mix(from, p, 1.0 / 3), mix(from, p, 2.0 / 3), p, true});
    corners.push_back(corner);
}

void Path::curveTo(Point c1, Point c2, Point p, bool corner)
{
    segments.push_back({c1, c2, p, false});
    corners.push_back(corner);
}

void Path::arcTo(Point centre, Point p, bool rising)
{
    const Point from = segments.empty() ? start : segments.back().end;
    const double radius = distance(centre, from), begin = std::atan2(from.y - centre.y, from.x - centre.x);
    double turn = std::atan2(p.y - centre.y, p.x - centre.x) - begin;
    constexpr double whole = 2 * std::numbers::pi, sixth = whole / 6;
    if (rising && turn < 0)
        turn += whole;
    if (!rising && turn > 0)
        turn -= whole;
    const int parts = std::max(1, int(std::ceil(std::abs(turn) / sixth - 1e-9)));
    const double step = turn / parts, handle = 4.0 / 3 * std::tan(step / 4) * radius;
    for (int k = 1; k <= parts; ++k) {
        const double a = begin + step * (k - 1), b = begin + step * k;
        const Point at = centre + Point{std::cos(a), std::sin(a)} * radius, to = k == parts ? p : centre + Point{std::cos(b), std::sin(b)} * radius;
        curveTo(at + Point{-std::sin(a), std::cos(a)} * handle, to - Point{-std::sin(b), std::cos(b)} * handle, to);
    }
}

Point pointOn(Point from, const Segment& s, double t)
{
    if (s.line)
        return mix(from, s.end, t);
    const double u = 1 - t;
    return from * (u * u * u) + s.c1 * (3 * u * u * t) + s.c2 * (3 * u * t * t) + s.end * (t * t * t);
}

Point tangentOn(Point from, const Segment& s, double t)
{
    if (s.line)
        return s.end - from;
    const double u = 1 - t;
    const Point d = (s.c1 - from) * (u * u) + (s.c2 - s.c1) * (2 * u * t) + (s.end - s.c2) * (t * t);
    if (dot(d, d) > 1e-24)
        return d;
    // A handle of no length: the direction is that towards the next distinct control point.
    for (const Point next : t < 0.5 ? std::array{s.c1 - from, s.c2 - from, s.end - from} : std::array{s.end - s.c2, s.end - s.c1, s.end - from})
        if (dot(next, next) > 1e-24)
            return next;
    return d;
}

double curvatureOn(Point from, const Segment& s, double t)
{
    if (s.line)
        return 0;
    const double u = 1 - t;
    const Point first = (s.c1 - from) * (u * u) + (s.c2 - s.c1) * (2 * u * t) + (s.end - s.c2) * (t * t); // a third of it
    const Point second = (s.c2 - s.c1 * 2 + from) * u + (s.end - s.c2 * 2 + s.c1) * t;                    // a sixth of it
    const double speed = norm(first);
    return speed > 1e-12 ? 2 * cross(first, second) / (3 * speed * speed * speed) : 0;
}

double turnAt(const Path& path, std::size_t k)
{
    const std::size_t n = path.segments.size(), next = (k + 1) % n;
    const Point from = k == 0 ? path.start : path.segments[k - 1].end, at = path.segments[k].end;
    const Point in = tangentOn(from, path.segments[k], 1), out = tangentOn(at, path.segments[next], 0);
    return std::abs(std::atan2(cross(in, out), dot(in, out)));
}

double signedArea(const Path& path)
{
    // The area under one cubic, in closed form, about the path's start to keep the terms small.
    double twice = 0;
    const Point o = path.start;
    path.each([&](Point from, const Segment& s) {
        const Point p0 = from - o, p1 = s.c1 - o, p2 = s.c2 - o, p3 = s.end - o;
        if (s.line)
            twice += cross(p0, p3);
        else
            twice += (6 * cross(p0, p1) + 3 * cross(p0, p2) + cross(p0, p3) + 3 * cross(p1, p2) + 3 * cross(p1, p3) + 6 * cross(p2, p3)) / 10;
    });
    return twice / 2;
}

double signedArea(std::span<const Point> line)
{
    double twice = 0;
    for (std::size_t i = 0; i < line.size(); ++i)
        twice += cross(line[i] - line[0], line[i + 1 == line.size() ? 0 : i + 1] - line[0]);
    return twice / 2;
}

namespace {

double gaussLength(Point from, const Segment& s, double t0, double t1)
{
    // Five-point Gauss-Legendre quadrature of the speed.
    static constexpr double x[] = {0, 0.5384693101056831, 0.9061798459386640};
    static constexpr double w[] = {0.5688888888888889, 0.4786286704993665, 0.2369268850561891};
    const double mid = (t0 + t1) / 2, half = (t1 - t0) / 2;
    const auto speed = [&](double t) {
        const double u = 1 - t;
        return 3 * norm((s.c1 - from) * (u * u) + (s.c2 - s.c1) * (2 * u * t) + (s.end - s.c2) * (t * t));
    };
    double sum = w[0] * speed(mid);
    for (int i = 1; i < 3; ++i)
        sum += w[i] * (speed(mid - half * x[i]) + speed(mid + half * x[i]));
    return sum * half;
}

double cubicLength(Point from, const Segment& s, double t0, double t1, double whole, int depth)
{
    const double mid = (t0 + t1) / 2;
    const double left = gaussLength(from, s, t0, mid), right = gaussLength(from, s, mid, t1);
    if (depth == 0 || std::abs(left + right - whole) <= 1e-9 * (left + right))
        return left + right;
    return cubicLength(from, s, t0, mid, left, depth - 1) + cubicLength(from, s, mid, t1, right, depth - 1);
}

void addExtremes(Rect& box, Point from, const Segment& s)
{
    const auto axis = [&](double p0, double p1, double p2, double p3) {
        const double a = -p0 + 3 * p1 - 3 * p2 + p3, b = 2 * (p0 - 2 * p1 + p2), c = p1 - p0;
        const auto tryRoot = [&](double t) {
            if (t > 0 && t < 1)
                box.add(pointOn(from, s, t));
        };
        if (std::abs(a) < 1e-14) {
            if (b != 0)
                tryRoot(-c / b);
            return;
        }
        const double d = b * b - 4 * a * c;
        if (d < 0)
            return;
        const double q = -0.5 * (b + std::copysign(std::sqrt(d), b));
        tryRoot(q / a);
        if (q != 0)
            tryRoot(c / q);
    };
    axis(from.x, s.c1.x, s.c2.x, s.end.x);
    axis(from.y, s.c1.y, s.c2.y, s.end.y);
}

} // namespace

double length(const Path& path)
{
    double sum = 0;
    path.each([&](Point from, const Segment& s) { sum += s.line ? distance(from, s.end) : cubicLength(from, s, 0, 1, gaussLength(from, s, 0, 1), 12); });
    return sum;
}

double length(std::span<const Point> line)
{
    double sum = 0;
    for (std::size_t i = 0; i < line.size(); ++i)
        sum += distance(line[i], line[i + 1 == line.size() ? 0 : i + 1]);
    return sum;
}

Rect bounds(const Path& path)
{
    Rect box = Rect::nothing();
    if (path.segments.empty())
        return box;
    box.add(path.start);
    path.each([&](Point from, const Segment& s) {
        box.add(s.end);
        if (!s.line && !(box.contains(s.c1) && box.contains(s.c2)))
            addExtremes(box, from, s);
    });
    return box;
}

Rect bounds(const Paths& paths)
{
    Rect box = Rect::nothing();
    for (const Path& p : paths)
        box.add(bounds(p));
    return box;
}

Rect bounds(std::span<const Point> line)
{
    Rect box = Rect::nothing();
    for (Point p : line)
        box.add(p);
    return box;
}

Polyline flatten(const Path& path, double tolerance)
{
    Polyline points;
    if (path.segments.empty())
        return points;
    points.push_back(path.start);
    path.each([&](Point from, const Segment& s) {
        if (!s.line) {
            // Steps from the bound on the second derivative (Wang's formula for degree 3).
            const double bend = std::max(norm(from - s.c1 * 2 + s.c2), norm(s.c1 - s.c2 * 2 + s.end));
            const int n = std::clamp(int(std::ceil(std::sqrt(0.75 * bend / tolerance))), 1, 4096);
            for (int i = 1; i < n; ++i)
                points.push_back(pointOn(from, s, double(i) / n));
        }
        points.push_back(s.end);
    });
    if (path.closed && points.size() > 1 && distance(points.back(), points.front()) < 1e-12)
        points.pop_back();
    return points;
}

namespace {

double lengthOf(Point from, const Segment& s) { return s.line ? distance(from, s.end) : cubicLength(from, s, 0, 1, gaussLength(from, s, 0, 1), 12); }

// The parameter at which a segment has run `along`.
double parameterAt(Point from, const Segment& s, double whole, double along)
{
    double t = std::clamp(along / std::max(1e-300, whole), 0.0, 1.0);
    for (int round = 0; !s.line && round < 6; ++round) {
        const double speed = 3 * norm((s.c1 - from) * ((1 - t) * (1 - t)) + (s.c2 - s.c1) * (2 * (1 - t) * t) + (s.end - s.c2) * (t * t));
        if (speed < 1e-12)
            break;
        t = std::clamp(t - (gaussLength(from, s, 0, t) - along) / speed, 0.0, 1.0);
    }
    return t;
}

Segment between(Point from, const Segment& s, double t0, double t1, Point& start)
{
    start = pointOn(from, s, t0);
    const Point end = pointOn(from, s, t1);
    if (s.line)
        return {mix(start, end, 1.0 / 3), mix(start, end, 2.0 / 3), end, true};
    const auto slope = [&](double t) {
        return ((s.c1 - from) * ((1 - t) * (1 - t)) + (s.c2 - s.c1) * (2 * (1 - t) * t) + (s.end - s.c2) * (t * t)) * (t1 - t0);
    };
    return {start + slope(t0), end - slope(t1), end, false};
}

// A path by the way along it.
class Measured {
public:
    explicit Measured(const Path& path) : path_(path)
    {
        path.each([&](Point from, const Segment& s) {
            lengths_.push_back(lengthOf(from, s));
            whole_ += lengths_.back();
        });
    }
    double whole() const { return whole_; }
    const std::vector<double>& lengths() const { return lengths_; }

    // From one way along to another, as an open path; of a closed one from before its start, too.
    Path part(double begin, double end) const
    {
        Path piece;
        piece.closed = false;
        // Twice round, for what lies over the start.
        double at = path_.closed ? -whole_ : 0;
        for (int turn = path_.closed ? 0 : 1; turn < 2; ++turn) {
            std::size_t i = 0;
            path_.each([&](Point from, const Segment& s) {
                const double l = lengths_[i], a = std::max(begin, at), b = std::min(end, at + l);
                if (b - a > 1e-9) {
                    Point start;
                    const Segment own = between(from, s, parameterAt(from, s, l, a - at), parameterAt(from, s, l, b - at), start);
                    if (piece.segments.empty())
                        piece.start = start;
                    piece.segments.push_back(own);
                    piece.corners.push_back(b < end - 1e-9 && path_.corners[i]);
                }
                at += l;
                ++i;
            });
        }
        return piece;
    }

private:
    const Path& path_;
    std::vector<double> lengths_;
    double whole_ = 0;
};

} // namespace

namespace {

// How far along the path its clear corners lie, in order; its ends too, where it is open.
std::vector<double> cornersAlong(const Path& path, double whole, const std::vector<double>& lengths)
{
    constexpr double clear = 0.5; // radians: what turns by less, a dash may end at
    std::vector<double> out;
    double at = 0;
    if (!path.closed)
        out.push_back(0);
    for (std::size_t k = 0; k < path.segments.size(); ++k) {
        at += lengths[k];
        if (k + 1 == path.segments.size() ? path.closed && turnAt(path, k) > clear : turnAt(path, k) > clear)
            out.push_back(k + 1 == path.segments.size() ? 0 : at);
    }
    std::sort(out.begin(), out.end());
    if (!path.closed)
        out.push_back(whole);
    return out;
}

} // namespace

namespace {

// Those corners between which dashes come out even, within a quarter of what was asked: the pattern goes on over the others. The first and
// the last stay.
std::vector<double> evenlyApart(const std::vector<double>& corners, double pitch)
{
    constexpr double most = 0.25;
    const auto even = [&](double from, double to) {
        const double count = std::round((to - from) / pitch);
        return count > 0 && std::abs((to - from) / pitch / count - 1) <= most;
    };
    std::vector<double> out = {corners.front()};
    for (std::size_t k = 1; k + 1 < corners.size(); ++k)
        if (even(out.back(), corners[k]))
            out.push_back(corners[k]);
    while (out.size() > 1 && !even(out.back(), corners.back()))
        out.pop_back();
    out.push_back(corners.back());
    return out;
}

} // namespace

Paths dashed(const Path& path, double cut, double gap)
{
    const Measured measured(path);
    const double whole = measured.whole();
    if (!(gap > 0) || !(cut > 0) || whole < cut + gap)
        return {path};
    std::vector<double> corners = cornersAlong(path, whole, measured.lengths());
    if (corners.empty())
        corners = {0};
    if (path.closed)
        corners.push_back(corners.front() + whole);
    Paths out;
    std::vector<std::pair<double, double>> gaps;
    const std::vector<double> held = evenlyApart(corners, cut + gap);
    for (std::size_t i = 0; i + 1 < held.size(); ++i) {
        const double stretch = held[i + 1] - held[i], count = std::max(1.0, std::round(stretch / (cut + gap))), pitch = stretch / count;
        for (int k = 0; k < int(count); ++k)
            gaps.emplace_back(held[i] + (k + 0.5) * pitch - gap / 2, held[i] + (k + 0.5) * pitch + gap / 2);
    }
    if (gaps.empty())
        return {path};
    const auto add = [&](double begin, double end) {
        if (Path piece = measured.part(begin, end); !piece.segments.empty())
            out.push_back(std::move(piece));
    };
    // What lies past a closed path's end is told from before its start.
    if (path.closed)
        add(gaps.back().second - whole, gaps.front().first);
    else
        add(0, gaps.front().first);
    for (std::size_t i = 0; i + 1 < gaps.size(); ++i) {
        const double back = path.closed && gaps[i + 1].first > whole ? whole : 0;
        add(gaps[i].second - back, gaps[i + 1].first - back);
    }
    if (!path.closed)
        add(gaps.back().second, whole);
    return out;
}

Paths broken(const Path& path, const Breaks& breaks)
{
    if (breaks.middles.empty())
        return dashed(path, breaks.cut, breaks.gap);
    const Measured measured(path);
    const double half = breaks.gap / 2, whole = measured.whole();
    Paths out;
    const auto add = [&](double begin, double end) {
        if (end - begin > 1e-9)
            if (Path piece = measured.part(begin, end); !piece.segments.empty())
                out.push_back(std::move(piece));
    };
    if (path.closed)
        add(breaks.middles.back() + half - whole, breaks.middles.front() - half);
    else
        add(0, breaks.middles.front() - half);
    for (std::size_t k = 0; k + 1 < breaks.middles.size(); ++k)
        add(breaks.middles[k] + half, breaks.middles[k + 1] - half);
    if (!path.closed)
        add(breaks.middles.back() + half, whole);
    return out;
}

Path transformed(const Path& path, const Affine& map)
{
    Path out = path;
    out.start = map(path.start);
    for (Segment& s : out.segments)
        s = {map(s.c1), map(s.c2), map(s.end), s.line};
    return out;
}

Paths transformed(const Paths& paths, const Affine& map)
{
    Paths out;
    out.reserve(paths.size());
    for (const Path& p : paths)
        out.push_back(transformed(p, map));
    return out;
}

Path withoutPoints(Path path)
{
    constexpr double nothing = 1e-9;
    std::size_t kept = 0;
    Point from = path.start;
    for (std::size_t k = 0; k < path.segments.size(); ++k) {
        const Segment s = path.segments[k];
        const bool isPoint = distance(from, s.c1) < nothing && distance(from, s.c2) < nothing && distance(from, s.end) < nothing;
        if (isPoint && kept > 0)
            path.corners[kept - 1] = path.corners[kept - 1] || path.corners[k];
        if (isPoint)
            continue;
        path.segments[kept] = s;
        path.corners[kept++] = path.corners[k];
        from = s.end;
    }
    path.segments.resize(kept);
    path.corners.resize(kept);
    return path;
}

Path polygonPath(std::span<const Point> line)
{
    Path path;
    if (line.empty())
        return path;
    path.start = line[0];
    for (std::size_t i = 1; i < line.size(); ++i)
        path.lineTo(line[i]);
    path.lineTo(line[0]);
    return path;
}

double areaOf(const Paths& paths)
{
    double sum = 0;
    for (const Path& p : paths)
        sum += p.closed ? signedArea(p) : 0;
    return sum;
}

double lengthOf(const Paths& paths)
{
    double sum = 0;
    for (const Path& p : paths)
        sum += length(p);
    return sum;
}

std::size_t nodesOf(const Paths& paths)
{
    std::size_t sum = 0;
    for (const Path& p : paths)
        sum += p.nodes();
    return sum;
}

bool contains(std::span<const Point> line, Point p)
{
    bool inside = false;
    for (std::size_t i = 0, j = line.size() - 1; i < line.size(); j = i++) {
        const Point a = line[i], b = line[j];
        if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x)
            inside = !inside;
    }
    return inside;
}

} // namespace yokai
