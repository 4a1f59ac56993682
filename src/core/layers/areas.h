// The areas of a label raster: where one label goes on, joined by sides. Found row by row in runs, so that plain pictures cost little
// more than being read (two-pass labelling with union-find, Rosenfeld and Pfaltz 1966, on runs).
//
// Unit: pixels.
#pragma once

#include "base/raster.h"
#include "base/work.h"

#include <vector>

namespace yokai {

struct LabelRun {
    int x0, x1; // up to x1, and not it
    int area;
};

struct LabelArea {
    std::uint8_t label = 0;
    std::size_t pixels = 0;
    bool rim = false; // it reaches the picture's edge
    // Its neighbours by sides, each once, and for how many pixels.
    std::vector<std::pair<int, int>> beside;
};

struct LabelAreas {
    std::vector<LabelRun> runs;
    std::vector<std::size_t> rows; // where each row's runs begin, and the end
    std::vector<LabelArea> all;
    int at(int x, int y) const;
};

LabelAreas areasOf(const Raster<std::uint8_t>& label, const Work& work = {});

} // namespace yokai
