#include "job/features.h"

#include "register/find_marks.h"

#include <algorithm>

namespace yokai {

std::vector<FeatureMark> featureMarksOf(const Job& job, const std::vector<PieceResult>& pieces, const Layout& layout)
{
    std::vector<FeatureMark> out;
    if (job.sheet.marks.style != MarkStyle::InPicture)
        return out;
    for (std::size_t i = 0; i < job.pieces.size(); ++i) {
        const Piece& piece = job.pieces[i];
        const auto first = std::find_if(layout.placements.begin(), layout.placements.end(), [&](const Placement& p) { return p.at == i; });
        if (first == layout.placements.end())
            continue;
        for (std::size_t k = 0; k < piece.features.size(); ++k)
            out.push_back({piece.id, k, {first->toSheet(pieces[i].sourceToMm(piece.features[k])), job.sheet.marks.size.mm(), false, MarkStyle::InPicture}});
    }
    return out;
}

std::optional<Point> featureIn(const PieceResult& piece, Point mm, double reach)
{
    if (!piece.pixels)
        return std::nullopt;
    const Rgba8& picture = *piece.pixels;
    const Point px = mm * piece.pxPerMm;
    const double far = reach * piece.pxPerMm;
    const int x0 = std::max(0, int(px.x - 2 * far)), y0 = std::max(0, int(px.y - 2 * far));
    const int x1 = std::min(picture.width(), int(px.x + 2 * far) + 1), y1 = std::min(picture.height(), int(px.y + 2 * far) + 1);
    if (x1 <= x0 || y1 <= y0)
        return std::nullopt;
    // On white where it is clear: that is what it lies on.
    Rgba8 part(x1 - x0, y1 - y0);
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x) {
            const Rgba p = picture.at(x, y);
            const auto over = [&p](std::uint8_t c) { return std::uint8_t((c * p.a + 255 * (255 - p.a)) / 255); };
            part.at(x - x0, y - y0) = {over(p.r), over(p.g), over(p.b), 255};
        }
    const Point corner{double(x0), double(y0)};
    const auto at = featureNear(part, px - corner, far);
    return at ? std::optional((*at + corner) * (1 / piece.pxPerMm)) : std::nullopt;
}

bool isThere(const Job& job, const Piece& piece) { return piece.artwork.lies() || (job.sheet.marks.style == MarkStyle::InPicture && !piece.features.empty()); }

} // namespace yokai
