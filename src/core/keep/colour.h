// Colours as eyes tell them apart: sRGB (IEC 61966-2-1) to CIELAB under D65, and
// the CIEDE2000 difference (CIE 142-2001, as set out by Sharma, Wu and Dalal 2005).
#pragma once

#include "base/raster.h"

namespace yokai {

struct Lab {
    double L = 0, a = 0, b = 0;
};

Lab labOf(Rgba colour); // alpha ignored
double ciede2000(const Lab& x, const Lab& y);

} // namespace yokai
