#include "register/candidates.h"

#include <opencv2/imgproc.hpp>

#include <cmath>
#include <numbers>
#include <optional>

namespace yokai {

namespace {

constexpr int workingSide = 2000;      // pixels: enough for a 2 mm mark of an A3 sheet
constexpr double darker = 0.6;         // of the paper round it: what is darker may be ink
constexpr int smallest = 6;            // pixels across: less says nothing of a shape
constexpr double largestShare = 0.1;   // of the picture's longer side
constexpr double outlineShare = 0.045; // how far round a place its paper is looked for

// How light the paper is about each place: the lightest near by, smoothed, so that uneven light makes no ink.
cv::Mat paperOf(const cv::Mat& grey)
{
    constexpr int reduced = 4;
    cv::Mat small, light;
    cv::resize(grey, small, {}, 1.0 / reduced, 1.0 / reduced, cv::INTER_AREA);
    const int reach = std::max(3, int(std::max(small.cols, small.rows) * outlineShare)) | 1;
    // Specks of glare are not paper: a median first.
    cv::medianBlur(small, small, 3);
    cv::dilate(small, light, cv::getStructuringElement(cv::MORPH_RECT, {reach, reach}));
    cv::blur(light, light, {reach, reach});
    cv::Mat out;
    cv::resize(light, out, grey.size(), 0, 0, cv::INTER_LINEAR);
    return out;
}

struct Shape {
    double area = 0;
    Point middle;
    double spread = 0; // the square root of the product of its two variances
    double ratio = 1;  // of the smaller variance to the larger
};

Shape shapeOf(const cv::Mat& labels, int label, const cv::Rect& box)
{
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0, syy = 0;
    for (int y = box.y; y < box.y + box.height; ++y) {
        const int* row = labels.ptr<int>(y);
        for (int x = box.x; x < box.x + box.width; ++x)
            if (row[x] == label) {
                const double u = x - box.x, v = y - box.y;
                ++n;
                sx += u;
                sy += v;
                sxx += u * u;
                sxy += u * v;
                syy += v * v;
            }
    }
    const double mx = sx / n, my = sy / n;
    // A pixel is a square, with a twelfth of its own.
    const double xx = sxx / n - mx * mx + 1 / 12.0, yy = syy / n - my * my + 1 / 12.0, xy = sxy / n - mx * my;
    const double mean = (xx + yy) / 2, off = std::hypot((xx - yy) / 2, xy);
    return {n, {box.x + mx + 0.5, box.y + my + 0.5}, std::sqrt(std::max(0.0, xx * yy - xy * xy)), (mean - off) / (mean + off)};
}

// A bracket by its three farthest places: the ends of its arms, and its corner.
std::optional<Candidate> bracketOf(const cv::Mat& labels, int label, const cv::Rect& box, Point middle)
{
    const auto farthest = [&](const auto& far) {
        Point best = middle;
        double most = -1;
        for (int y = box.y; y < box.y + box.height; ++y) {
            const int* row = labels.ptr<int>(y);
            for (int x = box.x; x < box.x + box.width; ++x)
                if (row[x] == label)
                    if (const double d = far(Point{x + 0.5, y + 0.5}); d > most) {
                        most = d;
                        best = {x + 0.5, y + 0.5};
                    }
        }
        return best;
    };
    const Point a = farthest([&](Point p) { return distance(p, middle); }), b = farthest([&](Point p) { return distance(p, a); });
    const Point along = unit(b - a), corner = farthest([&](Point p) { return std::abs(cross(along, p - a)); });
    const double first = distance(a, corner), second = distance(b, corner), upright = dot(a - corner, b - corner) / std::max(first * second, 1e-9);
    // Arms of about one length at about a right angle, as a sheet at a slant shows them.
    if (std::min(first, second) < 0.6 * std::max(first, second) || std::abs(upright) > 0.45)
        return std::nullopt;
    return Candidate{MarkStyle::Brackets, corner, (first + second) / 2, std::abs(upright)};
}

std::optional<Candidate> markOf(const cv::Mat& labels, int label, const cv::Rect& box)
{
    const Shape s = shapeOf(labels, label, box);
    const double fill = s.area / (double(box.width) * box.height), aspect = double(std::min(box.width, box.height)) / std::max(box.width, box.height);
    // Of a filled ellipse 1, of a cross or a bracket a few times its line's width to its size.
    const double density = s.area / (4 * std::numbers::pi * s.spread);
    const bool inked = labels.at<int>(std::clamp(int(s.middle.y), 0, labels.rows - 1), std::clamp(int(s.middle.x), 0, labels.cols - 1)) == label;
    const Point centre{box.x + box.width / 2.0, box.y + box.height / 2.0};
    if (aspect > 0.65 && s.ratio > 0.4 && std::abs(density - 1) < 0.08 && std::abs(fill - std::numbers::pi / 4) < 0.09)
        return Candidate{MarkStyle::Dots, s.middle, std::sqrt(4 * s.area / std::numbers::pi), std::abs(density - 1) + std::abs(fill - std::numbers::pi / 4)};
    const double size = std::sqrt(24 * s.spread);
    if (density > 0.08 && density < 0.75 && s.ratio > 0.6 && aspect > 0.65 && distance(s.middle, centre) < 0.08 * size && inked)
        return Candidate{MarkStyle::Crosses, s.middle, size, 1 - s.ratio};
    if (density > 0.04 && density < 0.5 && s.ratio > 0.1 && s.ratio < 0.5 && !inked)
        return bracketOf(labels, label, box, s.middle);
    return std::nullopt;
}

} // namespace

std::vector<Candidate> markCandidates(const cv::Mat& grey, const Work& work)
{
    const double scale = std::min(1.0, double(workingSide) / std::max(grey.cols, grey.rows));
    cv::Mat small = grey;
    if (scale < 1)
        cv::resize(grey, small, {}, scale, scale, cv::INTER_AREA);
    work.check();
    cv::GaussianBlur(small, small, {3, 3}, 0);
    const cv::Mat paper = paperOf(small);
    work.check();
    cv::Mat dark;
    cv::Mat limit;
    paper.convertTo(limit, CV_8U, darker);
    cv::compare(small, limit, dark, cv::CMP_LT);
    cv::Mat labels, stats, centres;
    const int count = cv::connectedComponentsWithStats(dark, labels, stats, centres, 8, CV_32S);
    work.check();
    const int largest = int(largestShare * std::max(small.cols, small.rows));
    std::vector<Candidate> out;
    for (int i = 1; i < count; ++i) {
        const cv::Rect box(stats.at<int>(i, cv::CC_STAT_LEFT), stats.at<int>(i, cv::CC_STAT_TOP), stats.at<int>(i, cv::CC_STAT_WIDTH),
                           stats.at<int>(i, cv::CC_STAT_HEIGHT));
        if (std::max(box.width, box.height) < smallest || std::max(box.width, box.height) > largest || std::min(box.width, box.height) < smallest / 2)
            continue;
        if (auto mark = markOf(labels, i, box)) {
            mark->at = mark->at * (1 / scale);
            mark->size /= scale;
            out.push_back(*mark);
        }
    }
    return out;
}

} // namespace yokai
