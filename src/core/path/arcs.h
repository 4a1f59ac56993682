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

// Their path: an arc in stretches of at most an eighth of a turn each as a cubic, 4e-6 of its radius off at most.
Path pathOf(Point start, const std::vector<Arc>& arcs, bool closed);

// Of the arc that begins at `from`.
double lengthOf(Point from, const Arc& arc);
double radiusOf(Point from, const Arc& arc); // infinite of a straight line
Point centreOf(Point from, const Arc& arc);  // only of one with a bulge
Point pointOn(Point from, const Arc& arc, double t);   // 0..1 along it
Point tangentOn(Point from, const Arc& arc, double t); // of length 1
// Points after `from`, the end among them, none farther from the arc than `tolerance`.
void flatten(Point from, const Arc& arc, double tolerance, Polyline& out);

} // namespace yokai
