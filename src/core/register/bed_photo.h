// A photo of a machine's whole bed as a measure of it: where the bed's corners are seen in it says where everything else lies.
//
// Unit: pixels as in find_marks.h; the bed in mm, y away from the user.
#pragma once

#include "register/find_marks.h"

#include <array>

namespace yokai {

// Near left, near right, far right, far left.
using BedCorners = std::array<Point, 4>;

struct BedPhoto {
    BedCorners corners;
    double width = 0, depth = 0; // of the bed
    Lens lens;
    // Throws Error(Input) where the corners are not those of a bed: crossed over, or all in a line.
    Point onBed(Point px) const;
};
// Where the corners should be in a picture of that size, until somebody has said better.
BedCorners likelyCorners(double width, double height);

// The bed from right above, so many pixels a mm, its far left corner the picture's top left one.
Rgba8 fromAbove(const Rgba8& picture, const BedPhoto& photo, double pxPerMm, const Work& work = {});

} // namespace yokai
