// How far places lie from the edge of what is kept. Private to the check room.
//
// Unit: mm in the picture; the edge itself is in pixels, as in contour.h.
#pragma once

#include "outline/contour.h"

namespace yokai {

class KeptEdge {
public:
    KeptEdge(const Contours& contours, double pxPerMm);

    // Signed, positive outside; exact. Infinite where nothing is kept.
    double distanceTo(Point mm) const;

private:
    int rowOf(double y) const;

    double pxPerMm_;
    double top_ = 0;
    struct Side {
        Point from, to;
    };
    std::vector<std::vector<Side>> rows_; // those that touch each row of pixels
};

} // namespace yokai
