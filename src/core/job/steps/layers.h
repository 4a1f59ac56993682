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
    double pxPerMm = 1; // of a spec that says areas
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("framed", self.framed);
        visit("split", self.split);
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const Split> make(Run& run) const { return std::make_shared<const Split>(splitColours(*framed->pixels, split, pxPerMm, run.work())); }
};

// The picture's colours as the layers have them: with the single areas that they took.
struct AreasIn {
    static constexpr const char* step = "areas";
    static constexpr const char* time = "layers";
    using Out = Split;
    Made<Split> split;
    std::vector<Point> areas;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("split", self.split);
        visit("areas", self.areas);
    }
    std::shared_ptr<const Split> make(Run& run) const { return std::make_shared<const Split>(withAreas(*split, areas, run.work())); }
};

struct LayerIn {
    static constexpr const char* step = "layer";
    static constexpr const char* time = "layers";
    using Out = Coverage;
    Made<Split> split;
    LayerColours layer;
    ColoursOf own;   // its areas as the split knows them
    ColoursOf above; // of the layers on it
    double pxPerMm = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("split", self.split);
        visit("layer", self.layer);
        visit("own", self.own);
        visit("above", self.above);
        visit("scale", self.pxPerMm);
    }
    std::shared_ptr<const Coverage> make(Run& run) const
    {
        auto out = std::make_shared<Coverage>();
        out->rule = KeepRule::Colour;
        out->pixels = std::make_shared<const Gray8>(layerCoverage(*split, {layer.from, own, above, layer.spread.mm() * pxPerMm, layer.closeCovered}, run.work()));
        return out;
    }
};

} // namespace yokai
