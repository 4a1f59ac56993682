// How far places lie from the edge of what is kept, and where it is nearest.
//
// Unit: mm in the picture; the edge itself is in pixels, as in contour.h.
#pragma once

#include "outline/contour.h"

namespace yokai {

class KeptEdge {
public:
    KeptEdge(const Contours& contours, double pxPerMm);

    struct Nearest {
        double away = 0; // signed, positive outside; exact. Infinite where nothing is kept
        Point at;        // of the edge
        Point out;       // the unit vector out of what is kept, there
    };
    Nearest nearest(Point mm) const;
    double distanceTo(Point mm) const { return nearest(mm).away; }

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
