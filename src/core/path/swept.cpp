#include "path/swept.h"

#include "path/fit.h"

#include <polyclipping/clipper.hpp>

#include <algorithm>
#include <cmath>

namespace yokai {

Paths swept(std::span<const Polyline> ways, double radius, const Work& work)
{
    constexpr double fine = 1e5;      // of its whole numbers, to one
    constexpr double chords = 0.005;  // how far a chord of a round end may lie off it, of the radius: turns of 11 degrees
    constexpr double tolerance = 0.01, apart = 0.1; // of the radius, of the fit
    if (!(radius > 0))
        return {};
    ClipperLib::ClipperOffset offset(2, chords * radius * fine);
    for (const Polyline& way : ways) {
        ClipperLib::Path path;
        for (const Point p : way)
            path.emplace_back(ClipperLib::cInt(std::llround(p.x * fine)), ClipperLib::cInt(std::llround(p.y * fine)));
        offset.AddPath(path, ClipperLib::jtRound, ClipperLib::etOpenRound);
    }
    ClipperLib::Paths outlines;
    offset.Execute(outlines, radius * fine);
    Paths out;
    for (const ClipperLib::Path& outline : outlines) {
        work.check();
        Polyline points;
        for (const ClipperLib::IntPoint& p : outline)
            points.push_back(Point{double(p.X), double(p.Y)} * (1 / fine));
        if (points.size() < 3)
            continue;
        if (Path path = refitted(polygonPath(points), tolerance * radius, apart * radius); !path.segments.empty())
            out.push_back(std::move(path));
    }
    return out;
}

} // namespace yokai
