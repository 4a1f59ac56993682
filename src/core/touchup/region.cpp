// Regions added to what a line encloses, or taken from it, and round holes.
#include "path/boolean.h"
#include "touchup/kinds.h"

namespace yokai {

namespace {

// The outline as it lies now, running as a part's does.
std::optional<Path> outlineOf(const Edit& edit, const EditGround& ground)
{
    if (edit.shape.size() < 3)
        return std::nullopt;
    Polyline points;
    for (const Point p : edit.shape)
        points.push_back(ground.toMm(p));
    const Path path = polygonPath(points);
    return signedArea(path) < 0 ? reversed(path) : path;
}

EditFate combine(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out, Combine how)
{
    const auto outline = outlineOf(edit, ground);
    if (!outline)
        return EditFate::DoesNotFit;
    out.at = bounds(*outline).centre();
    const auto result = combined(paths, {*outline}, how);
    if (!result) {
        constexpr double flatness = 0.05;
        out.ghost = flatten(*outline, flatness);
        return EditFate::DoesNotFit;
    }
    paths = *result;
    return EditFate::Held;
}

} // namespace

EditFate addRegion(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out) { return combine(edit, ground, paths, out, Combine::Unite); }

EditFate takeRegion(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    return combine(edit, ground, paths, out, Combine::TakeAway);
}

EditFate makeHole(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const double radius = edit.size.mm() / 2;
    out.at = placeOf(edit.from, ground);
    const Path hole = disc(out.at, radius);
    const auto result = radius > 0 ? combined(paths, {hole}, Combine::TakeAway) : std::nullopt;
    if (!result) {
        constexpr double flatness = 0.05;
        out.ghost = flatten(hole, flatness);
        return EditFate::DoesNotFit;
    }
    out.hole = out.at;
    paths = *result;
    return EditFate::Held;
}

} // namespace yokai
