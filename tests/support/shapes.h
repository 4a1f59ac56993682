// Shapes whose truth is known, drawn with anti-aliasing for the tests.
#pragma once

#include "base/raster.h"
#include "outline/contour.h"

#include <functional>

namespace yokai::test {

constexpr double pxPerMm300 = 300 / 25.4;

// Box-filtered coverage of `inside`, from 16 x 16 samples a pixel; px units.
Gray8 drawn(int width, int height, const std::function<bool(double, double)>& inside);
// Drawn by OpenCV sixteen times as fine and averaged down: the first outline is filled, the
// others are taken out of it. Its pixels are drawn a sixteenth of a pixel wide at the rim.
Gray8 drawnFine(const std::vector<Polyline>& outlines, int width, int height);
Contours truth(Polyline points); // one exact contour
Polyline star(Point centre, double inner, double outer, int tips, double turn);
Polyline lobes(Point centre, double radius, double depth, int count);

// The largest distance between where a path runs and `offset` from the true edge, px.
double worst(const Paths& paths, const Contours& truth, double offset);

// Straight from coverage to fitted lines, as the job does it; px units.
Paths outlineAt(const Gray8& coverage, double offset, double tolerance = 0.012 * pxPerMm300);

} // namespace yokai::test
