// A tab to hang a piece by: a disc welded to the line, with a fillet where they meet and a hole in it.
#include "path/boolean.h"
#include "touchup/kinds.h"
#include "touchup/round.h"

#include <algorithm>

namespace yokai {

namespace {

// The corners in which a disc's outline meets the line.
std::vector<std::size_t> meetingNodes(const Path& path, Point centre, double radius)
{
    constexpr double exactly = 1e-3, turned = 0.02;
    std::vector<std::size_t> out;
    const std::size_t n = path.segments.size();
    for (std::size_t k = 0; k < n; ++k) {
        const Point at = path.segments[k].end;
        const Point in = tangentOn(startOf(path, k), path.segments[k], 1), next = tangentOn(at, path.segments[(k + 1) % n], 0);
        if (std::abs(distance(at, centre) - radius) < exactly && std::atan2(cross(in, next), dot(in, next)) < -turned)
            out.push_back(k);
    }
    return out;
}

} // namespace

EditFate weldTab(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const double radius = edit.size.mm() / 2, hole = edit.hole.mm() / 2;
    const auto place = held(edit.from, edit, paths, ground);
    // Half of what is left beside the hole lies outside the line: the hole stays clear of the artwork.
    const double outwards = (radius + hole) / 2;
    const auto refuse = [&](EditFate fate, Point at) {
        constexpr double flatness = 0.05;
        out.ghost = flatten(disc(at, radius), flatness);
        return fate;
    };
    if (!place)
        return refuse(EditFate::NoPlace, out.at);
    out.at = place->at;
    const Path& path = paths[place->path];
    const Point along = unit(tangentOn(startOf(path, place->segment), path.segments[place->segment], place->t));
    const Point centre = place->at + (edit.upright ? Point{0, -1} : Point{along.y, -along.x}) * outwards;
    if (hole >= radius)
        return refuse(EditFate::DoesNotFit, centre);
    auto welded = combined(paths, {disc(centre, radius)}, Combine::Unite);
    if (!welded || welded->size() > paths.size()) // beside the line, not on it
        return refuse(EditFate::DoesNotFit, centre);
    constexpr double share = 0.5; // a fillet's radius, of the disc's
    for (Path& outline : *welded)
        for (int round = 0; round < 8; ++round) {
            const std::vector<std::size_t> corners = meetingNodes(outline, centre, radius);
            if (corners.empty())
                break;
            auto result = rounded(outline, corners.front(), share * radius);
            if (!result)
                result = rounded(outline, corners.front(), largestRadius(outline, corners.front(), share * radius));
            if (!result)
                break;
            outline = std::move(*result);
        }
    if (hole > 0) {
        const auto holed = combined(*welded, {disc(centre, hole)}, Combine::TakeAway);
        if (!holed)
            return refuse(EditFate::DoesNotFit, centre);
        welded = holed;
        out.hole = centre;
    }
    out.at = centre;
    paths = std::move(*welded);
    return EditFate::Held;
}

} // namespace yokai
