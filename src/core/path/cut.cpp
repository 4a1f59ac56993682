#include "path/cut.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yokai {

Halves split(Point from, const Segment& s, double t)
{
    if (s.line) {
        const Point at = mix(from, s.end, t);
        return {{mix(from, at, 1.0 / 3), mix(from, at, 2.0 / 3), at, true}, {mix(at, s.end, 1.0 / 3), mix(at, s.end, 2.0 / 3), s.end, true}};
    }
    const Point a = mix(from, s.c1, t), b = mix(s.c1, s.c2, t), c = mix(s.c2, s.end, t), d = mix(a, b, t), e = mix(b, c, t), at = mix(d, e, t);
    return {{a, d, at, false}, {e, c, s.end, false}};
}

// The path from one cut to the next, which may run over its start.
Path stretchOf(const Path& path, const PathPlace& begin, const PathPlace& end)
{
    // At a node: from the segment after it, to the one before it.
    constexpr double none = 1e-12;
    const std::size_t n = path.segments.size();
    const PathPlace from = begin.t > 1 - none ? PathPlace{(begin.segment + 1) % n, 0, begin.at} : begin;
    const PathPlace to = end.t < none ? PathPlace{(end.segment + n - 1) % n, 1, end.at} : end;
    Path out;
    out.closed = false;
    out.start = from.at;
    Point at = path.start;
    std::vector<Point> starts;
    for (const Segment& s : path.segments) {
        starts.push_back(at);
        at = s.end;
    }
    std::size_t k = from.segment;
    double t = from.t;
    const bool within = from.segment == to.segment && from.t < to.t;
    for (std::size_t step = 0; step <= n; ++step) {
        Segment s = path.segments[k];
        const bool last = k == to.segment && (step > 0 || within);
        const Point start = starts[k];
        if (last)
            s = split(start, s, to.t).before;
        const double share = last && to.t > 0 ? t / to.t : t;
        if (t > 0)
            s = split(start, s, std::min(1.0, share)).after;
        if (last)
            s.end = to.at;
        if (distance(out.segments.empty() ? out.start : out.segments.back().end, s.end) > 1e-9 || !s.line) {
            out.segments.push_back(s);
            out.corners.push_back(last ? true : bool(path.corners[k]));
        }
        if (last)
            break;
        t = 0;
        k = (k + 1) % n;
    }
    return out;
}

Path reversed(const Path& path)
{
    Path out;
    out.closed = path.closed;
    std::vector<Point> starts;
    Point at = path.start;
    for (const Segment& s : path.segments) {
        starts.push_back(at);
        at = s.end;
    }
    out.start = at;
    for (std::size_t k = path.segments.size(); k-- > 0;) {
        const Segment& s = path.segments[k];
        out.segments.push_back({s.c2, s.c1, starts[k], s.line});
        out.corners.push_back(k > 0 ? path.corners[k - 1] : path.corners.empty() || path.corners.back());
    }
    return out;
}

Point startOf(const Path& path, std::size_t segment) { return segment == 0 ? path.start : path.segments[segment - 1].end; }

double wayTo(const Path& path, const PathPlace& at)
{
    Path before;
    before.closed = false;
    before.start = path.start;
    before.segments.assign(path.segments.begin(), path.segments.begin() + std::ptrdiff_t(at.segment));
    before.segments.push_back(split(startOf(path, at.segment), path.segments[at.segment], at.t).before);
    return length(before);
}

