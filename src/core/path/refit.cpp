#include "path/fit.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yokai {

Path refitted(const Path& path, double tolerance, double apart)
{
    constexpr double sharpTurn = 15 * std::numbers::pi / 180; // less is a part of a bend, whoever drew it
    Polyline points;
    std::vector<unsigned char> corners;
    Point from = path.start;
    if (!path.closed) {
        points.push_back(from);
        corners.push_back(1);
    }
    for (std::size_t k = 0; k < path.segments.size(); ++k) {
        const Segment& s = path.segments[k];
        const double way = s.line ? distance(from, s.end) : distance(from, s.c1) + distance(s.c1, s.c2) + distance(s.c2, s.end);
        constexpr double most = 400; // of a long straight line
        const int parts = int(std::clamp(std::ceil(way / apart), 1.0, most));
        for (int part = 1; part <= parts; ++part) {
            points.push_back(pointOn(from, s, double(part) / parts));
            corners.push_back(0);
        }
        corners.back() = !path.closed && k + 1 == path.segments.size() ? 1 : turnAt(path, k) > sharpTurn;
        from = s.end;
    }
    return path.closed ? fitClosed(points, corners, tolerance) : fitOpen(points, corners, tolerance);
}

} // namespace yokai
