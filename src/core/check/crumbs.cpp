// Parts so near the smallest size that is kept that the eye should decide.
#include "check/checks.h"

namespace yokai {

void checkCrumbs(const CheckGround& ground, Findings& found)
{
    constexpr double nearly = 0.8, barely = 1.25; // of the limit
    for (const PieceResult& piece : ground.derived.pieces) {
        const Piece* spec = find(ground.job, piece.id);
        for (std::size_t l = 0; l < piece.layers.size(); ++l) {
            const double limit = spec->layers[l].keep.smallestPart;
            if (!piece.layers[l].parts || limit <= 0)
                continue;
            for (const Part& part : piece.layers[l].parts->all)
                if (!part.opening && !part.byHand && (part.kept ? part.area < barely * limit : part.area > nearly * limit))
                    found.push_back({"near-crumb", Severity::Note, piece.id, {}, part.inside, part.area, limit});
        }
    }
}

} // namespace yokai