Path withStretch(const Path& path, const PathPlace& from, const PathPlace& to, const Path& stretch)
{
    const auto add = [](Path& out, const Path& more) {
        out.segments.insert(out.segments.end(), more.segments.begin(), more.segments.end());
        out.corners.insert(out.corners.end(), more.corners.begin(), more.corners.end());
    };
    if (path.closed) {
        Path out = stretchOf(path, to, from);
        out.closed = true;
        if (!out.corners.empty())
            out.corners.back() = true;
        add(out, stretch);
        out.segments.back().end = out.start;
        return out;
    }
    const auto before = [](const PathPlace& a, const PathPlace& b) { return a.segment != b.segment ? a.segment < b.segment : a.t < b.t; };
    if (before(to, from))
        return withStretch(path, to, from, reversed(stretch));
    constexpr double nothing = 1e-9;
    Path out;
    out.closed = false;
    out.start = stretch.start;
    if (wayTo(path, from) > nothing) {
        out = stretchOf(path, {0, 0, path.start}, from);
        out.corners.back() = true;
    }
    add(out, stretch);
    const std::size_t last = path.segments.size() - 1;
    if (const PathPlace end{last, 1, path.segments[last].end}; distance(to.at, end.at) > nothing)
        add(out, stretchOf(path, to, end));
    return out;
}

PathPlace along(const Path& path, const PathPlace& from, double way)
{
    const auto lengthOf = [&](std::size_t k) {
        Path alone;
        alone.closed = false;
        alone.start = startOf(path, k);
        alone.segments = {path.segments[k]};
        return length(alone);
    };
    const std::size_t n = path.segments.size();
    // Along a curve by its parameter: near enough to step aside by.
    std::size_t k = from.segment;
    double left = way + from.t * lengthOf(k);
    for (std::size_t step = 0; step <= 4 * n; ++step) {
        const double own = lengthOf(k);
        if (left < 0) {
            k = (k + n - 1) % n;
            left += lengthOf(k);
        } else if (left > own) {
            left -= own;
            k = (k + 1) % n;
        } else {
            const double t = own > 0 ? left / own : 0;
            return {k, t, pointOn(startOf(path, k), path.segments[k], t)};
        }
    }
    return from;
}

std::optional<NearestPlace> nearestPlace(const Paths& paths, Point p)
{
    std::optional<NearestPlace> best;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < paths.size(); ++i) {
        Point from = paths[i].start;
        for (std::size_t k = 0; k < paths[i].segments.size(); ++k) {
            const Segment& s = paths[i].segments[k];
            // No point of a cubic lies outside the box of its control points.
            Rect box{std::min({from.x, s.c1.x, s.c2.x, s.end.x}), std::min({from.y, s.c1.y, s.c2.y, s.end.y}), std::max({from.x, s.c1.x, s.c2.x, s.end.x}),
                     std::max({from.y, s.c1.y, s.c2.y, s.end.y})};
            const double dx = std::max({box.x0 - p.x, 0.0, p.x - box.x1}), dy = std::max({box.y0 - p.y, 0.0, p.y - box.y1});
            if (std::hypot(dx, dy) < least) {
                constexpr int looks = 16;
                double at = 0, d = distance(p, from);
                for (int look = 1; look <= looks; ++look)
                    if (const double here = distance(p, pointOn(from, s, double(look) / looks)); here < d) {
                        d = here;
                        at = double(look) / looks;
                    }
                // By thirds between the looks beside the nearest one.
                double low = std::max(0.0, at - 1.0 / looks), high = std::min(1.0, at + 1.0 / looks);
                constexpr int rounds = 60;
                for (int round = 0; round < rounds; ++round) {
                    const double a = low + (high - low) / 3, b = high - (high - low) / 3;
                    (distance(p, pointOn(from, s, a)) < distance(p, pointOn(from, s, b)) ? high : low) = distance(p, pointOn(from, s, a)) < distance(p, pointOn(from, s, b)) ? b : a;
                }
                at = (low + high) / 2;
                if (const Point found = pointOn(from, s, at); distance(p, found) < least) {
                    least = distance(p, found);
                    best.emplace();
                    best->segment = k;
                    best->t = at;
                    best->at = found;
                    best->path = i;
                    best->away = least;
                }
            }
            from = s.end;
        }
    }
    return best;
}

} // namespace yokai
