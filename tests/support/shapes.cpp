#include "shapes.h"

#include "outline/offset.h"
#include "path/fit.h"

#include <numbers>

namespace yokai::test {

Gray8 drawn(int width, int height, const std::function<bool(double, double)>& inside)
{
    Gray8 out(width, height);
    constexpr int n = 16;
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            int hits = 0;
            for (int j = 0; j < n; ++j)
                for (int i = 0; i < n; ++i)
                    hits += inside(x + (i + 0.5) / n, y + (j + 0.5) / n);
            out.at(x, y) = std::uint8_t((hits * 255 + n * n / 2) / (n * n));
        }
    return out;
}

Contours truth(Polyline points)
{
    Contours out(1);
    out[0].points = std::move(points);
    out[0].area = signedArea(out[0].points);
    return out;
}

Polyline star(Point c, double inner, double outer, int tips, double turn)
{
    Polyline out;
    for (int i = 0; i < 2 * tips; ++i) {
        const double a = turn + std::numbers::pi * i / tips, r = i % 2 ? inner : outer;
        out.push_back({c.x + r * std::cos(a), c.y + r * std::sin(a)});
    }
    return out;
}

Polyline lobes(Point c, double radius, double depth, int count)
{
    Polyline out;
    for (int i = 0; i < 4000; ++i) {
        const double a = 2 * std::numbers::pi * i / 4000, r = radius + depth * std::cos(count * a);
        out.push_back({c.x + r * std::cos(a), c.y + r * std::sin(a)});
    }
    return out;
}

double worst(const Paths& paths, const Contours& edge, double offset)
{
    double out = 0;
    for (const Path& p : paths)
        for (const Point q : flatten(p, 0.002))
            out = std::max(out, std::abs(signedDistance(edge, q) - offset));
    return out;
}

Paths outlineAt(const Gray8& coverage, double offset, double tolerance)
{
    Contours edge = traceEdge(coverage);
    sharpenCorners(edge);
    const DistanceField field(std::move(edge));
    Paths out;
    for (const LevelLine& line : field.at(offset))
        out.push_back(fitClosed(line.points, line.corners, tolerance));
    return out;
}

} // namespace yokai::test
