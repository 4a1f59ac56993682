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

// Nodes that follow each other on a closed path.
struct RunOfNodes {
    std::size_t first = 0, count = 1;
};

std::vector<RunOfNodes> runsOf(const Path& path, const NodeSet& nodes)
{
    std::vector<RunOfNodes> out;
    if (!enough(path))
        return out;
    const std::size_t n = path.segments.size();
    for (const std::size_t node : nodes)
        if (!out.empty() && out.back().first + out.back().count == node)
            ++out.back().count;
        else
            out.push_back({node, 1});
    // Over the path's start.
    if (out.size() > 1 && out.front().first == 0 && out.back().first + out.back().count == n) {
        out.back().count += out.front().count;
        out.erase(out.begin());
    }
    return out;
}

// What one change makes of each run: it gets the stretch from the node before it to the one after.
template <class Change> std::vector<Redrawn> eachRun(const Path& path, const NodeSet& nodes, Change change)
{
    std::vector<Redrawn> out;
    for (const RunOfNodes& run : runsOf(path, nodes)) {
        if (run.count + 2 > path.segments.size())
            continue; // both ends of a stretch have to be left, apart from each other
        Redrawn redrawn = between(path, before(path, run.first), (run.first + run.count) % path.segments.size());
        change(redrawn.stretch);
        out.push_back(std::move(redrawn));
    }
    return out;
}

// And to each stretch between nodes that follow each other, or on both sides of a single one.
template <class Change> std::vector<Redrawn> eachStretch(const Path& path, const NodeSet& nodes, Change change)
{
    std::vector<Redrawn> out;
    const std::size_t n = path.segments.size();
    for (const RunOfNodes& run : runsOf(path, nodes)) {
        const bool single = run.count == 1;
        if (run.count == n)
            continue; // as above
        Redrawn redrawn = between(path, single ? before(path, run.first) : run.first, (run.first + run.count - (single ? 0 : 1)) % n);
        change(redrawn.stretch, redrawn.from, redrawn.to);
        out.push_back(std::move(redrawn));
    }
    return out;
}

Point startIn(const Path& stretch, std::size_t k) { return k == 0 ? stretch.start : stretch.segments[k - 1].end; }

} // namespace

std::vector<Redrawn> nodesMoved(const Path& path, const NodeSet& nodes, Point by)
{
    return eachRun(path, nodes, [&](Path& stretch) {
        for (std::size_t k = 0; k < stretch.segments.size(); ++k) {
            Segment& s = stretch.segments[k];
            const bool startMoves = k > 0, endMoves = k + 1 < stretch.segments.size();
            const Point from = startIn(stretch, k); // already moved
            s.end = s.end + (endMoves ? by : Point{});
            if (s.line) {
                straighten(s, from);
                continue;
            }
            s.c1 = s.c1 + (startMoves ? by : Point{});
            s.c2 = s.c2 + (endMoves ? by : Point{});
        }
    });
}

std::vector<Redrawn> nodesTaken(const Path& path, const NodeSet& nodes)
{
    return eachRun(path, nodes, [&](Path& stretch) {
        const Path was = stretch;
        stretch.segments.clear();
        stretch.corners = {true};
        const Point end = was.segments.back().end;
        if (std::all_of(was.segments.begin(), was.segments.end(), [](const Segment& s) { return s.line; })) {
            Segment line{{}, {}, end, true};
            straighten(line, stretch.start);
            stretch.segments.push_back(line);
            return;
        }
        constexpr int places = 12; // of each
        std::vector<Point> points;
        for (std::size_t k = 0; k < was.segments.size(); ++k)
            for (int place = 0; place < places; ++place)
                points.push_back(pointOn(startIn(was, k), was.segments[k], double(place) / places));
        points.push_back(end);
        // As if they had been one that was split.
        const Segment &first = was.segments.front(), &last = was.segments.back();
        const Point lastFrom = startIn(was, was.segments.size() - 1);
        const double whole = std::max(1e-9, length(was));
        constexpr double leastShare = 0.05;
        const auto share = [&](Point from, const Segment& s) { return std::max(leastShare, length(Path{from, {s}, {true}, false}) / whole); };
        const double handleIn = distance(was.start, first.c1) / share(was.start, first), handleOut = distance(end, last.c2) / share(lastFrom, last);
        stretch.segments.push_back(fittedThrough(points, unit(tangentOn(was.start, first, 0)), unit(tangentOn(lastFrom, last, 1)), handleIn, handleOut));
    });
}

