// Paths of straight lines and cubic curves: what a cut line is. They are closed
// unless they say otherwise.
//
// Unit: whatever the caller works in, mm everywhere outside the outline room.
// Orientation: with y down, a path that runs round a part has positive area and
// an opening negative area. Degenerate paths (no segments) measure as nothing.
#pragma once

#include "base/geometry.h"

#include <span>
#include <vector>

namespace yokai {

using Polyline = std::vector<Point>; // closed: the last point joins the first

// The index in a closed run of n points of one that is at most one turn off: a remainder
// costs more than all else that is done with a point.
template <class Index> constexpr Index around(Index i, Index n) { return i >= n ? i - n : i < 0 ? i + n : i; }

struct Segment {
    Point c1, c2, end; // for a line c1 and c2 lie on it at one and two thirds
    bool line = false;
};

struct Path {
    Point start;
    std::vector<Segment> segments; // the last one ends at start
    std::vector<bool> corners;     // one a segment: is its end a true corner?
    bool closed = true;            // else the last segment ends apart from start

    std::size_t nodes() const { return segments.size(); }
    void lineTo(Point p, bool corner = true);
    void curveTo(Point c1, Point c2, Point p, bool corner = false);
    // Along a circle round `centre`, towards falling or rising angles; off it by up to 3e-5 of the radius.
    void arcTo(Point centre, Point p, bool rising);
    // Visits (from, segment) in order.
    template <class F> void each(F&& f) const
    {
        Point from = start;
        for (const Segment& s : segments) {
            f(from, s);
            from = s.end;
        }
    }
};
using Paths = std::vector<Path>;

Point pointOn(Point from, const Segment& s, double t);
Point tangentOn(Point from, const Segment& s, double t); // not normalised; never zero unless the segment is a point
double curvatureOn(Point from, const Segment& s, double t); // signed: positive where it bends as a part's outline does; 0 of a line
double turnAt(const Path& path, std::size_t k);          // how far a closed path turns at the end of segment k, 0..pi

double signedArea(const Path& path); // exact (Green's theorem on the cubics)
double signedArea(std::span<const Point> polyline);
double length(const Path& path); // within 1e-6 of itself
double length(std::span<const Point> polyline);
Rect bounds(const Path& path); // exact extremes
Rect bounds(const Paths& paths);
Rect bounds(std::span<const Point> polyline);

// Points no farther than `tolerance` from the path; each node is among them, an open path's end too.
Polyline flatten(const Path& path, double tolerance);
Path transformed(const Path& path, const Affine& map); // keeps the drawing order; a mirror flips the sign of the area
Paths transformed(const Paths& paths, const Affine& map);
Path withoutPoints(Path path); // segments of no length left out: they have no direction
Path polygonPath(std::span<const Point> polyline);

// The path as dashes of about `cut` with about `gap` between them, open paths in its order.
// Dashes are stretched by up to a quarter so that the pattern comes out even between clear corners, each of which lies in the
// middle of a dash, as the ends of an open path do half of one; without corners a closed path's start does. Over corners that lie too
// near to one another for that it goes on. Gaps are as asked. A gap of 0 gives the path as it is.
Paths dashed(const Path& path, double cut, double gap);

// How a path is interrupted: by a pattern of dashes, or where `middles` lie along it and nowhere else.
struct Breaks {
    double cut = 0, gap = 0;
    std::vector<double> middles; // of gaps, in rising order, from the path's start
};
// What is left of the path: open paths in its order, or itself where nothing interrupts it. Gaps that
// meet are one; nothing of a path that is all gap.
Paths broken(const Path& path, const Breaks& breaks);

double areaOf(const Paths& paths);
double lengthOf(const Paths& paths);
std::size_t nodesOf(const Paths& paths);

bool contains(std::span<const Point> polyline, Point p); // even-odd

} // namespace yokai
