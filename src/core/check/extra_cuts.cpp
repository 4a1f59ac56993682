// Extra cuts that run over a mark, and copies that no straight cut parts.
#include "check/checks.h"
#include "path/cut.h"
#include "sheet/extra_cuts.h"

namespace yokai {

void checkExtraCuts(const CheckGround& ground, Findings& found)
{
    const Layout& layout = ground.derived.sheet;
    if (layout.waits)
        return;
    std::vector<Rect> boxes;
    for (const PieceResult& piece : ground.derived.pieces)
        boxes.push_back(piece.box);
    for (int sheet = 0; sheet < layout.sheets; ++sheet) {
        ground.run.work().check();
        const ExtraCutsMade made = extraCuts(ground.job.sheet, layout, sheet, boxes);
        if (made.together > 0)
            found.push_back({"copies-not-parted", Severity::Error, {}, {}, {}, double(made.together), 0, std::nullopt, sheet});
        // Those between the copies stop before a mark; of the others all is wanted.
        for (const Mark& mark : layout.marks) {
            double deepest = 0;
            for (const ExtraCut& cut : made.cuts)
                if (const auto near = nearestPlace({cut.path}, mark.centre); near && near->away < clearOf(mark))
                    deepest = std::max(deepest, clearOf(mark) - near->away);
            constexpr double nothing = 1e-3; // mm
            if (deepest > nothing)
                found.push_back({"cut-on-mark", Severity::Error, {}, {}, mark.centre, deepest, 0, std::nullopt, sheet});
        }
    }
}

} // namespace yokai
