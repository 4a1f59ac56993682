#include "shapes.h"

#include "outline/build.h"

#include <opencv2/imgproc.hpp>

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

Gray8 drawnFine(const std::vector<Polyline>& outlines, int width, int height)
{
    constexpr int fine = 16, shift = 4;
    cv::Mat large(height * fine, width * fine, CV_8U, cv::Scalar(0)), small;
    for (std::size_t k = 0; k < outlines.size(); ++k) {
        std::vector<cv::Point> points;
        for (const Point p : outlines[k]) // pixel (0, 0) lies about (0.5, 0.5)
            points.emplace_back(int(std::lround((p.x * fine - 0.5) * (1 << shift))), int(std::lround((p.y * fine - 0.5) * (1 << shift))));
        cv::fillPoly(large, std::vector{points}, cv::Scalar(k == 0 ? 255 : 0), cv::LINE_8, shift);
    }
    cv::resize(large, small, {width, height}, 0, 0, cv::INTER_AREA);
    Gray8 out(width, height);
    std::copy(small.begin<std::uint8_t>(), small.end<std::uint8_t>(), out.all().begin());
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
    return fitLines(DistanceField(std::move(edge)).at(offset), tolerance);
}

} // namespace yokai::test
