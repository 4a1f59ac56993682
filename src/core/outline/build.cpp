#include "outline/build.h"

#include "path/fit.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yokai {

namespace {

// Lines as edges for the next distance: fitted, so that chords of arcs do not add up,
// and set densely enough for the lattice.
Contours asContours(const LevelLines& lines, const Work& work)
{
    constexpr double tolerance = 0.03, spacing = 1.5;
    Contours out(lines.size());
    parallelSlices(int(lines.size()), 1, [&](int begin, int end) {
        for (int i = begin; i < end; ++i) {
            work.check();
            const LevelLine& line = lines[std::size_t(i)];
            Contour& contour = out[std::size_t(i)];
            const Path path = fitClosed(line.points, line.corners, tolerance);
            constexpr double fine = 0.01;       // px that a chord may lie off the curve
            constexpr double trueCorner = 0.35; // radians: less is where two curves meet smoothly
            const Polyline points = flatten(path, fine);
            // True corners are nodes of the path, and nodes are points of it, in their order.
            std::vector<Point> corners;
            for (std::size_t k = 0; k < path.segments.size(); ++k)
                if (path.corners[k] && turnAt(path, k) > trueCorner)
                    corners.push_back(path.segments[k].end);
            std::size_t next = 0;
            if (!corners.empty() && !points.empty() && corners.back() == points[0])
                std::rotate(corners.begin(), corners.end() - 1, corners.end());
            for (std::size_t k = 0; k < points.size(); ++k) {
                const Point a = points[k], b = points[k + 1 == points.size() ? 0 : k + 1];
                const int n = std::max(1, int(std::ceil(distance(a, b) / spacing)));
                const bool corner = next < corners.size() && corners[next] == a;
                next += corner;
                for (int j = 0; j < n; ++j) {
                    contour.points.push_back(mix(a, b, double(j) / n));
                    contour.corners.push_back(j == 0 && corner);
                }
            }
            contour.area = signedArea(contour.points);
        }
    });
    return out;
}

// The way the edge runs into (step -1) or out of (step +1) a vertex, over a few pixels.
Point direction(const Contour& c, int at, int step)
{
    const int n = int(c.points.size());
    double arc = 0;
    int k = at;
    while (arc < 7) {
        const int next = ((k + step) % n + n) % n;
        if (next == at || (k != at && c.corners[std::size_t(k)]))
            break;
        arc += distance(c.points[std::size_t(k)], c.points[std::size_t(next)]);
        k = next;
    }
    return unit(step > 0 ? c.points[std::size_t(k)] - c.points[std::size_t(at)] : c.points[std::size_t(at)] - c.points[std::size_t(k)]);
}

} // namespace

Contours joined(const DistanceField& edge, double gap, const Work& work)
{
    if (gap <= 0)
        return edge.contours();
    const DistanceField grown(asContours(edge.at(gap / 2, 0.5, work), work));
    return asContours(grown.at(-gap / 2, 0.5, work), work);
}

Contours withoutOpenings(const Contours& contours, double area, const Work& work)
{
    Contours out;
    std::vector<int> renumbered(contours.size(), -1);
    // Parents need not come before what lies in them.
    const auto gone = [&](std::size_t i) {
        for (int k = int(i); k >= 0; k = contours[std::size_t(k)].parent)
            if (contours[std::size_t(k)].opening() && -contours[std::size_t(k)].area <= area)
                return true;
        return false;
    };
    for (std::size_t i = 0; i < contours.size(); ++i) {
        if ((i & 255) == 0)
            work.check();
        if (!gone(i)) {
            renumbered[i] = int(out.size());
            out.push_back(contours[i]);
        }
    }
    for (Contour& c : out)
        if (c.parent >= 0)
            c.parent = renumbered[std::size_t(c.parent)];
    return out;
}

namespace {

constexpr double wholeSweep = 0.35;                  // radians: a sweep that ends farther from a side's normal was cut short by another front
constexpr double leastSweep = 0.3, mostSweep = 3.05; // radians: of a corner worth a tip; nearer to half a turn it is a hair's end

// What takes the place of the arc swept round a corner of the edge.
struct ShapedCorner {
    int count = 0; // 0: the arc stays
    std::array<Point, 3> points;
    std::array<bool, 3> corner;
};

// `first`, `middle`, `last` are places of the sweep round vertex `vertex`.
ShapedCorner shaped(const Contour& contour, int vertex, Point first, Point middle, Point last, double radius, Corners corners, double sharpLimit)
{
    const Point tip = contour.points[std::size_t(vertex)];
    const auto across = [&](Point d) {
        const Point normal{d.y, -d.x};
        return dot(normal, middle - tip) >= 0 ? normal : normal * -1;
    };
    const Point n0 = across(direction(contour, vertex, -1)), n1 = across(direction(contour, vertex, +1));
    const double turn = std::acos(std::clamp(dot(n0, n1), -1.0, 1.0));
    const bool whole = dot(unit(first - tip), n0) > std::cos(wholeSweep) && dot(unit(last - tip), n1) > std::cos(wholeSweep);
    if (!whole || turn <= leastSweep || turn >= mostSweep)
        return {};
    const double reach = 1 / std::cos(turn / 2);
    if (corners == Corners::Flat || reach > sharpLimit)
        return {2, {tip + n0 * radius, tip + n1 * radius, {}}, {true, true, false}};
    return {3, {tip + n0 * radius, tip + unit(n0 + n1) * (radius * reach), tip + n1 * radius}, {false, true, false}};
}

} // namespace

