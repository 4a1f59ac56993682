// All contours' points laid end to end, and the nearest place of them.
// Private to the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "outline/contour.h"

#include <limits>
#include <vector>

namespace yokai {

struct Edge {
    // A contour's points, first..end - 1.
    struct Range {
        int first, end;
    };

    Edge() = default;
    explicit Edge(const Contours& contours);

    std::vector<Point> points;
    std::vector<int> contour; // one a point: an index into `ranges`
    std::vector<Range> ranges;
    std::vector<unsigned char> corner;
    Rect box = Rect::nothing();

    const Range& rangeOf(int v) const { return ranges[std::size_t(contour[std::size_t(v)])]; }
    // A point's neighbours along its contour.
    int next(int v) const { return v + 1 == rangeOf(v).end ? rangeOf(v).first : v + 1; }
    int before(int v) const { return v == rangeOf(v).first ? rangeOf(v).end - 1 : v - 1; }
};

struct Nearest {
    int vertex = -1; // the nearer end of the nearest segment
    int other = -1;  // its other end; -1 where the vertex itself is nearest
    Point at;        // the nearest point of the edge
    double squared = std::numeric_limits<double>::infinity();
};

// Improves `best` by the nearest point of the edge, walking along it from a vertex nearby.
void walk(const Edge& edge, Point p, int start, Nearest& best);

// How many points a stretch of the edge has at most: a few, and what the nearest places of
// neighbouring samples, `step` apart, move on by.
constexpr int pointsOfAStretch(double step) { return 4 + int(2 * step); }

// Whether two points of the edge are of one stretch of it. Numbers alone do not tell, as
// contours follow one another.
inline bool oneStretch(const Edge& edge, double step, int a, int b)
{
    const int apart = a < b ? b - a : a - b;
    return apart <= pointsOfAStretch(step) && edge.contour[std::size_t(a)] == edge.contour[std::size_t(b)];
}

// Whether p, whose nearest place of the edge is given, lies within the shape. At a vertex the
// two segments' normals are added up (Baerentzen and Aanaes 2005, in the plane).
bool within(const Edge& edge, Point p, const Nearest& nearest);

} // namespace yokai
