// Two ends of open paths joined by a straight line.
#include "touchup/kinds.h"

namespace yokai {

namespace {

struct End {
    std::size_t path = 0;
    bool isStart = false;
    Point at;
};

std::optional<End> endNear(Point wanted, double reach, const Paths& paths, const End* but)
{
    std::optional<End> best;
    for (std::size_t p = 0; p < paths.size(); ++p)
        if (!paths[p].closed && !paths[p].segments.empty())
            for (const bool isStart : {true, false}) {
                const Point at = isStart ? paths[p].start : paths[p].segments.back().end;
                const double away = distance(at, wanted);
                const bool taken = but && but->path == p && but->isStart == isStart;
                if (!taken && away <= reach && (!best || away < distance(best->at, wanted)))
                    best = End{p, isStart, at};
            }
    return best;
}

} // namespace

EditFate joinEnds(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const Point p = placeOf(edit.from, ground), q = placeOf(edit.to, ground);
    out.at = mix(p, q, 0.5);
    const double reach = reachOf(edit, ground);
    const auto first = endNear(p, reach, paths, nullptr);
    const auto second = first ? endNear(q, reach, paths, &*first) : std::nullopt;
    if (!second) {
        out.ghost = {p, q};
        return EditFate::NoPlace;
    }
    out.at = mix(first->at, second->at, 0.5);
    constexpr double nothing = 1e-6; // mm: they meet
    const auto lead = [&](Path& path, Point to) {
        if (distance(path.segments.back().end, to) > nothing)
            path.lineTo(to);
    };
    if (first->path == second->path) {
        Path& path = paths[first->path];
        lead(path, path.start);
        path.segments.back().end = path.start;
        path.corners.back() = true;
        path.closed = true;
        return EditFate::Held;
    }
    Path head = first->isStart ? reversed(paths[first->path]) : paths[first->path];
    const Path tail = second->isStart ? paths[second->path] : reversed(paths[second->path]);
    head.corners.back() = true;
    lead(head, tail.start);
    head.segments.insert(head.segments.end(), tail.segments.begin(), tail.segments.end());
    head.corners.insert(head.corners.end(), tail.corners.begin(), tail.corners.end());
    paths[first->path] = std::move(head);
    paths.erase(paths.begin() + std::ptrdiff_t(second->path));
    return EditFate::Held;
}

} // namespace yokai
