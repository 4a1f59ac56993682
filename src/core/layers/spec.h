// What a maker decides about a layer that is cut from some of the picture's colours.
#pragma once

#include "base/fields.h"
#include "base/geometry.h"
#include "base/raster.h"

#include <optional>
#include <vector>

namespace yokai {

// What a layer is made of: some of the picture's colours, or all that lies above it, as a backing is.
enum class LayerFrom { Colours, Above };
constexpr std::array<Named<LayerFrom>, 2> namesOf(LayerFrom) { return {{{LayerFrom::Colours, "colours"}, {LayerFrom::Above, "above"}}}; }

struct LayerColours {
    LayerFrom from = LayerFrom::Colours;
    std::vector<Rgba> colours; // those of the picture's that are this layer's; several are merged
    std::vector<Point> areas;  // source pixels: single areas of a colour that hold these places are this layer's, whosever the colour is
    std::optional<Rgba> stock = std::nullopt; // the colour of what it is cut from; none: as the picture's
    Length spread;             // under the layers above, so that no gap shows
    bool closeCovered = true;  // openings that layers above cover wholly are closed
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("from", self.from);
        visit("colours", self.colours, AtMost{64});
        visit("areas", self.areas, AtMost{1000});
        visit("stock", self.stock, Label{});
        visit("spread", self.spread, Within{0_mm, 50_mm});
        visit("close_covered", self.closeCovered);
    }
    bool operator==(const LayerColours&) const = default;
};

} // namespace yokai
