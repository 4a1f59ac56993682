// What a maker decides about a layer that is cut from some of the picture's colours.
#pragma once

#include "base/fields.h"
#include "base/raster.h"

#include <vector>

namespace yokai {

struct LayerColours {
    std::vector<Rgba> colours; // those of the picture's that are this layer's; several are merged
    Length spread;             // under the layers above, so that no gap shows
    bool closeCovered = true;  // openings that layers above cover wholly are closed
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("colours", self.colours, AtMost{64});
        visit("spread", self.spread, Within{0_mm, 50_mm});
        visit("close_covered", self.closeCovered);
    }
    bool operator==(const LayerColours&) const = default;
};

} // namespace yokai
