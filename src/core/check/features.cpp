// Marks that are features of a picture and do not lie on them any more: the picture was replaced, or they were dragged off.
#include "check/checks.h"
#include "job/features.h"

namespace yokai {

void checkFeatures(const CheckGround& ground, Findings& found)
{
    constexpr double reach = 2, most = 0.3; // mm: where it is looked for; what finding it again may differ by
    for (const FeatureMark& feature : featureMarksOf(ground.job, ground.derived.pieces, ground.derived.sheet)) {
        const PieceResult* piece = ground.derived.find(feature.piece);
        const Piece* spec = find(ground.job, feature.piece);
        if (!piece || !spec || !piece->pixels)
            continue;
        const Point at = piece->sourceToMm(spec->features[feature.index]);
        if (at.x < 0 || at.y < 0 || at.x > piece->width || at.y > piece->height)
            continue; // cropped off: it is there all the same
        const auto seen = featureIn(*piece, at, reach);
        if (const double off = seen ? distance(*seen, at) : reach; off > most)
            found.push_back({"feature-off", Severity::Error, {}, {}, feature.mark.centre, off, most});
    }
}

} // namespace yokai
