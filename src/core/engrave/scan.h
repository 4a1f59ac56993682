// From what is to be burnt to the lines a beam goes along, with the power it has on each stretch.
//
// A fill's stretches end exactly on its outline. Greys are first averaged over the squares that lie between lines, and then made into dots of
// that size: by a threshold, by Bayer's ordered matrix (Bayer 1973, 8 by 8), by error diffusion to and fro (Floyd and Steinberg
// 1976), or left as they are.
//
// Unit: mm on the bed, y up; shares of a power.
#pragma once

#include "engrave/engraving.h"

#include <vector>

namespace yokai {

struct Stretch {
    float from = 0, to = 0; // along the line, from its `from`
    float power = 0;        // 0..1; what lies between stretches has none
};

struct ScanLine {
    Point from, to; // from the first that is burnt to the last
    std::size_t first = 0, count = 0; // of Scan::stretches
};

struct Scan {
    std::vector<ScanLine> lines; // in the order they are gone along, each from `from` to `to`
    std::vector<Stretch> stretches;
};

// What it will look like, of greys: how much is burnt of each square of `interval` mm, along the picture's own rows, over the engraving's box.
Gray8 dotsOf(const Engraving& engraving, double interval, const Work& work = {});

// `interval` where the engraving says none. Lines that burn nothing are left out.
Scan scanOf(const Engraving& engraving, const Affine& toBed, double interval, const Work& work = {});

} // namespace yokai
