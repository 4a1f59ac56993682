// The edge of the kept shape, to a fraction of a pixel.
//
// Marching squares (Lorensen and Cline 1987, in the plane) over anti-aliased
// coverage: a pixel's coverage is sampled at its centre and the edge runs where
// it crosses one half, so a shape drawn with anti-aliasing comes back within a
// few hundredths of a pixel.
//
// Unit: pixels; pixel (i, j) covers [i, i+1] x [j, j+1]; y down. Beyond the
// picture nothing is kept, so every contour is closed. A contour round a part has
// positive area, one round an opening negative.
#pragma once

#include "base/raster.h"
#include "base/work.h"
#include "path/path.h"

#include <vector>

namespace yokai {

struct Contour {
    Polyline points;
    std::vector<unsigned char> corners; // one a point, or empty: a true corner of the shape
    double area = 0;                    // signed
    int parent = -1;                    // the contour directly round this one
    bool opening() const { return area < 0; }
};
using Contours = std::vector<Contour>; // in the order of their topmost pixel row

Contours traceEdge(const Gray8& coverage, const Work& work = {});

// Finds the true corners of a traced edge and puts back their tips, which
// anti-aliasing blunts: where the edge, followed up to a corner from either side,
// arrives with two clearly different directions, the two sides are run on to
// where they meet. `softness`: the standard deviation of smoothing the coverage went
// through, which blunts farther.
void sharpenCorners(Contours& contours, double softness = 0, const Work& work = {});

// How far the points of the edge stray from its course, as noise, compression and coarse
// drawing make them: the median over up to 2 000 places of the root mean square distance
// from a parabola through eleven points. Up to 0.01 for a clean edge, 0 where there is too
// little of it. Only places between two rows count, as the rest may be cut off.
double roughnessOf(const Contours& contours, double top, double bottom);

} // namespace yokai
