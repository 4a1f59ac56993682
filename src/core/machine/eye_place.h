// Where on a machine's bed a sheet should lie so that the machine's own eye, which sits beside the tool, reaches its marks.
//
// Unit: mm; marks on the sheet, y up; the bed before its user.
#pragma once

#include "machine/machine.h"

#include <span>

namespace yokai {

struct EyePlace {
    Point corner;         // the sheet's near left one
    std::size_t seen = 0; // how many of the marks it reads there
};

// The place nearest to the bed's near left corner at which it reads all marks; where there is none, one at which it reads most.
EyePlace placeForEye(const Machine& machine, double sheetWidth, double sheetHeight, std::span<const Point> marks, double markSize);

} // namespace yokai
