// Colours as eyes tell them apart: sRGB (IEC 61966-2-1) to CIELAB under D65, and
// the CIEDE2000 difference (CIE 142-2001, as set out by Sharma, Wu and Dalal 2005).
#pragma once

#include "base/raster.h"

#include <optional>
#include <string>
#include <string_view>

namespace yokai {

struct Lab {
    double L = 0, a = 0, b = 0;
};

// A colour written as #rrggbb, in either case; none of anything else. And back.
std::optional<Rgba> colourFrom(std::string_view text);
std::string hexOf(Rgba colour);

int lightnessOf(Rgba colour); // L* alone, to the nearest whole one, and quickly
Lab labOf(Rgba colour); // alpha ignored
double ciede2000(const Lab& x, const Lab& y);

} // namespace yokai
