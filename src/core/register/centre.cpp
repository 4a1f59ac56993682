#include "register/centre.h"

#include <Eigen/Dense>
#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yokai {

namespace {

// Of the light between pixel middles; outside the nearest.
double lightAt(const cv::Mat& grey, Point p)
{
    const double x = std::clamp(p.x - 0.5, 0.0, grey.cols - 1.001), y = std::clamp(p.y - 0.5, 0.0, grey.rows - 1.001);
    const int i = int(x), j = int(y);
    const double u = x - i, v = y - j;
    const unsigned char *a = grey.ptr(j) + i, *b = grey.ptr(j + 1) + i;
    return (a[0] * (1 - u) + a[1] * u) * (1 - v) + (b[0] * (1 - u) + b[1] * u) * v;
}

// How a disc's own frame, its radius 1, lies in the picture.
struct Frame {
    Point x, y; // pixels for a unit of it
    double inverseXx, inverseXy, inverseYx, inverseYy;
    Frame(Point across, Point down) : x(across), y(down)
    {
        const double det = cross(x, y);
        inverseXx = y.y / det;
        inverseXy = -y.x / det;
        inverseYx = -x.y / det;
        inverseYy = x.x / det;
    }
    double radius(Point d) const { return std::hypot(inverseXx * d.x + inverseXy * d.y, inverseYx * d.x + inverseYy * d.y); }
};

// The middle of the darkness above a slope of paper that is read round the disc.
std::optional<Point> discCentre(const cv::Mat& grey, Point centre, const Frame& frame)
{
    constexpr double paperFrom = 1.25, paperTo = 1.6, inkTo = 1.2, core = 0.6; // in radii; the ground about a mark is kept clear
    constexpr double leastContrast = 20;                                       // of 255
    for (int round = 0; round < 3; ++round) {
        const double reach = paperTo * std::max(std::hypot(frame.x.x, frame.y.x), std::hypot(frame.x.y, frame.y.y)) + 1;
        const int x0 = std::max(0, int(centre.x - reach)), x1 = std::min(grey.cols - 1, int(centre.x + reach)), y0 = std::max(0, int(centre.y - reach)),
                  y1 = std::min(grey.rows - 1, int(centre.y + reach));
        Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
        Eigen::Vector3d right = Eigen::Vector3d::Zero();
        double ink = 0, inkCount = 0;
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const Point d = Point{x + 0.5, y + 0.5} - centre;
                const double r = frame.radius(d), v = grey.at<unsigned char>(y, x);
                if (r < core) {
                    ink += v;
                    ++inkCount;
                } else if (r > paperFrom && r < paperTo) {
                    const Eigen::Vector3d row(1, d.x, d.y);
                    sum += row * row.transpose();
                    right += row * v;
                }
            }
        if (inkCount < 4 || sum(0, 0) < 8)
            return std::nullopt;
        const Eigen::Vector3d paper = sum.ldlt().solve(right);
        ink /= inkCount;
        if (paper(0) - ink < leastContrast)
            return std::nullopt;
        double mass = 0, mx = 0, my = 0;
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const Point d = Point{x + 0.5, y + 0.5} - centre;
                if (frame.radius(d) > inkTo)
                    continue;
                const double white = paper(0) + paper(1) * d.x + paper(2) * d.y;
                const double w = std::clamp((white - grey.at<unsigned char>(y, x)) / (white - ink), 0.0, 1.0);
                mass += w;
                mx += w * d.x;
                my += w * d.y;
            }
        // A disc's own area, or it is none.
        const double whole = std::numbers::pi * std::abs(cross(frame.x, frame.y));
        if (mass < 0.75 * whole || mass > 1.3 * whole)
            return std::nullopt;
        centre = centre + Point{mx / mass, my / mass};
    }
    return centre;
}

struct Straight {
    Point through, along;
};

