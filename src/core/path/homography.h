// A projective map of the plane: what a camera that looks at it from one side makes of it.
#pragma once

#include "base/geometry.h"
#include "path/path.h"

#include <array>
#include <optional>

namespace yokai {

// Affine ones have g = h = 0.
struct Homography {
    Affine affine;
    double g = 0, h = 0;
    Point operator()(Point p) const;
    Path operator()(const Path& path) const; // exact for affine maps; control points else, which suits the slight tilts of a bed
    Homography inverse() const;
    double areaAt(Point p) const; // how many times as large a small area there becomes; below 0 where it is turned over
};

// Top left, top right, bottom right, bottom left, y down.
using Corners4 = std::array<Point, 4>;

// The map that brings four places to four others. None where three of either lie in a line, or their sides cross.
std::optional<Homography> homographyOf(const Corners4& from, const Corners4& to);

} // namespace yokai
