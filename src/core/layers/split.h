// A picture told apart into its colours: one label raster, so that each pixel belongs to exactly one colour and neighbours share
// their border.
//
// Of a drawing, colours are found where it is flat, clustered in CIELAB and merged below a CIEDE2000 difference. What lies between two
// colours because an edge was drawn smoothly is no colour of its own: it is given to one of the two beside it, with the share it has of
// each. A photo is reduced to some colours (Ward's merging, then Lloyd's iteration, in CIELAB), and its borders are smoothed.
//
// Unit: pixels.
#pragma once

#include "base/geometry.h"
#include "base/raster.h"
#include "base/work.h"
#include "layers/areas.h"
#include "layers/split_spec.h"

#include <optional>
#include <vector>

namespace yokai {

struct SplitColour {
    Rgba colour;
    std::size_t pixels = 0;                // that belong to it
    std::optional<Point> area = std::nullopt; // it is but the one area of a colour that holds this place
};

constexpr std::uint8_t noColour = 255; // where the picture is transparent

struct Split {
    std::vector<SplitColour> colours; // the largest first
    Raster<std::uint8_t> label;       // of each pixel: an index of `colours`, or noColour
    Raster<std::uint8_t> other;       // the colour that has the rest of it, or noColour
    Gray8 share;                      // of its label: 128..255
    LabelAreas areas;                 // of `label`
};

// Throws Error(Input) where nothing is to be told apart: all is transparent.
Split splitColours(const Rgba8& picture, const SplitSpec& spec, double pxPerMm = 1, const Work& work = {});

// Each area that holds one of the places becomes a colour of its own; what is in none, or in one that did already, is passed over.
Split withAreas(const Split& split, const std::vector<Point>& places, const Work& work = {});

} // namespace yokai
