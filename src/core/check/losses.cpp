// Inward lines that leave nothing, or not all, of what is kept.
#include "check/checks.h"

namespace yokai {

void checkLosses(const CheckGround& ground, Findings& found)
{
    const Derived& derived = ground.derived;
    for (const PieceResult& piece : derived.pieces)
        for (const LayerResult& layer : piece.layers)
            for (const CutLine& line : layer.lines) {
                const auto find = [&](std::string_view code, Severity severity, double count) {
                    found.push_back({code, severity, piece.id, line.id, layer.kept.centre(), count, line.offset.mm()});
                };
                if (line.paths->empty())
                    find("line-vanished", Severity::Error, 0);
                else if (line.lostParts > 0)
                    find("parts-vanished", Severity::Warning, line.lostParts);
                if (line.splitParts > 0)
                    find("parts-split", Severity::Warning, line.splitParts);
            }
}

} // namespace yokai
