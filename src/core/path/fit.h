// Smooth curves through dense points.
//
// Fits a closed run of points with as few cubic curves as it can, none farther
// than `tolerance` from any of the points, meeting without a kink except at the
// corners the caller marks. The single-curve fit is the least-squares fit with
// given end tangents and Newton reparametrisation of Schneider, "An Algorithm
// for Automatically Fitting Digitized Curves", Graphics Gems (1990); how far each
// curve reaches is searched for, not split in the middle, which is what keeps the
// node count low.
#pragma once

#include "base/work.h"
#include "path/path.h"

#include <span>

namespace yokai {

// `corners` has one entry a point (non-zero: a true corner) or is empty.
// Fewer than three points give an empty path.
Path fitClosed(std::span<const Point> points, std::span<const unsigned char> corners, double tolerance);

// An open run, as it is; its ends are corners. Fewer than two points give an empty path.
Path fitOpen(std::span<const Point> points, std::span<const unsigned char> corners, double tolerance);

// A path fitted anew to within `tolerance` of its points `apart` from each other, its clear corners
// kept.
Path refitted(const Path& path, double tolerance, double apart);

// The largest distance from any of the points to the path, by brute force over
// the flattened path: for checks, not for speed.
double deviation(std::span<const Point> points, const Path& path);

} // namespace yokai
