#include "desk/mark_edits.h"

#include "desk/desk.h"
#include "job/features.h"

#include <algorithm>
#include <optional>

namespace yokai::edits {

namespace {

// Which piece's feature a mark is; the others are places that older jobs have.
std::optional<FeatureMark> featureAt(const Desk& desk, int mark)
{
    const Shown* shown = desk.shown();
    if (!shown || !desk.current() || mark < 0)
        return std::nullopt;
    const std::vector<FeatureMark> all = featureMarksOf(shown->job, shown->derived.pieces, shown->derived.sheet);
    const std::size_t before = desk.job().sheet.marks.places.size(), k = std::size_t(mark);
    return k < before || k - before >= all.size() ? std::nullopt : std::optional(all[k - before]);
}

// The feature next to a place of the sheet, and whose it is; the place in source pixels.
struct Seen {
    PieceId piece;
    Point source, onSheet;
};
std::optional<Seen> seenNear(const Desk& desk, Point onSheet, double reach, PieceId only = {})
{
    const Shown& shown = *desk.shown();
    for (const Placement& place : shown.derived.sheet.on(desk.sheet())) {
        const PieceResult& piece = shown.derived.pieces[place.at];
        const Point mm = place.toSheet.inverse()(onSheet);
        if ((only && piece.id != only) || mm.x < -reach || mm.y < -reach || mm.x > piece.width + reach || mm.y > piece.height + reach)
            continue;
        if (const auto found = featureIn(piece, mm, reach))
            return Seen{piece.id, piece.sourceToMm.inverse()(*found), place.toSheet(*found)};
    }
    return std::nullopt;
}

} // namespace

bool markFeature(Desk& desk, Point onSheet, double reach)
{
    const auto seen = desk.current() ? seenNear(desk, onSheet, reach) : std::nullopt;
    if (!seen)
        return false;
    const auto& marks = desk.shown()->derived.sheet.marks;
    if (std::any_of(marks.begin(), marks.end(), [&](const Mark& m) { return distance(m.centre, seen->onSheet) < reach / 4; }))
        return true; // it is one already
    desk.edit(Desk::tr("mark a feature"), [&](Job& job) { find(job, seen->piece)->features.push_back(seen->source); });
    return true;
}

bool moveFeature(Desk& desk, int mark, Point onSheet, double reach)
{
    const auto feature = featureAt(desk, mark);
    const auto seen = feature ? seenNear(desk, onSheet, reach, feature->piece) : std::nullopt;
    if (!seen)
        return false;
    desk.edit(Desk::tr("move a mark"), [&](Job& job) { find(job, feature->piece)->features[feature->index] = seen->source; });
    return true;
}

bool isFeature(const Desk& desk, int mark) { return featureAt(desk, mark).has_value(); }

void removeMark(Desk& desk, int mark)
{
    if (desk.job().sheet.marks.style != MarkStyle::InPicture || mark < 0)
        return;
    const auto feature = featureAt(desk, mark);
    if (!feature && mark >= int(desk.job().sheet.marks.places.size()))
        return;
    desk.edit(Desk::tr("remove a mark"), [&](Job& job) {
        std::vector<Point>* features = feature ? &find(job, feature->piece)->features : nullptr;
        if (features)
            features->erase(features->begin() + std::ptrdiff_t(feature->index));
        else
            job.sheet.marks.places.erase(job.sheet.marks.places.begin() + mark);
    });
    desk.select({});
}

} // namespace yokai::edits
