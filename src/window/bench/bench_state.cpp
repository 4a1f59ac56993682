#include "bench/bench_state.h"

namespace yokai {

BenchState BenchState::of(const Studio& studio)
{
    BenchState state;
    state.shown = studio.sharedShown();
    state.testCut = studio.testCut();
    state.station = studio.station();
    state.unit = studio.unit();
    state.line = studio.line();
    state.peek = studio.peek();
    state.hold = studio.hand().hold;
    const PieceResult* result = studio.currentResult();
    if (!result)
        return state;
    state.piece = studio.piece();
    state.selectedParts = studio.selectedParts();
    const KeepSpec& keep = studio.currentPiece()->keep;
    if (const int i = studio.selectedTouch(); i >= 0 && i < int(keep.touches.size())) {
        state.selectedTouch = keep.touches[std::size_t(i)];
        state.selectedTouch->radius *= std::sqrt(std::abs(result->sourceToMm.det()));
        for (Point& p : state.selectedTouch->points)
            p = result->sourceToMm(p);
    }
    for (std::vector<Point> outline : keep.onlyInside) {
        for (Point& p : outline)
            p = result->sourceToMm(p);
        state.inside.push_back(std::move(outline));
    }
    return state;
}

} // namespace yokai
