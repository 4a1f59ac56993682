#include "touchup/touch_up.h"

#include "path/crossings.h"
#include "touchup/kinds.h"

#include <algorithm>
#include <map>

namespace yokai {

namespace {

ApplyEdit applyOf(EditKind kind)
{
    switch (kind) {
    case EditKind::Stretch:
        return putStretch;
    case EditKind::Open:
        return openStretch;
    case EditKind::Join:
        return joinEnds;
    case EditKind::Smooth:
        return smoothStretch;
    case EditKind::Simplify:
        return simplifyPath;
    case EditKind::Round:
        return roundCorner;
    case EditKind::RoundInside:
        return roundInside;
    case EditKind::Tab:
        return weldTab;
    case EditKind::Hole:
        return makeHole;
    case EditKind::Bridge:
        return putBridge;
    case EditKind::Add:
        return addRegion;
    case EditKind::TakeAway:
        return takeRegion;
    case EditKind::Beside:
        return putBeside;
    case EditKind::Drop:
        return dropPath;
    }
    return dropPath;
}

// Whether paths that were not there before cross themselves or others.
bool crossesAnew(const Paths& before, const Paths& after)
{
    constexpr double flatness = 0.005; // mm
    const auto same = [](const Path& a, const Path& b) {
        return a.start == b.start && a.segments.size() == b.segments.size() &&
               std::equal(a.segments.begin(), a.segments.end(), b.segments.begin(),
                          [](const Segment& x, const Segment& y) { return x.c1 == y.c1 && x.c2 == y.c2 && x.end == y.end; });
    };
    std::map<std::pair<double, double>, const Path*> known; // by where they start
    for (const Path& path : before)
        known.emplace(std::pair(path.start.x, path.start.y), &path);
    const auto isNew = [&](const Path& path) {
        const auto found = known.find({path.start.x, path.start.y});
        return found == known.end() || !same(*found->second, path);
    };
    std::vector<Rect> changed;
    for (const Path& path : after)
        if (isNew(path))
            changed.push_back(bounds(path));
    if (changed.empty())
        return false;
    std::vector<Polyline> near;
    std::vector<bool> closed;
    for (const Path& path : after)
        if (const Rect box = bounds(path); std::any_of(changed.begin(), changed.end(), [&](const Rect& c) { return c.overlaps(box); })) {
            near.push_back(flatten(path, flatness));
            closed.push_back(path.closed);
        }
    return !crossingsAmong(near, closed, 1).empty();
}

} // namespace

TouchedUp touchUp(const Paths& fitted, std::span<const Edit> edits, const EditGround& ground, const Work& work)
{
    TouchedUp out{fitted, {}, {}};
    for (const Edit& edit : edits) {
        work.check();
        EditOutcome outcome;
        outcome.fate = EditFate::Off;
        outcome.at = placeOf(edit.from, ground);
        if (edit.on) {
            Paths changed = out.paths;
            outcome.fate = applyOf(edit.kind)(edit, ground, changed, outcome);
            if (outcome.fate == EditFate::Held && crossesAnew(out.paths, changed))
                outcome.fate = EditFate::DoesNotFit;
            if (outcome.fate == EditFate::Held) {
                out.paths = std::move(changed);
                if (outcome.hole)
                    out.holes.push_back(*outcome.hole);
            }
        }
        out.outcomes.push_back(std::move(outcome));
    }
    return out;
}

} // namespace yokai
