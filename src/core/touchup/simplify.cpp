// An outline, or a stretch of it, with as few nodes as a distance allows.
#include "path/fit.h"
#include "touchup/kinds.h"

namespace yokai {

EditFate simplifyPath(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const auto place = heldStretch(edit, paths, ground, out);
    if (!place)
        return EditFate::NoPlace;
    out.at = place->whole ? place->from.at : mix(place->from.at, place->to.at, 0.5);
    Path& path = paths[place->path];
    constexpr double apart = 0.05; // mm between the points that stand for it
    // What a curve may stray between two of them.
    constexpr double share = 0.9, least = 1e-3; // mm: a stretch has a length
    const double tolerance = share * edit.size.mm();
    if (tolerance <= 0 || (!place->whole && distance(place->from.at, place->to.at) < least))
        return EditFate::DoesNotFit;
    const Path stretch = place->whole ? path : path.closed ? stretchOf(path, place->from, place->to) : path;
    const Path fitted = refitted(stretch, tolerance, apart);
    Path simpler = place->whole || !path.closed ? fitted : withStretch(path, place->from, place->to, fitted);
    out.nodesBefore = path.nodes();
    out.nodesAfter = simpler.nodes();
    if (simpler.nodes() < path.nodes()) // else it is as simple as can be
        path = std::move(simpler);
    else
        out.nodesAfter = out.nodesBefore;
    return EditFate::Held;
}

} // namespace yokai
