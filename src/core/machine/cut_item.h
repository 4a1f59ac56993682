// What is cut, as items that know their place in the whole: whose line each is, of which
// copy, how deep it lies in the others. The order of work follows from that (plan.h).
//
// One pipeline leads from here to a machine: operations in order,
// kerf, register onto the print, the blade, words of a dialect (plan.h). Files take the items as they are.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "base/id.h"
#include "base/line_kind.h"
#include "base/work.h"
#include "path/path.h"

#include <functional>
#include <vector>

namespace yokai {

struct CutItem {
    PieceId piece;
    int copy = 0; // of all copies on the sheet, in the order they lie there
    LineId line;
    LineKind kind = LineKind::Through;
    int depth = 0; // how many closed items lie round it
    Path path;
    Breaks breaks = {}; // of a perforation, or bridges
    bool opening = false; // what it encloses falls out, and what lies round it stays
};
using CutItems = std::vector<CutItem>;

// How many closed items that count lie round each; those that lie on one another are side by side.
std::vector<int> depthsOf(const CutItems& items, const std::function<bool(const CutItem& round, const CutItem& inner)>& counts, const Work& work = {});

// Counts what lies round each. Items that lie on one another count as side by side.
void nest(CutItems& items, const Work& work = {});

// What of it is cut: the path itself, unless it is interrupted.
inline Paths cutsOf(const CutItem& item) { return broken(item.path, item.breaks); }

} // namespace yokai
