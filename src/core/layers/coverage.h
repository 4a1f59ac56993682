// From a picture told apart into its colours to what one layer keeps of it.
//
// Unit: pixels.
#pragma once

#include "layers/split.h"

#include <array>
#include <optional>

namespace yokai {

// How far each pixel is of any of those colours, 0..255: what outlines are traced in. Two neighbours' add up to 255 along their border.
using ColourSet = std::array<bool, 256>; // by label; never of noColour
Gray8 coverageOf(const Split& split, const ColourSet& colours, const Work& work = {});

struct LayerOf {
    std::vector<Rgba> own;   // its colours, as the picture's nearest
    std::vector<Rgba> above; // those of the layers that lie on it
    double spread = 0;       // under those, pixels
    bool closeCovered = false; // openings that those cover wholly are closed
};

// Its own colours, all that is spread and closed included. A colour of `own` that the picture does not have is passed over.
Gray8 layerCoverage(const Split& split, const LayerOf& layer, const Work& work = {});

// Which of the picture's colours one is: the nearest, if it is near at all; none otherwise.
std::optional<int> colourIn(const Split& split, Rgba colour);

} // namespace yokai
