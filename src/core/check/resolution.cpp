// Pictures that will print soft.
#include "check/checks.h"
#include "job/derived.h"

namespace yokai {

void checkResolution(const Job&, const Derived& derived, Findings& found)
{
    constexpr double least = 150; // ppi; common practice
    constexpr double rounding = 0.5;
    for (const PieceResult& piece : derived.pieces)
        if (const double ppi = piece.pxPerMm * 25.4; !piece.problem && ppi < least - rounding)
            found.push_back({"low-resolution", Severity::Warning, piece.id, {}, {piece.width / 2, piece.height / 2}, ppi, least});
}

} // namespace yokai
