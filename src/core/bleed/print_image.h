// What is printed: an image with a place. Keep, clipping to a line, bleed and underprint
// are ways of making it.
#pragma once

#include "base/geometry.h"
#include "base/raster.h"
#include "base/work.h"

namespace yokai {

struct PrintImage {
    SharedRgba pixels; // alpha: how much of the colour is printed
    Affine toMm;       // from the image's pixels to the piece's mm
    double width() const { return pixels->width() * toMm.a; } // mm
    double height() const { return pixels->height() * toMm.d; }
};

// The picture as opaque as `opacity` says. Under full transparency the colours of what
// is printed run on, each place taking those of its neighbourhood (averages of ever
// larger squares), so that a reader that makes the image smaller before it applies the
// transparency mixes nothing foreign into the rim.
SharedRgba withColoursRunOn(const Rgba8& pixels, const Gray8& opacity, const Work& work = {});

} // namespace yokai