void shapeCorners(LevelLines& lines, const DistanceField& edge, double offset, Corners corners, double sharpLimit)
{
    const double radius = std::abs(offset);
    if (corners == Corners::Round || radius < 0.5)
        return;
    // From the running number of an edge point to its contour.
    std::vector<int> first;
    int total = 0;
    for (const Contour& c : edge.contours()) {
        first.push_back(total);
        total += int(c.points.size());
    }
    for (LevelLine& line : lines) {
        const int n = int(line.points.size());
        // Start between two sweeps, so that none is cut in two.
        int start = 0;
        while (start < n && line.source[std::size_t(start)] >= 0 && line.source[std::size_t(start)] == line.source[std::size_t((start + n - 1) % n)])
            ++start;
        if (start == n)
            continue;
        const auto at = [&](int k) { return std::size_t((start + k) % n); };
        LevelLine out;
        const auto push = [&](Point p, bool corner) {
            out.points.push_back(p);
            out.corners.push_back(corner);
            out.source.push_back(-1);
        };
        for (int k = 0; k < n;) {
            const int source = line.source[at(k)];
            int count = 1;
            while (source >= 0 && k + count < n && line.source[at(k + count)] == source)
                ++count;
            ShapedCorner made;
            if (source >= 0) {
                const auto c = std::size_t(std::upper_bound(first.begin(), first.end(), source) - first.begin() - 1);
                made = shaped(edge.contours()[c], source - first[c], line.points[at(k)], line.points[at(k + count / 2)], line.points[at(k + count - 1)], radius,
                              corners, sharpLimit);
            }
            for (int j = 0; j < made.count; ++j)
                push(made.points[std::size_t(j)], made.corner[std::size_t(j)]);
            for (int j = 0; made.count == 0 && j < count; ++j)
                push(line.points[at(k + j)], line.corners[at(k + j)]);
            k += count;
        }
        line = std::move(out);
    }
}

namespace {

// Takes out the openings under an area, and whatever lies in them.
void closeOpenings(LevelLines& lines, double under, const Work& work)
{
    if (under <= 0)
        return;
    struct Closed {
        const LevelLine* line;
        Rect box;
        double area;
    };
    std::vector<double> areas;
    std::vector<Closed> closed;
    for (const LevelLine& line : lines) {
        areas.push_back(signedArea(line.points));
        if (areas.back() < 0 && -areas.back() < under)
            closed.push_back({&line, bounds(line.points), -areas.back()});
    }
    if (closed.empty())
        return;
    std::sort(closed.begin(), closed.end(), [](const Closed& a, const Closed& b) { return a.box.x0 < b.box.x0; });
    LevelLines out;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        if ((i & 255) == 0)
            work.check();
        if (areas[i] < 0 && -areas[i] < under)
            continue;
        const Point at = lines[i].points.front();
        bool swallowed = false;
        for (std::size_t k = 0; k < closed.size() && closed[k].box.x0 <= at.x && !swallowed; ++k)
            swallowed = closed[k].area > std::abs(areas[i]) && closed[k].box.contains(at) && contains(closed[k].line->points, at);
        if (!swallowed)
            out.push_back(lines[i]);
    }
    lines = std::move(out);
}

} // namespace

LevelLines buildLines(const DistanceField& edge, const BuildSpec& spec, const Work& work)
{
    LevelLines lines;
    if (spec.roundInside > 0 && spec.corners == Corners::Round) {
        // Grown by the radius more and shrunk again, the region has no inside corner tighter than it.
        const DistanceField grown(asContours(edge.at(spec.offset + spec.roundInside, 0.5, work), work));
        lines = grown.at(-spec.roundInside, 0.5, work);
    } else {
        lines = edge.at(spec.offset, 0.5, work);
        shapeCorners(lines, edge, spec.offset, spec.corners, spec.sharpLimit);
        if (spec.roundInside > 0) { // the same on the line itself, so that its sharp corners stay
            const DistanceField line(asContours(lines, work));
            const DistanceField grown(asContours(line.at(spec.roundInside, 0.5, work), work));
            lines = grown.at(-spec.roundInside, 0.5, work);
        }
    }
    closeOpenings(lines, spec.openingsOver, work);
    return lines;
}

Paths fitLines(const LevelLines& lines, double tolerance, const Work& work)
{
    Paths paths(lines.size());
    parallelSlices(int(lines.size()), 1, [&](int begin, int end) {
        for (int i = begin; i < end; ++i) {
            work.check();
            paths[std::size_t(i)] = fitClosed(lines[std::size_t(i)].points, lines[std::size_t(i)].corners, tolerance);
        }
    });
    std::erase_if(paths, [](const Path& p) { return p.segments.empty(); });
    return paths;
}

} // namespace yokai
