#include "desk/mark_edits.h"

#include "desk/desk.h"
#include "register/find_marks.h"

#include <algorithm>
#include <cmath>

namespace yokai::edits {

namespace {

// In the picture of a copy that lies there, as it came: what marks are drawn with is not kept.
std::optional<Point> featureOf(const PieceResult& piece, Point mm, double reach)
{
    if (!piece.pixels)
        return std::nullopt;
    const Rgba8& picture = *piece.pixels;
    const Point px = mm * piece.pxPerMm;
    const double far = reach * piece.pxPerMm;
    // On white where it is clear: that is how it is printed.
    const int x0 = std::max(0, int(px.x - 2 * far)), y0 = std::max(0, int(px.y - 2 * far));
    const int x1 = std::min(picture.width(), int(px.x + 2 * far) + 1), y1 = std::min(picture.height(), int(px.y + 2 * far) + 1);
    if (x1 <= x0 || y1 <= y0)
        return std::nullopt;
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

} // namespace

bool markFeature(Desk& desk, Point onSheet, double reach)
{
    if (!desk.current())
        return false;
    const Shown& shown = *desk.shown();
    for (const Placement& place : shown.derived.sheet.on(desk.sheet())) {
        const PieceResult& piece = shown.derived.pieces[place.at];
        const Point mm = place.toSheet.inverse()(onSheet);
        if (mm.x < -reach || mm.y < -reach || mm.x > piece.width + reach || mm.y > piece.height + reach)
            continue;
        const auto found = featureOf(piece, mm, reach);
        if (!found)
            continue;
        const Point at = place.toSheet(*found);
        const auto same = [&](const MarkPlace& m) { return distance({m.x.mm(), m.y.mm()}, at) < reach / 4; };
        if (const auto& places = desk.job().sheet.marks.places; std::any_of(places.begin(), places.end(), same))
            return true; // it is one already
        desk.edit(Desk::tr("mark a feature"), [&](Job& job) { job.sheet.marks.places.push_back({Length::mm(at.x), Length::mm(at.y)}); });
        return true;
    }
    return false;
}

void removeMark(Desk& desk, int mark)
{
    if (desk.job().sheet.marks.style != MarkStyle::InPicture || mark < 0 || mark >= int(desk.job().sheet.marks.places.size()))
        return;
    desk.edit(Desk::tr("remove a mark"), [&](Job& job) { job.sheet.marks.places.erase(job.sheet.marks.places.begin() + mark); });
    desk.select({});
}

} // namespace yokai::edits
