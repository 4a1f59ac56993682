// A path as arcs of circles and straight lines, for formats and machines that know no other curves: two arcs that meet smoothly
// (a biarc) for each stretch of a curve, which is halved until they lie near enough.
// The joint where both arcs are alike: Bolton, Biarc curves, Computer-Aided Design 7 (1975).
#pragma once

#include "path/path.h"

namespace yokai {

struct Arc {
    Point end;
    double bulge = 0; // the tangent of a quarter of its angle, positive from +x towards +y; 0: a straight line
};

// One after another from the path's start; none farther from it than `tolerance`.
std::vector<Arc> arcsOf(const Path& path, double tolerance);

} // namespace yokai
