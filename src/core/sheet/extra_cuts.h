// Cuts that belong to no piece: between copies, round them, across them, and of the sheet itself.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "sheet/sheet.h"

#include <vector>

namespace yokai {

struct ExtraCut {
    LineKind kind = LineKind::Through;
    Path path;
    std::optional<std::size_t> copy; // of those on the sheet, that it goes with; none: with the sheet
};

// `boxes`: all that is cut or printed of each piece laid out, in its own mm.
std::vector<ExtraCut> extraCuts(const SheetSpec& spec, const Layout& layout, int sheet, std::span<const Rect> boxes);

// Straight cuts, each from side to side of what the ones before it left, that part all boxes it is possible to part so.
// Where nothing but a bent cut would, the boxes stay together.
std::vector<std::pair<Point, Point>> partingCuts(const Rect& area, std::vector<Rect> boxes);

} // namespace yokai
