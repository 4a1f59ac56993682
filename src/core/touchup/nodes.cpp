#include "touchup/nodes.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

std::size_t before(const Path& path, std::size_t node) { return (node + path.segments.size() - 1) % path.segments.size(); }
std::size_t after(const Path& path, std::size_t node) { return (node + 1) % path.segments.size(); }
PathPlace nodeOf(const Path& path, std::size_t node) { return {node, 1, path.segments[node].end}; }

// The segments from one node to another, as they are.
Redrawn between(const Path& path, std::size_t from, std::size_t to)
{
    Redrawn out{nodeOf(path, from), nodeOf(path, to), {}};
    out.stretch.closed = false;
    out.stretch.start = out.from.at;
    for (std::size_t k = after(path, from);; k = after(path, k)) {
        out.stretch.segments.push_back(path.segments[k]);
        out.stretch.corners.push_back(path.corners[k]);
        if (k == to)
            return out;
    }
}

void straighten(Segment& s, Point from)
{
    s.c1 = mix(from, s.end, 1.0 / 3);
    s.c2 = mix(from, s.end, 2.0 / 3);
}

bool enough(const Path& path)
{
    constexpr std::size_t least = 3; // else both neighbours are one node
    return path.closed && path.segments.size() >= least;
}

// A curve with given ends and end tangents, its handles by least squares over points (Schneider 1990, in Graphics Gems).
Segment fittedThrough(const std::vector<Point>& points, Point tangentIn, Point tangentOut, double handleIn, double handleOut)
{
    const Point a = points.front(), d = points.back();
    Segment s{a + tangentIn * handleIn, d - tangentOut * handleOut, d, false};
    constexpr int rounds = 6;
    for (int round = 0; round < rounds; ++round) {
        double xx = 0, xy = 0, yy = 0, xr = 0, yr = 0;
        for (const Point p : points) {
            const double t = nearestPlace({Path{a, {s}, {true}, false}}, p)->t, u = 1 - t;
            const double b1 = 3 * u * u * t, b2 = 3 * u * t * t;
            const Point rest = p - (a * (u * u * u + b1) + d * (t * t * t + b2)), x = tangentIn * b1, y = tangentOut * -b2;
            xx += dot(x, x);
            xy += dot(x, y);
            yy += dot(y, y);
            xr += dot(x, rest);
            yr += dot(y, rest);
        }
        const double det = xx * yy - xy * xy;
        if (std::abs(det) < 1e-12)
            break;
        const double first = (xr * yy - yr * xy) / det, second = (yr * xx - xr * xy) / det;
        if (first <= 0 || second <= 0)
            break;
        s.c1 = a + tangentIn * first;
        s.c2 = d - tangentOut * second;
    }
    return s;
}

} // namespace

std::optional<Redrawn> nodeMoved(const Path& path, std::size_t node, Point by)
{
    if (!enough(path))
        return std::nullopt;
    Redrawn out = between(path, before(path, node), after(path, node));
    Segment &in = out.stretch.segments[0], &next = out.stretch.segments[1];
    in.end = in.end + by;
    if (in.line)
        straighten(in, out.from.at);
    else
        in.c2 = in.c2 + by;
    if (next.line)
        straighten(next, in.end);
    else
        next.c1 = next.c1 + by;
    return out;
}

std::optional<Redrawn> nodeTaken(const Path& path, std::size_t node)
{
    if (!enough(path))
        return std::nullopt;
    Redrawn out = between(path, before(path, node), after(path, node));
    const Segment in = out.stretch.segments[0], next = out.stretch.segments[1];
    out.stretch.segments.clear();
    out.stretch.corners = {true};
    if (in.line && next.line) {
        Segment line{{}, {}, next.end, true};
        straighten(line, out.from.at);
        out.stretch.segments.push_back(line);
        return out;
    }
    constexpr int places = 12; // of each
    std::vector<Point> points;
    for (int k = 0; k < places; ++k)
        points.push_back(pointOn(out.from.at, in, double(k) / places));
    for (int k = 0; k <= places; ++k)
        points.push_back(pointOn(in.end, next, double(k) / places));
    // As if the two had been one that was split there.
    const Path first{out.from.at, {in}, {true}, false}, second{in.end, {next}, {true}, false};
    const double share = length(first) / std::max(1e-9, length(first) + length(second));
    const Point tangentIn = unit(tangentOn(out.from.at, in, 0)), tangentOut = unit(tangentOn(in.end, next, 1));
    const double handleIn = distance(out.from.at, in.c1) / std::max(0.05, share), handleOut = distance(next.end, next.c2) / std::max(0.05, 1 - share);
    out.stretch.segments.push_back(fittedThrough(points, tangentIn, tangentOut, handleIn, handleOut));
    return out;
}

std::optional<Redrawn> nodeAdded(const Path& path, const PathPlace& at)
{
    if (!enough(path) || at.t <= 0 || at.t >= 1)
        return std::nullopt;
    Redrawn out = between(path, before(path, at.segment), at.segment);
    const Halves halves = split(out.from.at, out.stretch.segments[0], at.t);
    out.stretch.segments = {halves.before, halves.after};
    out.stretch.corners = {false, true};
    return out;
}

std::optional<Redrawn> segmentStraight(const Path& path, std::size_t segment)
{
    if (!enough(path))
        return std::nullopt;
    Redrawn out = between(path, before(path, segment), segment);
    out.stretch.segments[0].line = true;
    straighten(out.stretch.segments[0], out.from.at);
    return out;
}

std::optional<Redrawn> nodeSmooth(const Path& path, std::size_t node)
{
    if (!enough(path))
        return std::nullopt;
    Redrawn out = between(path, before(path, node), after(path, node));
    Segment &in = out.stretch.segments[0], &next = out.stretch.segments[1];
    const Point along = unit(unit(tangentOn(out.from.at, in, 1)) + unit(tangentOn(in.end, next, 0)));
    in.c2 = in.end - along * distance(in.c2, in.end);
    next.c1 = in.end + along * distance(next.c1, in.end);
    in.line = next.line = false;
    out.stretch.corners[0] = false;
    return out;
}

} // namespace yokai
