// What the writers write: pictures, cut lines by kind, and marks, at true scale.
//
// Unit: mm, (0, 0) the top-left corner, y down; each writer turns this into the
// coordinates its format asks for.
#pragma once

#include "job/derive.h"

#include <string>
#include <vector>

namespace yokai {

struct DrawnPicture {
    SharedRgba pixels;
    SharedGray opacity;           // what is not kept is 0
    double width = 0, height = 0; // mm
    std::vector<Affine> places;   // from the picture's mm
};

struct DrawnLine {
    LineKind kind = LineKind::Through;
    Path path; // a dash of a perforation is open
};

struct Drawing {
    std::string title;
    double width = 0, height = 0;
    std::vector<DrawnPicture> pictures;
    std::vector<DrawnLine> lines;
    std::vector<Mark> marks;
};

enum class Content { Print, Cut, Both }; // picture and marks; cut lines and marks; everything

Drawing drawSheet(const Job& job, const Derived& derived);
// One piece alone; (0, 0) is the picture's top-left corner. The drawing is as large as the picture.
Drawing drawPiece(const Piece& piece, const PieceResult& result);

const char* layerName(LineKind kind); // "CUT_THROUGH", "CREASE": DXF
const char* groupName(LineKind kind); // "cut-through", "crease": SVG

} // namespace yokai
