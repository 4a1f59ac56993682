// How a picture's colours are told apart.
#pragma once

#include "base/fields.h"
#include "base/raster.h"

#include <vector>

namespace yokai {

// What the picture is: drawn in plain colours, or shaded, as photos are, so that it is reduced to some.
enum class SplitOf { Drawing, Photo };
constexpr std::array<Named<SplitOf>, 2> namesOf(SplitOf) { return {{{SplitOf::Drawing, "drawing"}, {SplitOf::Photo, "photo"}}}; }

struct SplitSpec {
    SplitOf of = SplitOf::Drawing;
    int colours = 0;   // so many; 0: as many as there are, and six of a photo
    double merge = 10; // CIEDE2000 under which two are one
    double speckle = 0; // mm2: areas of a colour under this are given to what lies round them
    std::vector<Rgba> picked; // by hand: colours of their own, however like another one they are
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("of", self.of);
        visit("colours", self.colours, Within{0, 64});
        visit("merge", self.merge, Within{0.5, 60.0});
        visit("speckle_mm2", self.speckle, Within{0.0, 1000.0});
        visit("picked", self.picked, AtMost{64});
    }
    bool operator==(const SplitSpec&) const = default;
};

} // namespace yokai
