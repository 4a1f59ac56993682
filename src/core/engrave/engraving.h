// What is to be burnt of a piece: an outline that is filled, or how much at each place. How it is scanned is said by scan.h.
//
// Unit: mm in the picture, (0, 0) its top-left corner, y down.
#pragma once

#include "base/geometry.h"
#include "base/id.h"
#include "base/raster.h"
#include "base/work.h"
#include "engrave/spec.h"
#include "path/path.h"

#include <memory>
#include <vector>

namespace yokai {

struct Engraving {
    EngraveSpec spec;
    std::vector<Polyline> outline; // of a fill: what lies within an odd number of them
    SharedGray tone;               // of all else: 255 is burnt wholly
    double pxPerMm = 1;            // of it
    Rect box = Rect::nothing();    // of all that is burnt
};

// What a threshold burns is darker than this (255: wholly).
inline double burntOver(const EngraveSpec& spec) { return 255 - spec.level * 2.55; }

// How much a picture is burnt: the darker the more, where it is kept (`kept`: how opaque it is there). With `region`, all of that but the picture.
Gray8 burnOf(const Rgba8& picture, const Gray8& kept, const Gray8* region, const EngraveSpec& spec, const Work& work = {});

// The edge of what is kept is burnt wholly, `wide` pixels inwards.
void burnBorder(Gray8& burn, const Gray8& kept, double wide);

// One of them on a sheet, as a cut item lies there.
struct EngraveItem {
    PieceId piece;
    int copy = 0;
    std::shared_ptr<const Engraving> of;
    Affine toSheet;
};

} // namespace yokai
