// Pictures that will print soft.
#include "check/checks.h"

namespace yokai {

void checkResolution(const CheckGround& ground, Findings& found)
{
    constexpr double rounding = 0.5;
    const double least = ground.job.check.leastPpi;
    for (const PieceResult& piece : ground.derived.pieces)
        if (const double ppi = piece.pxPerMm * 25.4; !piece.problem && ppi < least - rounding)
            found.push_back({"low-resolution", Severity::Warning, piece.id, {}, {piece.width / 2, piece.height / 2}, ppi, least});
}

} // namespace yokai