std::vector<Redrawn> nodesSmooth(const Path& path, const NodeSet& nodes)
{
    return eachRun(path, nodes, [&](Path& stretch) {
        for (std::size_t k = 0; k + 1 < stretch.segments.size(); ++k) {
            Segment &in = stretch.segments[k], &next = stretch.segments[k + 1];
            const Point along = unit(unit(tangentOn(startIn(stretch, k), in, 1)) + unit(tangentOn(in.end, next, 0)));
            in.c2 = in.end - along * distance(in.c2, in.end);
            next.c1 = in.end + along * distance(next.c1, in.end);
            in.line = next.line = false;
            stretch.corners[k] = false;
        }
    });
}

std::vector<Redrawn> nodesCorners(const Path& path, const NodeSet& nodes)
{
    return eachRun(path, nodes, [&](Path& stretch) {
        for (std::size_t k = 0; k + 1 < stretch.segments.size(); ++k) {
            Segment &in = stretch.segments[k], &next = stretch.segments[k + 1];
            in.c2 = mix(in.end, startIn(stretch, k), 1.0 / 3);
            next.c1 = mix(in.end, next.end, 1.0 / 3);
            stretch.corners[k] = true;
        }
    });
}

std::vector<Redrawn> segmentsStraight(const Path& path, const NodeSet& nodes)
{
    return eachStretch(path, nodes, [](Path& stretch, const PathPlace&, const PathPlace&) {
        for (std::size_t k = 0; k < stretch.segments.size(); ++k) {
            stretch.segments[k].line = true;
            straighten(stretch.segments[k], startIn(stretch, k));
        }
    });
}

std::vector<Redrawn> segmentsCurved(const Path& path, const NodeSet& nodes)
{
    return eachStretch(path, nodes, [&](Path& stretch, const PathPlace& from, const PathPlace& to) {
        const std::size_t count = stretch.segments.size();
        // The way through each node is that of its neighbours; at the ends that of what goes on.
        std::vector<Point> at{stretch.start};
        for (const Segment& s : stretch.segments)
            at.push_back(s.end);
        std::vector<Point> way(at.size());
        for (std::size_t k = 1; k + 1 < at.size(); ++k)
            way[k] = unit(at[k + 1] - at[k - 1]);
        const Segment &leading = path.segments[from.segment], &following = path.segments[after(path, to.segment)];
        way.front() = unit(tangentOn(startOf(path, from.segment), leading, 1));
        way.back() = unit(tangentOn(to.at, following, 0));
        for (std::size_t k = 0; k < count; ++k) {
            Segment& s = stretch.segments[k];
            if (!s.line)
                continue;
            const double handle = distance(at[k], at[k + 1]) / 3;
            s = {at[k] + way[k] * handle, at[k + 1] - way[k + 1] * handle, s.end, false};
        }
    });
}

Point handleOf(const Path& path, std::size_t node, Handle which)
{
    return which == Handle::Before ? path.segments[node].c2 : path.segments[after(path, node)].c1;
}

std::optional<Redrawn> handleMoved(const Path& path, std::size_t node, Handle which, Point to, bool pair)
{
    if (!enough(path))
        return std::nullopt;
    Redrawn out = between(path, before(path, node), after(path, node));
    Segment &in = out.stretch.segments[0], &next = out.stretch.segments[1];
    (which == Handle::Before ? in : next).line = false;
    (which == Handle::Before ? in.c2 : next.c1) = to;
    Point& other = which == Handle::Before ? next.c1 : in.c2;
    const bool otherIsLine = which == Handle::Before ? next.line : in.line; // its direction is its own
    constexpr double nothing = 1e-9;
    if (pair && !otherIsLine && distance(to, in.end) > nothing)
        other = in.end + unit(in.end - to) * distance(other, in.end);
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

} // namespace yokai
