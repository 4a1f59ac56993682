// Work on a label raster: small areas given away, borders smoothed, single areas named.
//
// Unit: pixels.
#pragma once

#include "layers/split.h"

namespace yokai::labels {

// Areas (joined by sides) under `least` pixels become what most of their border is; those that border only on nothing stay.
void despeckle(Split& split, double least, const Work& work);

// Where colours meet, each has the share of a small neighbourhood that is its own, weighted by nearness; of more than two, the two most.
void soften(Split& split, const Work& work);

} // namespace yokai::labels
