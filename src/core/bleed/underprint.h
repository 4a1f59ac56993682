// The white plate beneath what is printed, for clear and dark stock.
//
// Unit: pixels of the picture, as in bleed.h.
#pragma once

#include "bleed/bleed.h"

namespace yokai {

// A plate of one ink with a place.
struct Plate {
    SharedGray tint; // 0: no ink
    Affine toMm;     // from its pixels to the piece's mm
    double width() const { return tint->width() * toMm.a; } // mm
    double height() const { return tint->height() * toMm.d; }
};

// As far as the print reaches less the choke, as dense as what lies over it is opaque; where the spec says so only
// where that is light. Null where it asks for none or nothing is left of it.
std::shared_ptr<const Plate> underprintOf(const DistanceField& edge, const BleedGround& ground, const BleedSpec& bleed, const PrintImage* bled,
                                          const UnderprintSpec& spec, const Work& work = {});

} // namespace yokai
