// Closed lines that enclose too little to hold or to weed, and lines too short to cut.
#include "check/checks.h"

namespace yokai {

void checkSizes(const CheckGround& ground, Findings& found)
{
    const CheckSpec& spec = ground.job.check;
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        for (const Path& path : *line.paths) {
            const Point at = path.start;
            if (const double area = signedArea(path); path.closed && std::abs(area) < spec.leastArea)
                found.push_back({area > 0 ? "small-part" : "small-opening", Severity::Warning, piece.id, line.id, at, std::abs(area), spec.leastArea});
            if (const double l = length(path); l < spec.leastLength.mm())
                found.push_back({"short-path", Severity::Warning, piece.id, line.id, at, l, spec.leastLength.mm()});
        }
    });
}

} // namespace yokai
