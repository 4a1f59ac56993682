// Registration marks: what a cutter looks for to know where the print lies.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "path/path.h"
#include "sheet/spec.h"

#include <vector>

namespace yokai {

struct Mark {
    Point centre; // what is measured: a disc's middle, where a cross's lines cross, a bracket's corner
    double diameter = 0;
    bool orientation = false; // the extra one that tells the corners apart
    MarkStyle style = MarkStyle::Dots;
    double weight = 0; // of lines
    Point inwards = {1, 1}; // a bracket's arms point that way: each -1 or 1
    bool operator==(const Mark&) const = default;
};

// Near the corners (top left, top right, bottom right, bottom left; three leave out the last), a fifth that tells the
// corners apart, so that a sheet that lies turned round or over is recognised, and more on the long
// sides. The fifth lies in line with no two others, so that any one bad reading of the five can be told
// from the other four. In bands: a pair at each, and the one that tells the way up within the first.
std::vector<Mark> marksOf(const SheetSpec& spec);

// Whether ink is laid down for it, on paper that is kept clear.
constexpr bool isPrinted(const Mark& m) { return m.style != MarkStyle::None && m.style != MarkStyle::InPicture; }

// What of a mark is printed: a disc's outline, to be filled, or lines to be drawn at its weight.
Paths inkOf(const Mark& mark);
// Blank paper round it.
Rect clearOf(const Mark& mark, double clear);

// Why a cutter may not make much of them.
enum class MarkDoubt {
    None,
    OutsidePrint, // the printer does not print there: value is by how much, mm
    TooClose,     // to one another: value is the least distance, mm
    InLine,       // value is how far the farthest lies off the line, mm
    NoneToSpare,  // one bad reading would not show: value is their number
};
struct DoubtedMark {
    MarkDoubt why = MarkDoubt::None;
    Point at;
    double value = 0, limit = 0;
};
std::vector<DoubtedMark> doubtsOf(const SheetSpec& spec, const std::vector<Mark>& marks);

} // namespace yokai
