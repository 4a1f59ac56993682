// Where a cut lands that is off the print: how much paper it takes in, and how deep it goes into the artwork.
//
// Unit: mm in the picture.
#pragma once

#include "outline/kept_edge.h"
#include "path/path.h"

#include <cstdint>

namespace yokai {

struct Landing {
    Point by;           // how far the cut lies off
    double paper = 0;   // how wide the paper is that it takes in at most; 0: none, or a rim of it is meant
    double artwork = 0; // how deep it goes through what is kept at most, where a border was wanted; 0: not
};

// Of lines against what is kept, printed as far as `reach` beyond.
Landing landingOf(const Paths& lines, const KeptEdge& kept, double reach, Point by);

// The worst of so many, each as likely to lie anywhere within `drift`; the same seed gives the same.
Landing worstLanding(const Paths& lines, const KeptEdge& kept, double reach, double drift, int tries, std::uint64_t seed = 1);

} // namespace yokai
