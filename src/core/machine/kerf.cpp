#include "machine/kerf.h"

#include "machine/track.h"
#include "path/cut.h"
#include "path/fit.h"

#include <polyclipping/clipper.hpp>

#include <numbers>
#include <optional>
#include <vector>

namespace yokai {

namespace {

constexpr double unitsAMm = 1e5;
constexpr double mitreLimit = 6;    // times the offset: a sharper corner is cut flat there
constexpr double cornerTurn = 0.35; // radians: where the offset of a smooth curve turns by less, at these steps
constexpr double nearestMm = 1e-4;  // points nearer to one another are one

double turnOfCorner(const Polyline& points, std::size_t i)
{
    const std::size_t n = points.size();
    const Point in = points[i] - points[around(i + n - 1, n)], out = points[around(i + 1, n)] - points[i];
    return std::abs(std::atan2(cross(in, out), dot(in, out)));
}

Polyline withoutTwins(const Polyline& points)
{
    Polyline out;
    for (const Point p : points)
        if (out.empty() || distance(out.back(), p) > nearestMm)
            out.push_back(p);
    while (out.size() > 1 && distance(out.front(), out.back()) <= nearestMm)
        out.pop_back();
    return out;
}

// Where the circles or lines that two arcs are of meet, nearest to a place.
std::optional<Point> meeting(Point fromA, const Arc& a, Point fromB, const Arc& b, Point near)
{
    std::vector<Point> found;
    if (a.bulge == 0 && b.bulge == 0) {
        const Point u = a.end - fromA, v = b.end - fromB;
        if (const double d = cross(u, v); std::abs(d) > 1e-12)
            found.push_back(fromA + u * (cross(fromB - fromA, v) / d));
    } else if (a.bulge != 0 && b.bulge != 0) {
        const Point p = centreOf(fromA, a), q = centreOf(fromB, b);
        const double r = radiusOf(fromA, a), s = radiusOf(fromB, b), d = distance(p, q);
        const double along = d > 0 ? (d * d + r * r - s * s) / (2 * d) : 0, square = r * r - along * along;
        if (d > 0 && square >= 0)
            for (const double side : {1.0, -1.0})
                found.push_back(p + unit(q - p) * along + Point{-unit(q - p).y, unit(q - p).x} * (side * std::sqrt(square)));
    } else {
        const bool lineFirst = a.bulge == 0;
        const Point from = lineFirst ? fromA : fromB, way = unit((lineFirst ? a.end : b.end) - from);
        const Point centre = lineFirst ? centreOf(fromB, b) : centreOf(fromA, a);
        const double r = lineFirst ? radiusOf(fromB, b) : radiusOf(fromA, a), along = dot(centre - from, way), off = cross(way, centre - from);
        if (r * r >= off * off)
            for (const double side : {1.0, -1.0})
                found.push_back(from + way * (along + side * std::sqrt(r * r - off * off)));
    }
    std::optional<Point> best;
    for (const Point p : found)
        if (!best || distance(p, near) < distance(*best, near))
            best = p;
    return best;
}

// One piece moved to its left by `by` (negative: to its right), before its neighbours cut it off.
struct MovedArc {
    Point from;
    Arc arc;
    Point in, out; // the directions at its ends
};

// An arc's bulge once its ends were moved along its circle.
double bulgeBetween(Point from, Point to, Point centre, bool left)
{
    const double turn = std::atan2(cross(from - centre, to - centre), dot(from - centre, to - centre));
    return std::tan((left ? turn < 0 ? turn + 2 * std::numbers::pi : turn : turn > 0 ? turn - 2 * std::numbers::pi : turn) / 4);
}

// Arcs and lines beside those of a closed track; nothing where one would turn inside out or miss its neighbour.
std::optional<Track> beside(const Track& track, double by)
{
    constexpr double kink = 0.02; // radians: what turns by less has no corner
    std::vector<MovedArc> moved;
    bool fits = true;
    track.each([&](Point from, const Arc& arc) {
        const Point in = tangentOn(from, arc, 0), out = tangentOn(from, arc, 1);
        // On the outside of a bend the circle grows, on the inside it shrinks.
        if (arc.bulge != 0 && radiusOf(from, arc) + (arc.bulge > 0 ? -by : by) < nearestMm * 10)
            fits = false;
        moved.push_back({from + Point{-in.y, in.x} * by, {arc.end + Point{-out.y, out.x} * by, arc.bulge}, in, out});
    });
    if (!fits || moved.size() < 2)
        return std::nullopt;
    const std::size_t n = moved.size();
    std::vector<std::optional<Point>> ends(n), starts(n);
    std::vector<Polyline> mitres(n); // after each piece
    for (std::size_t i = 0; i < n; ++i) {
        const MovedArc &a = moved[i], &b = moved[around(i + 1, n)];
        const double turn = std::atan2(cross(a.out, b.in), dot(a.out, b.in));
        const std::size_t next = around(i + 1, n);
        if (std::abs(turn) < kink) {
            ends[i] = starts[next] = mix(a.arc.end, b.from, 0.5);
        } else if ((turn > 0) == (by > 0)) { // inside the corner: up to where they meet
            const auto meet = meeting(a.from, a.arc, b.from, b.arc, mix(a.arc.end, b.from, 0.5));
            if (!meet)
                return std::nullopt;
            ends[i] = starts[next] = *meet;
        } else { // outside it: on along both directions, to a point or cut off flat
            const Arc on{a.arc.end + a.out, 0}, back{b.from + b.in, 0};
            const auto tip = meeting(a.arc.end, on, b.from, back, a.arc.end);
            ends[i] = a.arc.end;
            starts[next] = b.from;
            if (tip && distance(*tip, a.arc.end) < mitreLimit * std::abs(by)) {
                // Straight pieces just go on; after an arc a straight piece of its own does.
                if (a.arc.bulge == 0)
                    ends[i] = *tip;
                else
                    mitres[i] = {*tip};
                if (b.arc.bulge == 0)
                    starts[next] = *tip;
            }
        }
    }
    Track out{*starts[0], {}};
    Point at = out.start;
    for (std::size_t i = 0; i < n; ++i) {
        const MovedArc& m = moved[i];
        Arc arc{*ends[i], 0};
        if (m.arc.bulge != 0)
            arc.bulge = bulgeBetween(at, arc.end, centreOf(m.from, m.arc), m.arc.bulge > 0);
        // A piece that comes out longer than its whole way round was turned inside out.
        if (dot(arc.end - at, m.arc.end - m.from) <= 0 || std::abs(std::atan(arc.bulge)) > std::abs(std::atan(m.arc.bulge)) + 0.3)
            return std::nullopt;
        out.arcs.push_back(arc);
        for (const Point p : mitres[i])
            out.arcs.push_back({p, 0});
        at = *starts[around(i + 1, n)];
        if (distance(out.end(), at) > nearestMm)
            out.arcs.push_back({at, 0});
    }
    return out;
}

std::vector<Polyline> besideFlattened(const Path& path, double by, double tolerance, bool positive)
{
    ClipperLib::Path outline;
    for (const Point p : flatten(path, tolerance / 4))
        outline.emplace_back(std::llround(p.x * unitsAMm), std::llround(p.y * unitsAMm));
    if (!positive)
        ClipperLib::ReversePath(outline);
    ClipperLib::ClipperOffset offset(mitreLimit, tolerance / 4 * unitsAMm);
    offset.AddPath(outline, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
    ClipperLib::Paths found;
    offset.Execute(found, by * unitsAMm);
    std::vector<Polyline> out;
    for (const ClipperLib::Path& ring : found) {
        if (!ClipperLib::Orientation(ring))
            continue; // what a bend outwards encloses of its own is no line that was asked for
        Polyline moved;
        for (const ClipperLib::IntPoint& p : ring)
            moved.push_back({double(p.X) / unitsAMm, double(p.Y) / unitsAMm});
        if (moved = withoutTwins(moved); moved.size() >= 3)
            out.push_back(std::move(moved));
    }
    return out;
}

// Moved by `by` and back again, in polyclipping's units.
ClipperLib::Paths thereAndBack(const ClipperLib::Path& outline, double by, double tolerance)
{
    ClipperLib::Paths moved, back;
    ClipperLib::ClipperOffset there(mitreLimit, tolerance * unitsAMm);
    there.AddPath(outline, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
    there.Execute(moved, by * unitsAMm);
    ClipperLib::ClipperOffset home(mitreLimit, tolerance * unitsAMm);
    home.AddPaths(moved, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
    home.Execute(back, -by * unitsAMm);
    return back;
}

Polyline polylineOf(const ClipperLib::Path& ring)
{
    Polyline out;
    for (const ClipperLib::IntPoint& p : ring)
        out.push_back({double(p.X) / unitsAMm, double(p.Y) / unitsAMm});
    return out;
}

} // namespace

std::vector<KerfLoss> lostBeside(const Path& path, double by, double tolerance)
{
    if (!path.closed || by == 0 || path.segments.empty())
        return {};
    constexpr double corner = 0.5; // of the kerf's square: what a corner loses by being cut flat is less
    ClipperLib::Path outline;
    for (const Point p : flatten(path, tolerance))
        outline.emplace_back(std::llround(p.x * unitsAMm), std::llround(p.y * unitsAMm));
    if (!ClipperLib::Orientation(outline))
        ClipperLib::ReversePath(outline);
    ClipperLib::Paths lost;
    ClipperLib::Clipper clipper;
    const ClipperLib::Paths kept = thereAndBack(outline, by, tolerance);
    // Inwards what is narrow is gone; outwards what is narrow between two sides is filled.
    clipper.AddPath(outline, by < 0 ? ClipperLib::ptSubject : ClipperLib::ptClip, true);
    clipper.AddPaths(kept, by < 0 ? ClipperLib::ptClip : ClipperLib::ptSubject, true);
    clipper.Execute(ClipperLib::ctDifference, lost, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    std::vector<KerfLoss> out;
    const double kerf = 2 * std::abs(by);
    for (const ClipperLib::Path& ring : lost) {
        const Polyline points = polylineOf(ring);
        const double area = signedArea(points);
        if (kept.empty()) {
            // All of it: as wide as the widest circle in it, by halving.
            double fits = 0, past = kerf / 2;
            while (past - fits > tolerance / 2) {
                const double tried = (fits + past) / 2;
                (besideFlattened(path, -tried, tolerance, signedArea(path) > 0).empty() ? past : fits) = tried;
            }
            return {{bounds(points).centre(), 2 * fits}};
        }
        if (area < corner * kerf * kerf)
            continue;
        // A slit: its area along half of what goes round it.
        out.push_back({points.front(), std::min(kerf, 2 * area / length(std::span<const Point>(points)))});
    }
    return out;
}

Paths movedAside(const Path& path, double by, double tolerance, const Work& work)
{
    if (!path.closed || by == 0 || path.segments.empty())
        return {path};
    work.check();
    const bool positive = signedArea(path) > 0;
    const std::vector<Polyline> rings = besideFlattened(path, by, tolerance, positive);
    // What lies outside is to the right of a line that goes round counter-clockwise.
    const Track track = trackOf(path, tolerance / 2);
    if (rings.size() == 1)
        if (const auto exact = beside(track, positive ? -by : by)) {
            const double area = signedArea(rings.front()), own = signedArea(std::span<const Point>(flatten(*exact, tolerance / 4))) * (positive ? 1 : -1);
            // Both are as near to the truth as the tolerance all along; a loop of its own would be more.
            if (std::abs(area - own) < length(std::span<const Point>(rings.front())) * tolerance)
                return {pathOf(exact->start, exact->arcs, true)};
        }
    Paths out;
    for (const Polyline& moved : rings) {
        std::vector<unsigned char> corners(moved.size());
        for (std::size_t i = 0; i < moved.size(); ++i)
            corners[i] = turnOfCorner(moved, i) > cornerTurn;
        Path fitted = fitClosed(moved, corners, tolerance / 2);
        if (!fitted.segments.empty())
            out.push_back(positive ? std::move(fitted) : reversed(fitted));
    }
    return out;
}

} // namespace yokai
