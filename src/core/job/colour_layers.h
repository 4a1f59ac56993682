// A piece of one layer for each of its picture's colours: the usual beginning, which the maker changes.
#pragma once

#include "job/step_cache.h"
#include "job/job.h"
#include "layers/split.h"

#include <memory>

namespace yokai {

// The colours of a piece's picture, the largest first. Throws Error(Input).
std::shared_ptr<const Split> splitOf(const Piece& piece, StepCache& cache, const Work& work = {});

struct LayersWanted {
    std::vector<Rgba> dropped; // colours that become no layer
    Length spread;             // of each under those above
    std::optional<Length> backing; // a layer beneath all, its outline so far outside of everything
    LineSpec line;             // of each layer; its offset is meant
    double smallestPart = 1;   // mm2
};
// From the bottom up: the backing, then the colours, the largest first. Throws Error(Usage) where all are dropped or one that is not there is.
std::vector<Layer> colourLayers(const Split& split, const LayersWanted& wanted);

// That word, or with a number behind it where a layer is called so already.
std::string freeName(const std::vector<Layer>& layers, const std::string& word);

// What it is cut from: as chosen, or the first of its colours; none of a layer by a rule. A backing's is as the darkest nothing: grey.
std::optional<Rgba> stockOf(const Layer& layer);

// Whether any of a piece's layers is made of its colours.
bool isLayered(const Piece& piece);

// An everyday word for a colour: "red", "dark blue".
std::string wordFor(Rgba colour);

} // namespace yokai
