// A layer's cut lines from its kept parts: outlines at their offsets, plain figures,
// boxes round all, and what an inward line costs. Private to the job room.
#pragma once

#include "job/derived.h"

namespace yokai {

struct LineGround {
    Made<Parts> parts;
    Rect kept; // mm
    double pxPerMm = 1;
    double uncertain = 0; // how closely the edge can be known, px
    Affine sourceToMm;
};

// One for each spec, in their order. Throws Error(Usage) for an offset out of range.
std::vector<CutLine> cutLines(const std::vector<LineSpec>& specs, const LineGround& ground, Run& run);

} // namespace yokai
