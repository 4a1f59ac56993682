#include "base/remapped.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>

namespace yokai {

namespace {

// Asked for at every eighth pixel, and in a line between: a lens that bends a whole picture by a tenth of itself is off by a hundredth of a
// pixel there.
void placesOf(cv::Vec2f* to, int width, int row, const std::function<Point(Point)>& from)
{
    constexpr int step = 8;
    constexpr double farApart = 100 * step; // pixels: towards a horizon nothing lies between them
    Point here = from({0.5, row + 0.5});
    for (int x = 0; x < width; x += step) {
        const Point next = from({x + step + 0.5, row + 0.5});
        const bool apart = !(distance(here, next) < farApart);
        for (int k = 0; k < std::min(step, width - x); ++k) {
            const Point p = apart ? from({x + k + 0.5, row + 0.5}) : mix(here, next, double(k) / step);
            to[x + k] = {float(p.x - 0.5), float(p.y - 0.5)};
        }
        here = next;
    }
}

} // namespace

Rgba8 remapped(const Rgba8& picture, int width, int height, const std::function<Point(Point)>& from, Rgba beside, const Work& work)
{
    Rgba8 out(width, height);
    const cv::Mat source(picture.height(), picture.width(), CV_8UC4, const_cast<Rgba*>(picture.all().data()));
    constexpr int band = 16; // rows at a time: some 10 ms of the widest picture, and the places they come from take eight bytes a pixel
    parallelSlices((height + band - 1) / band, 1, [&](int begin, int end) {
        cv::Mat places(band, width, CV_32FC2);
        for (int b = begin; b < end; ++b) {
            const int top = b * band, rows = std::min(band, height - top);
            work.report(double(top) / height, "straightening");
            for (int y = 0; y < rows; ++y)
                placesOf(places.ptr<cv::Vec2f>(y), width, top + y, from);
            cv::Mat to(rows, width, CV_8UC4, out.row(top));
            cv::remap(source, to, places.rowRange(0, rows), cv::Mat(), cv::INTER_CUBIC, cv::BORDER_REPLICATE);
            for (int y = 0; y < rows; ++y)
                for (int x = 0; x < width; ++x)
                    if (const cv::Vec2f p = places.at<cv::Vec2f>(y, x);
                        !(p[0] >= -0.5F && p[1] >= -0.5F && p[0] <= float(picture.width()) - 0.5F && p[1] <= float(picture.height()) - 0.5F))
                        out.at(x, top + y) = beside;
        }
    });
    return out;
}

} // namespace yokai
