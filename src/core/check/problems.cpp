// Pieces whose chain of steps ended early, and sheets that cannot be.
#include "check/checks.h"

namespace yokai {

void checkProblems(const CheckGround& ground, Findings& found)
{
    const Derived& derived = ground.derived;
    for (const PieceResult& piece : derived.pieces)
        if (piece.problem)
            found.push_back({"no-cut-line", Severity::Error, piece.id, {}, {piece.width / 2, piece.height / 2}, 0, 0, piece.problem});
    if (derived.sheet.problem)
        found.push_back({"sheet", Severity::Error, {}, {}, {}, 0, 0, derived.sheet.problem});
}

} // namespace yokai
