// Regions added to what a line encloses, or taken from it, and round holes.
#include "path/boolean.h"
#include "touchup/kinds.h"
#include "touchup/outlines.h"

namespace yokai {

namespace {

// The outlines as they lie now: parts run as a part's does, openings the other way.
Paths outlinesOf(const Edit& edit, const EditGround& ground)
{
    Paths out;
    for (const std::vector<Point>& held : edit.outlines)
        if (Path path = curvesOf(held); path.segments.size() > 1)
            out.push_back(transformed(path, ground.toMm));
    constexpr double flatness = 0.05;
    std::vector<Polyline> lines;
    for (const Path& path : out)
        lines.push_back(flatten(path, flatness));
    for (std::size_t k = 0; k < out.size(); ++k) {
        bool part = true;
        for (std::size_t other = 0; other < out.size(); ++other)
            if (other != k && contains(lines[other], out[k].start))
                part = !part;
        if ((signedArea(out[k]) > 0) != part)
            out[k] = reversed(out[k]);
    }
    return out;
}

EditFate refused(const Paths& outlines, EditOutcome& out)
{
    constexpr double flatness = 0.05;
    if (!outlines.empty())
        out.ghost = flatten(outlines.front(), flatness);
    return EditFate::DoesNotFit;
}

EditFate combine(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out, Combine how)
{
    const Paths outlines = outlinesOf(edit, ground);
    if (outlines.empty())
        return EditFate::DoesNotFit;
    out.at = bounds(outlines).centre();
    const auto result = combined(paths, outlines, how);
    if (!result)
        return refused(outlines, out);
    paths = *result;
    return EditFate::Held;
}

} // namespace

std::vector<Point> pointsOf(const Path& outline)
{
    std::vector<Point> out{outline.start};
    for (const Segment& s : outline.segments)
        out.insert(out.end(), {s.c1, s.c2, s.end});
    return out;
}

Path curvesOf(const std::vector<Point>& points, bool closed)
{
    constexpr double straight = 1e-7; // of its length: handles that lie at its thirds
    Path path;
    if (points.empty())
        return path;
    path.start = points.front();
    Point from = path.start;
    for (std::size_t k = 1; k + 2 < points.size(); k += 3) {
        const Point c1 = points[k], c2 = points[k + 1], end = points[k + 2];
        const double off = straight * distance(from, end);
        if (distance(c1, mix(from, end, 1.0 / 3)) <= off && distance(c2, mix(from, end, 2.0 / 3)) <= off)
            path.lineTo(end);
        else
            path.curveTo(c1, c2, end, true);
        from = end;
    }
    if (path.segments.empty())
        return path;
    path.closed = closed;
    if (closed)
        path.segments.back().end = path.start;
    constexpr double smooth = 0.05; // radians
    for (std::size_t k = 0; k + (closed ? 0 : 1) < path.segments.size(); ++k)
        path.corners[k] = turnAt(path, k) > smooth;
    return path;
}

// By itself: a part beside what is there, an opening within it.
EditFate putBeside(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    Paths outlines = outlinesOf(edit, ground);
    if (outlines.empty())
        return EditFate::DoesNotFit;
    out.at = bounds(outlines).centre();
    constexpr double flatness = 0.05;
    bool within = false;
    for (const Path& path : paths)
        if (path.closed && contains(flatten(path, flatness), outlines.front().start))
            within = !within;
    for (Path& path : outlines)
        paths.push_back(within ? reversed(path) : path);
    return EditFate::Held;
}

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
