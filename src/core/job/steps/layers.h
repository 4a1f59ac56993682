// From the working copy to its colours, and to what a layer has of them.
#pragma once

#include "job/step.h"
#include "layers/coverage.h"

namespace yokai {

struct SplitIn {
    static constexpr const char* step = "split";
    static constexpr const char* time = "layers";
    using Out = Split;
    Made<Framed> framed;
    SplitSpec split;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("framed", self.framed);
        visit("split", self.split);
    }
    std::shared_ptr<const Split> make(Run& run) const { return std::make_shared<const Split>(splitColours(*framed->pixels, split, run.work())); }
};

struct LayerIn {
    static constexpr const char* step = "layer";
    static constexpr const char* time = "layers";
    using Out = Coverage;
    Made<Split> split;
    LayerColours layer;
    std::vector<Rgba> above; // the colours of the layers on it
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("split", self.split);
        visit("layer", self.layer);
        visit("above", self.above);
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const Coverage> make(Run& run) const
    {
        auto out = std::make_shared<Coverage>();
        out->rule = KeepRule::Colour;
        out->pixels = std::make_shared<const Gray8>(layerCoverage(*split, {layer.colours, above, layer.spread.mm() * pxPerMm, layer.closeCovered}, run.work()));
        return out;
    }
};

} // namespace yokai
