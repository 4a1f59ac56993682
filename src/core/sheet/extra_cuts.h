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

struct ExtraCutsMade {
    std::vector<ExtraCut> cuts;
    std::size_t together = 0; // copies that were to be parted and that no straight cut does
};

// From a mark's middle no cut comes nearer than this.
double clearOf(const Mark& mark);

// All within the margin. Cuts between copies stop before a mark.
// `boxes`: all that is cut or printed of each piece laid out, in its own mm.
ExtraCutsMade extraCuts(const SheetSpec& spec, const Layout& layout, int sheet, std::span<const Rect> boxes);

// Straight cuts, each from side to side of what the ones before it left, that part all boxes it is possible to part so.
// Where nothing but a bent cut would, the boxes stay together.
struct Parting {
    std::vector<std::pair<Point, Point>> cuts;
    std::size_t together = 0; // boxes that lie with others still
};
Parting partingCuts(const Rect& area, std::vector<Rect> boxes);

} // namespace yokai
