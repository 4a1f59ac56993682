// The bulge that a camera's lens gives to its pictures.
#pragma once

#include "base/geometry.h"

namespace yokai {

// A place at a distance r from the picture's middle, in halves of its diagonal, is seen (1 + bulge r2) times as far out.
struct Lens {
    Point middle;
    double half = 1; // pixels
    double bulge = 0;
    Point straight(Point seen) const; // as a lens without a bulge would have it
    Point bent(Point straight) const;
};

} // namespace yokai
