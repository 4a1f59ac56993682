#include "register/find_marks.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

// The ink nearest to a place, as a mask of its own; empty where there is none.
cv::Mat inkNear(const cv::Mat& grey, Point near)
{
    constexpr double leastContrast = 25; // of 255
    constexpr int leastArea = 6;         // pixels: less is dust
    double least = 0, most = 0;
    cv::minMaxLoc(grey, &least, &most);
    if (most - least < leastContrast)
        return {};
    cv::Mat dark, labels, stats, middles;
    cv::threshold(grey, dark, 0, 255, cv::THRESH_BINARY_INV | cv::THRESH_OTSU);
    cv::connectedComponentsWithStats(dark, labels, stats, middles);
    int best = 0;
    double nearest = std::numeric_limits<double>::infinity();
    for (int y = 0; y < labels.rows; ++y)
        for (int x = 0; x < labels.cols; ++x) {
            const int label = labels.at<int>(y, x);
            if (label == 0 || stats.at<int>(label, cv::CC_STAT_AREA) < leastArea)
                continue;
            if (const double d = std::hypot(x + 0.5 - near.x, y + 0.5 - near.y); d < nearest) {
                nearest = d;
                best = label;
            }
        }
    return best == 0 ? cv::Mat() : cv::Mat(labels == best);
}

// Of the ink within a distance of a place, weighed by how dark it is.
Point middleOf(const cv::Mat& ink, const cv::Mat& grey, Point about, double within)
{
    double paper = 0;
    cv::minMaxLoc(grey, nullptr, &paper);
    double mass = 0;
    Point sum;
    for (int y = 0; y < ink.rows; ++y)
        for (int x = 0; x < ink.cols; ++x) {
            const Point p{x + 0.5, y + 0.5};
            if (!ink.at<unsigned char>(y, x) || distance(p, about) > within)
                continue;
            const double w = paper - grey.at<unsigned char>(y, x);
            mass += w;
            sum = sum + p * w;
        }
    return mass > 0 ? sum * (1 / mass) : about;
}

} // namespace

std::optional<Point> featureNear(const Rgba8& picture, Point near, double reach)
{
    const cv::Rect window =
        cv::Rect(int(near.x - reach), int(near.y - reach), int(2 * reach) + 1, int(2 * reach) + 1) & cv::Rect(0, 0, picture.width(), picture.height());
    if (window.width < 5 || window.height < 5)
        return std::nullopt;
    const cv::Mat rgba(picture.height(), picture.width(), CV_8UC4, const_cast<Rgba*>(picture.all().data()));
    cv::Mat grey;
    cv::cvtColor(rgba(window), grey, cv::COLOR_RGBA2GRAY);
    const Point corner{double(window.x), double(window.y)};
    const cv::Mat ink = inkNear(grey, near - corner);
    if (ink.empty())
        return std::nullopt;
    const cv::Rect box = cv::boundingRect(ink);
    // What fills its box is taken whole. Strokes that cross, of whatever lengths, are thickest where they do.
    constexpr double filled = 0.5;
    if (cv::countNonZero(ink) > filled * box.area())
        return corner + middleOf(ink, grey, near - corner, std::numeric_limits<double>::infinity());
    cv::Mat depth;
    cv::distanceTransform(ink, depth, cv::DIST_L2, cv::DIST_MASK_PRECISE);
    double thickest = 0;
    cv::Point where;
    cv::minMaxLoc(depth, nullptr, &thickest, nullptr, &where);
    constexpr double round = 2.2; // of half a stroke's width: the crossing, and little of the strokes
    return corner + middleOf(ink, grey, {where.x + 0.5, where.y + 0.5}, round * thickest);
}

} // namespace yokai
