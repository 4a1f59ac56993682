#include "machine/cutting_order.h"

#include <algorithm>
#include <numeric>

namespace yokai {

CuttingOrder::CuttingOrder(const CutItems& items, std::span<const EngraveItem> engravings, const std::vector<OperationStep>& operations, bool byOperation,
                           const Work& work)
    : unknown_(int(operations.size())), byOperation_(byOperation)
{
    // Inner and outer are told within the lines of a kind and copy, what goes first among all lines.
    const std::vector<int> within = depthsOf(
        items, [](const CutItem& round, const CutItem& inner) { return round.kind == inner.kind && round.copy == inner.copy; }, work);
    depth_ = depthsOf(
        items, [](const CutItem&, const CutItem&) { return true; }, work);
    for (std::size_t i = 0; i < items.size(); ++i) {
        const CutItem& item = items[i];
        const Operation usual = yokai::operationOf(item.kind, within[i] > 0);
        int found = -1, own = -1;
        for (std::size_t k = 0; k < operations.size(); ++k) {
            const OperationStep& step = operations[k];
            if (item.line && std::find(step.lines.begin(), step.lines.end(), item.line) != step.lines.end())
                own = int(k);
            else if (step.lines.empty() && step.operation == usual && found < 0)
                found = int(k);
        }
        operation_.push_back(own >= 0 ? own : found);
        copy_.push_back(item.copy);
        deepest_ = std::max(deepest_, depth_[i]);
        const auto [at, added] = outermost_.try_emplace(item.copy, depth_[i]);
        at->second = std::min(at->second, depth_[i]);
        if (item.piece)
            ofPieces_.insert(item.copy);
    }
    for (const EngraveItem& item : engravings) {
        outermost_[item.copy] = 0;
        ofPieces_.insert(item.copy);
    }
}

CuttingPlace CuttingOrder::place(int copy, int operation, int depth) const
{
    // What is of no piece while others are, is of the sheet: its margin, what parts the copies.
    const bool ofSheet = !ofPieces_.empty() && !ofPieces_.contains(copy);
    const auto outermost = outermost_.find(copy);
    return {ofSheet ? 1 : byOperation_ || outermost == outermost_.end() ? 0 : -outermost->second, byOperation_ && !ofSheet ? 0 : copy,
            (operation < 0 ? unknown_ : operation) * (deepest_ + 1) + deepest_ - depth};
}

CuttingPlace CuttingOrder::placeOf(int item) const
{
    const auto i = std::size_t(item);
    return place(copy_[i], operation_[i], depth_[i]);
}

CutItems orderedForCutting(CutItems items, const std::vector<OperationStep>& operations, bool byOperation, const Work& work)
{
    const CuttingOrder order(items, {}, operations, byOperation, work);
    std::vector<int> places(items.size());
    std::iota(places.begin(), places.end(), 0);
    std::stable_sort(places.begin(), places.end(), [&](int a, int b) { return order.placeOf(a) < order.placeOf(b); });
    CutItems out;
    out.reserve(items.size());
    for (const int i : places)
        out.push_back(std::move(items[std::size_t(i)]));
    return out;
}

} // namespace yokai
