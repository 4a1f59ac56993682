// Plain figures round a shape: boxes, circles and ellipses at a distance.
//
// Unit: the caller's, mm in the job. All figures run as a part's outline does,
// with positive area.
#pragma once

#include "outline/contour.h"

namespace yokai {

Path boxFigure(const Rect& box, double cornerRadius = 0);     // the radius at most half the shorter side
Path ellipseFigure(Point centre, double across, double down); // half axes; eight curves, within 4e-6 of itself

struct Circle {
    Point centre;
    double radius = 0;
};
// The smallest circle round the points (Welzl, "Smallest enclosing disks", 1991). Of none: radius 0.
Circle smallestCircle(std::vector<Point> points);

// The half axes of the smallest ellipse with the middle and the proportions of the
// points' box that holds them all.
Point ellipseRound(const std::vector<Point>& points);

std::vector<Point> hullOf(std::vector<Point> points); // convex, in the order of positive area

} // namespace yokai
