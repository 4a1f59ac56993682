// Photos of a printed sheet, made up: a mat, the sheet with its marks and pictures, a camera held at a slant, a lens that bulges, uneven
// light, a little out of focus, noise and dust. Where each mark's middle comes to lie is known.
#pragma once

#include "base/raster.h"
#include "sheet/marks.h"

#include <random>
#include <vector>

namespace yokai::test {

struct Shot {
    double tilt = 0, tiltWay = 0, turn = 0; // degrees
    double bulge = 0;
    double unevenness = 0, blur = 0, noise = 0;
    int dust = 0;
    int hidden = -1; // a mark that something lies on
    int width = 4000, height = 3000;
    bool pictures = true;
};

struct Photo {
    Rgba8 picture;
    std::vector<Point> marks; // pixels, the first's corner at (0, 0)
    double pxPerMm = 1;
};

// Marks in mm, y down, on a sheet of this size.
Photo photograph(const std::vector<Mark>& marks, double sheetWidth, double sheetHeight, const Shot& shot, unsigned seed);
// As a hand with a telephone would: within 20 degrees of upright, any way up if `anyWay`.
Shot carelessShot(std::mt19937& random, bool anyWay);

} // namespace yokai::test