// The line through the middles of a dark stroke that runs about along `way` from `from`, between two parts of it.
std::optional<Straight> strokeLine(const cv::Mat& grey, Point from, Point way, std::span<const std::pair<double, double>> parts, double width)
{
    const Point along = unit(way), side{-along.y, along.x};
    const double reach = std::max(2.5 * width, 3.0);
    Polyline middles;
    for (const auto& [begin, end] : parts) {
        const double length = norm(way);
        for (double t = begin * length; t <= end * length; t += 1) {
            const Point at = from + along * t;
            const double paper = std::min(lightAt(grey, at + side * reach), lightAt(grey, at - side * reach));
            double mass = 0, moment = 0;
            for (double s = -reach; s <= reach; s += 0.25) {
                const double w = std::max(0.0, 0.9 * paper - lightAt(grey, at + side * s));
                mass += w;
                moment += w * s;
            }
            if (mass > 0.25 * width * 4 * 0.2 * paper)
                middles.push_back(at + side * (moment / mass));
        }
    }
    if (middles.size() < 6)
        return std::nullopt;
    Straight line;
    // Fitted, then once more without what lies off it: dust.
    for (int round = 0; round < 3; ++round) {
        Point mean;
        for (const Point p : middles)
            mean = mean + p * (1.0 / double(middles.size()));
        double xx = 0, xy = 0, yy = 0;
        for (const Point p : middles) {
            const Point d = p - mean;
            xx += d.x * d.x;
            xy += d.x * d.y;
            yy += d.y * d.y;
        }
        const double angle = 0.5 * std::atan2(2 * xy, xx - yy);
        line = {mean, {std::cos(angle), std::sin(angle)}};
        std::vector<double> off;
        for (const Point p : middles)
            off.push_back(std::abs(cross(line.along, p - line.through)));
        std::vector<double> sorted = off;
        std::nth_element(sorted.begin(), sorted.begin() + std::ptrdiff_t(sorted.size() / 2), sorted.end());
        const double limit = std::max(0.3, 3 * sorted[sorted.size() / 2]);
        Polyline kept;
        for (std::size_t i = 0; i < middles.size(); ++i)
            if (off[i] <= limit)
                kept.push_back(middles[i]);
        if (kept.size() < 6)
            return std::nullopt;
        middles = std::move(kept);
    }
    return std::abs(dot(line.along, along)) > 0.95 ? std::optional(line) : std::nullopt;
}

std::optional<Point> crossing(const Straight& a, const Straight& b)
{
    const double d = cross(a.along, b.along);
    if (std::abs(d) < 0.5)
        return std::nullopt;
    return a.through + a.along * (cross(b.through - a.through, b.along) / d);
}

} // namespace

std::optional<Point> exactCentre(const cv::Mat& grey, const Mark& mark, Point near, const Homography& map)
{
    const Point at = mark.centre, seen = map(at), x = map(at + Point{1, 0}) - seen, y = map(at + Point{0, 1}) - seen;
    const double r = mark.diameter / 2;
    if (mark.style == MarkStyle::Dots)
        return discCentre(grey, near, Frame(x * r, y * r));
    const double width = std::max(1.0, mark.weight * (norm(x) + norm(y)) / 2);
    std::optional<Point> centre = near;
    for (int round = 0; round < 2 && centre; ++round) {
        using Parts = std::vector<std::pair<double, double>>;
        const bool cross = mark.style == MarkStyle::Crosses;
        // Away from where the arms meet and from their ends, which are blurred.
        const Parts parts = cross ? Parts{{-0.9, -0.25}, {0.25, 0.9}} : Parts{{0.2, 0.92}};
        const double arm = cross ? r : mark.diameter;
        const auto across = strokeLine(grey, *centre, x * (cross ? arm : arm * mark.inwards.x), parts, width),
                   down = strokeLine(grey, *centre, y * (cross ? arm : arm * mark.inwards.y), parts, width);
        centre = across && down ? crossing(*across, *down) : std::nullopt;
        if (centre && distance(*centre, near) > mark.diameter * norm(x))
            centre.reset();
    }
    return centre;
}

} // namespace yokai
