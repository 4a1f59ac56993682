// A stretch of a line put in the place of what ran between two places of it.
#include "touchup/kinds.h"
#include "touchup/stretch.h"

#include <algorithm>
#include <numbers>

namespace yokai {

namespace {

// From a stretch's own frame to where its ends lie. A mirrored picture mirrors the frame too.
Point intoPlace(Point p, Point from, Point to, bool mirror)
{
    const Point chord = to - from, aside{-chord.y, chord.x};
    return from + chord * p.x + aside * (mirror ? -p.y : p.y);
}

Path laid(const Edit& edit, Point from, Point to, bool mirror)
{
    Path out;
    out.closed = false;
    out.start = from;
    for (std::size_t k = 0; k + 2 < edit.shape.size(); k += 3) {
        const bool last = k + 3 >= edit.shape.size();
        const Point begin = k == 0 ? from : out.segments.back().end;
        const Point c1 = intoPlace(edit.shape[k], from, to, mirror), c2 = intoPlace(edit.shape[k + 1], from, to, mirror);
        const Point end = last ? to : intoPlace(edit.shape[k + 2], from, to, mirror);
        constexpr double exactly = 1e-6; // mm
        if (distance(c1, mix(begin, end, 1.0 / 3)) < exactly && distance(c2, mix(begin, end, 2.0 / 3)) < exactly)
            out.lineTo(end);
        else
            out.curveTo(c1, c2, end, true);
    }
    return out;
}

// Which of the nodes that were put in are corners.
void markCorners(Path& path, std::size_t count)
{
    constexpr double smooth = 3 * std::numbers::pi / 180; // radians
    const std::size_t n = path.segments.size();
    for (std::size_t k = 0; k <= count; ++k) {
        const std::size_t node = (n - 1 - count + k + n) % n;
        path.corners[node] = turnAt(path, node) > smooth;
    }
}

} // namespace

std::vector<Point> frameOf(const Path& stretch, bool mirror)
{
    const Point from = stretch.start, chord = stretch.segments.back().end - from;
    const double squared = dot(chord, chord);
    std::vector<Point> out;
    const auto into = [&](Point p) {
        const Point way = p - from;
        return Point{dot(way, chord) / squared, (mirror ? -1 : 1) * cross(chord, way) / squared};
    };
    for (const Segment& s : stretch.segments)
        out.insert(out.end(), {into(s.c1), into(s.c2), into(s.end)});
    return out;
}

EditFate putStretch(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const bool mirror = mirrored(ground);
    const Point p = placeOf(edit.from, ground), q = placeOf(edit.to, ground);
    out.at = mix(p, q, 0.5);
    const auto ghost = [&](EditFate fate) {
        constexpr double flatness = 0.05;
        out.ghost = edit.shape.size() >= 3 ? flatten(laid(edit, p, q, mirror), flatness) : Polyline{p, q};
        return fate;
    };
    const auto stretch = heldStretch(edit, paths, ground);
    if (!stretch)
        return ghost(EditFate::NoPlace);
    constexpr double least = 1e-3; // mm: a chord has a direction
    if (edit.shape.size() < 3 || distance(stretch->from.at, stretch->to.at) < least)
        return ghost(EditFate::DoesNotFit);
    const Path laidIn = mirror ? reversed(laid(edit, stretch->to.at, stretch->from.at, true)) : laid(edit, stretch->from.at, stretch->to.at, false);
    Path& path = paths[stretch->path];
    const bool closed = path.closed;
    path = withStretch(path, stretch->from, stretch->to, laidIn);
    if (closed)
        markCorners(path, laidIn.segments.size());
    return EditFate::Held;
}

EditFate openStretch(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const auto stretch = heldStretch(edit, paths, ground, out);
    if (!stretch)
        return EditFate::NoPlace;
    constexpr double least = 1e-3; // mm
    const Path path = paths[stretch->path];
    if (distance(stretch->from.at, stretch->to.at) < least)
        return EditFate::DoesNotFit;
    if (path.closed) {
        paths[stretch->path] = stretchOf(path, stretch->to, stretch->from);
        return EditFate::Held;
    }
    // Of an open one two are left, or one where it ran to an end.
    const double from = wayTo(path, stretch->from), to = wayTo(path, stretch->to), whole = length(path);
    const bool forward = from < to;
    const PathPlace &a = forward ? stretch->from : stretch->to, &b = forward ? stretch->to : stretch->from;
    Paths left;
    if (std::min(from, to) > least)
        left.push_back(stretchOf(path, {0, 0, path.start}, a));
    if (std::max(from, to) < whole - least)
        left.push_back(stretchOf(path, b, {path.segments.size() - 1, 1, path.segments.back().end}));
    paths.erase(paths.begin() + std::ptrdiff_t(stretch->path));
    paths.insert(paths.begin() + std::ptrdiff_t(stretch->path), left.begin(), left.end());
    return EditFate::Held;
}

} // namespace yokai
