// From a level line's rough way to the line itself: every point at exactly the asked distance
// from the edge, more of them where it turns, and corners where two fronts meet. Private to
// the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "outline/level.h"
#include "outline/offset.h"

namespace yokai {

// Puts points where they belong. Edge, lattice and spots must outlive it.
class Placer {
public:
    struct Placed {
        Point at;
        Point normal; // away from the nearest edge point
        Nearest foot;
    };

    Placer(const Edge& edge, const Lattice& lattice, const Spots& spots, double offset);
    double step() const { return lattice_.step; }

    // Moves a rough point to exactly the asked distance from its nearest edge point. `hintA`,
    // `hintB`: points of the edge that may be near it. False where nothing is near.
    bool place(Point rough, Placed& out, int hintA = -1, int hintB = -1) const;

    // Where a point keeps the distance to two stretches of the edge at once. False where they
    // do not meet there.
    bool meet(const Placed& a, const Placed& b, Point& at) const;

    // The edge's corner round which a point was swept, or -1.
    int sourceOf(const Placed& p) const;

private:
    // The cell of the lattice that a point lies in.
    struct Cell {
        int i, j;
        bool operator==(const Cell&) const = default;
    };
    Cell cellOf(Point p) const;
    int oneStretchRound(Cell cell, int hintA, int hintB) const;
    Nearest nearest(Point p, int hintA, int hintB, bool& contested) const;

    const Edge& edge_;
    const Lattice& lattice_;
    const Spots& spots_;
    double offset_, radius_;
};

// Where two fronts run almost along each other, the line would dart into the slit
// between them and back: no tool can follow that, and nothing is gained by it.
void removeSpikes(LevelLine& line);

// Empty where less than three points are left.
LevelLine refined(const Polyline& rough, const Placer& placer);

} // namespace yokai
