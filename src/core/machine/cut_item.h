// What is cut, as items that know their place in the whole: whose line each is, of which
// copy, how deep it lies in the others. The order of work follows from that.
//
// One pipeline leads from here to a machine: order, register onto the print, dashes,
// strokes, words of a dialect (tool_path.h). Files take the items as they are.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "base/id.h"
#include "base/line_kind.h"
#include "base/work.h"
#include "path/path.h"

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
};
using CutItems = std::vector<CutItem>;

// Counts what lies round each. Items that lie on one another count as side by side.
void nest(CutItems& items, const Work& work = {});

// The order of cutting: a copy that lies in an opening of another before it; each copy
// whole before the next; in a copy the lighter operation before the heavier; in an
// operation what lies within before what lies round it. Otherwise as it was. Needs nest().
void putInOrder(CutItems& items);

// What of it is cut: the path itself, unless it is interrupted.
inline Paths cutsOf(const CutItem& item) { return broken(item.path, item.breaks); }

} // namespace yokai
