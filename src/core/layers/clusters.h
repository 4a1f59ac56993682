// The colours of a picture, found in cells of colour space: of a drawing merged until they differ enough, of a photo reduced to so many
// (Ward's merging, then Lloyd's iteration). Private to the layers room.
#pragma once

#include "base/raster.h"
#include "base/work.h"
#include "keep/colour.h"
#include "layers/split_spec.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace yokai {

constexpr int opaque = 250; // alpha from which a pixel says what colour it has

struct Cluster {
    Lab middle;
    std::array<double, 3> rgb{}; // sums
    double weight = 0;
    Rgba colour() const
    {
        const auto channel = [&](int k) { return std::uint8_t(std::clamp(std::lround(rgb[std::size_t(k)] / weight), 0L, 255L)); };
        return {channel(0), channel(1), channel(2), 255};
    }
    void add(const Cluster& c)
    {
        const double sum = weight + c.weight;
        middle = {(middle.L * weight + c.middle.L * c.weight) / sum, (middle.a * weight + c.middle.a * c.weight) / sum, (middle.b * weight + c.middle.b * c.weight) / sum};
        for (std::size_t k = 0; k < 3; ++k)
            rgb[k] += c.rgb[k];
        weight = sum;
    }
};

// `flat`: where the picture is flat, of which alone its colours are taken if there is any; empty: of all that is opaque. With the colours picked by hand.
// Empty where all is transparent.
std::vector<Cluster> coloursOf(const Rgba8& px, const Gray8& flat, const SplitSpec& spec, const Work& work);

} // namespace yokai
