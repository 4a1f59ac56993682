#include "path/united.h"

#include <polyclipping/clipper.hpp>

#include <cmath>

namespace yokai {

std::vector<Polyline> united(const std::vector<Polyline>& a, const std::vector<Polyline>& b, const Work& work)
{
    constexpr double grain = 1e5; // of its whole numbers, to one
    ClipperLib::Clipper clipper;
    const auto add = [&](const std::vector<Polyline>& polygons, ClipperLib::PolyType as) {
        for (const Polyline& polygon : polygons) {
            work.check();
            ClipperLib::Path path;
            for (const Point p : polygon)
                path.emplace_back(ClipperLib::cInt(std::llround(p.x * grain)), ClipperLib::cInt(std::llround(p.y * grain)));
            clipper.AddPath(path, as, true);
        }
    };
    add(a, ClipperLib::ptSubject);
    add(b, ClipperLib::ptClip);
    ClipperLib::Paths outlines;
    clipper.Execute(ClipperLib::ctUnion, outlines, ClipperLib::pftEvenOdd, ClipperLib::pftEvenOdd);
    std::vector<Polyline> out;
    for (const ClipperLib::Path& outline : outlines) {
        Polyline& points = out.emplace_back();
        for (const ClipperLib::IntPoint& p : outline)
            points.push_back(Point{double(p.X), double(p.Y)} * (1 / grain));
    }
    return out;
}

} // namespace yokai
