// The one order in which things are cut, by the plan and by every file that is cut: engraving before cutting, lighter work before
// heavier, inner before outer, a copy whole before the next, and last what is of the sheet itself.
#pragma once

#include "engrave/engraving.h"
#include "machine/cut_item.h"
#include "machine/operation.h"

#include <map>
#include <set>
#include <span>
#include <vector>

namespace yokai {

// The place of one thing in that order: lower ranks first, then block after block, in a block tier after tier. What has all three
// in common may be cut in any order; so may blocks of one rank, each as a whole.
struct CuttingPlace {
    int rank = 0, block = 0, tier = 0;
    auto operator<=>(const CuttingPlace&) const = default;
};

class CuttingOrder {
public:
    // The items and engravings must outlive it only while it is made. `byOperation`: all of one operation before the next, instead
    // of a copy whole.
    CuttingOrder(const CutItems& items, std::span<const EngraveItem> engravings, const std::vector<OperationStep>& operations, bool byOperation, const Work& work = {});
    // Of the operations: the one that does an item; -1: none does. One that is off or a guide counts, too.
    int operationOf(int item) const { return operation_[std::size_t(item)]; }
    CuttingPlace placeOf(int item) const;
    CuttingPlace placeOfEngraving(int copy, int operation) const { return place(copy, operation, 0); }

private:
    CuttingPlace place(int copy, int operation, int depth) const;
    std::vector<int> operation_, depth_, copy_; // an item each; in how many closed lines it lies
    int deepest_ = 0, unknown_ = 0;             // where an operation that is not asked for comes: after all others
    bool byOperation_ = false;
    std::map<int, int> outermost_;              // how deep a copy lies as a whole
    std::set<int> ofPieces_;                    // copies
};

// The items in that order, as a file has them that is cut from its beginning to its end. Those of one place stay as they are given.
CutItems orderedForCutting(CutItems items, const std::vector<OperationStep>& operations, bool byOperation, const Work& work = {});

} // namespace yokai
