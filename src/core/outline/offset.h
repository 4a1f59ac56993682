// A line at a distance from the kept shape.
//
// The distance is taken to the sub-pixel edge, not to pixels. A coarse lattice
// of signed distances finds where the line runs and how it is joined up (level
// lines of the distance field; vector propagation after Danielsson 1980, with the
// sub-pixel edge as in Gustavson and Strand 2011); each of its points is then put
// at exactly the asked distance from the edge, more points are set where the line
// turns, and where two fronts meet the true corner is solved for. So the lattice
// decides only what is connected, never where the line is, and it may be the
// coarser the farther the line lies.
//
// Unit: pixels, as in contour.h. Positive is outwards.
#pragma once

#include "outline/contour.h"

#include <memory>

namespace yokai {

// A closed line at one distance. Same orientation as the contours.
struct LevelLine {
    Polyline points;
    std::vector<unsigned char> corners; // one a point: two fronts meet here
    std::vector<int> source;            // one a point: the edge corner it was swept round, as an index over all the
                                        // contours' points laid end to end, else -1
};
using LevelLines = std::vector<LevelLine>;

// The edge prepared for offsets: immutable, shared between threads. Lattices are
// made when a distance first needs them and remembered.
class DistanceField {
public:
    explicit DistanceField(Contours contours);
    ~DistanceField();
    DistanceField(const DistanceField&) = delete;
    DistanceField& operator=(const DistanceField&) = delete;

    const Contours& contours() const;

    // All lines at the distance, of which there may be none. Lines of less than
    // `smallestArea` square pixels are left out. Thread-safe.
    LevelLines at(double offset, double smallestArea = 0.5, const Work& work = {}) const;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

// The exact signed distance from a point to the edge, by brute force: for checks.
double signedDistance(const Contours& contours, Point p);

} // namespace yokai
