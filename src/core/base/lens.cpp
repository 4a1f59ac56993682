#include "base/lens.h"

namespace yokai {

Point Lens::bent(Point p) const
{
    const Point d = p - middle;
    return middle + d * (1 + bulge * dot(d, d) / (half * half));
}

Point Lens::straight(Point seen) const
{
    if (bulge == 0)
        return seen;
    Point p = seen; // a few turns of a map that draws together
    for (int k = 0; k < 12; ++k) {
        const Point d = p - middle;
        p = middle + (seen - middle) * (1 / (1 + bulge * dot(d, d) / (half * half)));
    }
    return p;
}

} // namespace yokai
