// How large a drawing is: from what its root element says, read by ourselves before any renderer sees it.
//
// Unit: mm.
#pragma once

#include "base/file.h"

#include <optional>
#include <string_view>

namespace yokai {

constexpr double cssUnitsAnInch = 96; // W3C CSS Values: 1 px is 1/96 in

// A length with a unit; a bare number and px in the file's own units. None where it is no length, as a percentage.
std::optional<double> svgLength(std::string_view text, double unitsAnInch);

struct SvgSize {
    double width = 0, height = 0;
    bool physical = false; // in mm, in, pt ...: else its own units were taken as so many an inch
};

bool looksLikeSvg(const Bytes& bytes);
// None where it is no SVG that can be parsed, or says no size at all.
std::optional<SvgSize> svgSize(const Bytes& bytes, double unitsAnInch = cssUnitsAnInch);

} // namespace yokai
