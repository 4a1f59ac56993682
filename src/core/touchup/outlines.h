// Closed outlines as an edit holds them: where one starts, then of each curve its two handles and its end.
#pragma once

#include "path/path.h"

namespace yokai {

std::vector<Point> pointsOf(const Path& outline);
Path curvesOf(const std::vector<Point>& points, bool closed = true); // no segments of too few points

} // namespace yokai
