// The print extended past the kept edge, so that a cut that lands a little off shows no paper.
//
// How far it reaches is exact: the same line at a distance that cut lines are made of. Each place takes
// the colour of the nearest seed: a pixel of what is kept that lies a few pixels within its edge, past what
// anti-aliasing and JPEG have mixed paper into, or in the middle of what is thinner than that. So a border of
// several colours bleeds as several colours, an opening bleeds inwards, and parts bleed to half their gap.
//
// Nearest seeds are found by columns and then rows (Meijster, Roerdink and Hesselink, "A general algorithm for
// computing distance transforms in linear time", 2000), no farther than the bleed reaches.
//
// Unit: pixels of the picture.
#pragma once

#include "base/work.h"
#include "bleed/print_image.h"
#include "bleed/spec.h"
#include "outline/offset.h"

namespace yokai {

struct BleedGround {
    const Rgba8& pixels;
    const Gray8& printed;  // how opaque each is in print
    double pxPerMm = 1;
    bool lossy = false;    // its edges may have taken on the paper's colour farther in
};

// From a little within the kept edge, so that it lies under the rim of the picture, to as far as it reaches; clear
// elsewhere, and no larger than that takes. Null where the spec asks for nothing or nothing is kept.
std::shared_ptr<const PrintImage> bleedOf(const DistanceField& edge, const BleedGround& ground, const BleedSpec& spec, const Work& work = {});

} // namespace yokai
