// An outline with as few nodes as a distance allows.
#include "path/fit.h"
#include "touchup/kinds.h"

namespace yokai {

EditFate simplifyPath(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const auto place = held(edit.from, edit, paths, ground);
    if (!place)
        return EditFate::NoPlace;
    out.at = place->at;
    Path& path = paths[place->path];
    constexpr double apart = 0.05; // mm between the points that stand for it
    // What a curve may stray between two of them.
    constexpr double share = 0.9;
    const double tolerance = share * edit.size.mm();
    if (!path.closed || tolerance <= 0)
        return EditFate::DoesNotFit;
    Path simpler = refitted(path, tolerance, apart);
    out.nodesBefore = path.nodes();
    out.nodesAfter = simpler.nodes();
    if (simpler.nodes() < path.nodes()) // else it is as simple as can be
        path = std::move(simpler);
    else
        out.nodesAfter = out.nodesBefore;
    return EditFate::Held;
}

} // namespace yokai
