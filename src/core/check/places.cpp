// Copies that found no place on the sheet, and those that reach beyond its margin.
#include "check/checks.h"

#include <algorithm>

namespace yokai {

void checkPlaces(const CheckGround& ground, Findings& found)
{
    const Derived& derived = ground.derived;
    const Layout& sheet = derived.sheet;
    if (sheet.waits)
        return;
    for (std::size_t i = 0; i < derived.pieces.size() && i < sheet.placed.size(); ++i) {
        const int asked = sheet.asked[i].value_or(1); // as many as fit: at least one should
        if (derived.pieces[i].whole() && sheet.placed[i] < asked)
            found.push_back({"does-not-fit", Severity::Warning, derived.pieces[i].id, {}, {}, double(sheet.placed[i]), double(asked)});
    }
}

// Copies put by hand reach beyond the margin; proposed ones never do.
void checkReach(const CheckGround& ground, Findings& found)
{
    const Layout& sheet = ground.derived.sheet;
    const Rect within = layoutArea(ground.job.sheet);
    constexpr double exactly = 0.01; // mm
    for (const Placement& place : sheet.placements) {
        if (!place.placing)
            continue;
        const Rect box = mapped(place.toSheet, ground.derived.pieces[place.at].box);
        const double past = std::max({within.x0 - box.x0, within.y0 - box.y0, box.x1 - within.x1, box.y1 - within.y1});
        if (past > exactly)
            found.push_back({"outside-reach", Severity::Error, place.piece, {}, box.centre(), past, 0, std::nullopt, place.sheet});
    }
}

} // namespace yokai
