// From a picture told apart into its colours to what one layer keeps of it.
//
// Unit: pixels.
#pragma once

#include "layers/spec.h"
#include "layers/split.h"

#include <array>
#include <optional>

namespace yokai {

// How far each pixel is of any of those colours, 0..255: what outlines are traced in. Two neighbours' add up to 255 along their border.
using ColourSet = std::array<bool, 256>; // by label; never of noColour
Gray8 coverageOf(const Split& split, const ColourSet& colours, const Work& work = {});

// Some of a picture's colours, and single areas of others.
struct ColoursOf {
    std::vector<Rgba> colours;
    std::vector<Point> areas; // as they were given to withAreas()
    bool empty() const { return colours.empty() && areas.empty(); }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("colours", self.colours);
        visit("areas", self.areas);
    }
};

struct LayerOf {
    LayerFrom from = LayerFrom::Colours; // of what lies above, its own colours count for nothing
    ColoursOf own;                       // its colours, as the picture's nearest
    ColoursOf above;                     // those of the layers that lie on it
    double spread = 0;       // under those, pixels
    bool closeCovered = false; // openings that those cover wholly are closed
};

// Its own colours, all that is spread and closed included. A colour of `own` that the picture does not have is passed over.
Gray8 layerCoverage(const Split& split, const LayerOf& layer, const Work& work = {});

// Which of the picture's colours one is: the nearest, if it is near at all; none otherwise. Never a single area.
std::optional<int> colourIn(const Split& split, Rgba colour);

} // namespace yokai
