#include "formats/png/png.h"

#include "artwork/artwork.h"
#include "base/cover.h"
#include "base/error.h"

#include <opencv2/imgproc.hpp>

#include <cmath>

namespace yokai {

namespace {

constexpr double most = 400e6; // pixels

// Colours times how much of them is printed: what may be resampled and laid over one another.
cv::Mat premultiplied(const Rgba8& pixels)
{
    cv::Mat out(pixels.height(), pixels.width(), CV_8UC4);
    for (int y = 0; y < pixels.height(); ++y) {
        const Rgba* from = pixels.row(y);
        auto* to = out.ptr<cv::Vec4b>(y);
        for (int x = 0; x < pixels.width(); ++x) {
            const int a = from[x].a;
            const auto times = [a](int v) { return std::uint8_t((v * a + 127) / 255); };
            to[x] = {times(from[x].r), times(from[x].g), times(from[x].b), std::uint8_t(a)};
        }
    }
    return out;
}

void layOver(cv::Mat& sheet, const cv::Mat& image, cv::Rect where)
{
    for (int y = 0; y < where.height; ++y) {
        const auto* from = image.ptr<cv::Vec4b>(y);
        auto* to = sheet.ptr<cv::Vec4b>(where.y + y) + where.x;
        for (int x = 0; x < where.width; ++x)
            for (int c = 0; c < 4; ++c)
                to[x][c] = cv::saturate_cast<std::uint8_t>(from[x][c] + (to[x][c] * (255 - from[x][3]) + 127) / 255);
    }
}

// Resampled to its size on the sheet, then turned and moved into place; only where it lies.
void place(cv::Mat& sheet, const cv::Mat& image, const Affine& toSheet)
{
    const Affine m = Affine::move(-0.5, -0.5) * toSheet * Affine::move(0.5, 0.5); // OpenCV counts from a pixel's middle
    Rect box = Rect::nothing();
    for (const Point corner : {Point{0, 0}, Point{double(image.cols), 0}, Point{0, double(image.rows)}, Point{double(image.cols), double(image.rows)}})
        box.add(toSheet(corner));
    const cv::Rect where = cv::Rect(cv::Point(int(std::floor(box.x0)) - 1, int(std::floor(box.y0)) - 1), cv::Point(int(std::ceil(box.x1)) + 1, int(std::ceil(box.y1)) + 1)) &
                           cv::Rect(0, 0, sheet.cols, sheet.rows);
    if (where.empty())
        return;
    cv::Mat placed;
    const cv::Matx23d map(m.a, m.c, m.e - where.x, m.b, m.d, m.f - where.y);
    cv::warpAffine(image, placed, map, where.size(), cv::INTER_LINEAR, cv::BORDER_CONSTANT, cv::Scalar::all(0));
    layOver(sheet, placed, where);
}

void addImages(cv::Mat& sheet, const Drawing& d, double pxAMm, const Work& work)
{
    for (std::size_t k = 0; k < d.images.size(); ++k) {
        work.report(0.8 * double(k) / double(d.images.size()), "pictures");
        const PrintImage& image = d.images[k].image;
        cv::Mat pixels = premultiplied(*image.pixels);
        const double scaleX = image.toMm.a * pxAMm, scaleY = image.toMm.d * pxAMm;
        Affine own = Affine::scale(scaleX, scaleY);
        if (scaleX < 1 && scaleY < 1) { // made smaller it is averaged
            const cv::Size size(std::max(1, int(std::lround(pixels.cols * scaleX))), std::max(1, int(std::lround(pixels.rows * scaleY))));
            own = Affine::scale(scaleX * pixels.cols / size.width, scaleY * pixels.rows / size.height);
            cv::Mat smaller;
            cv::resize(pixels, smaller, size, 0, 0, cv::INTER_AREA);
            pixels = smaller;
        }
        for (const Affine& at : d.images[k].places) {
            work.check();
            place(sheet, pixels, Affine{at.a, at.b, at.c, at.d, at.e * pxAMm, at.f * pxAMm} * own);
        }
    }
}

// As exactly as their pixels can say: a mark half a pixel off would move the whole cut.
void addMarks(cv::Mat& sheet, const std::vector<Mark>& marks, double pxAMm, const Work& work)
{
    for (const Mark& mark : marks) {
        std::vector<Polyline> ink;
        for (const Path& path : inkOf(mark)) {
            const Polyline points = flatten(path, 0.02 / pxAMm);
            if (path.closed)
                ink.push_back(points);
            for (std::size_t k = 1; k < points.size() && !path.closed; ++k) { // a line as wide as it is: its own outline
                const Point along = unit(points[k] - points[k - 1]) * (mark.weight / 2), aside{-along.y, along.x};
                ink.push_back({points[k - 1] + aside, points[k - 1] - aside, points[k] - aside, points[k] + aside});
            }
        }
        for (Polyline& outline : ink)
            for (Point& p : outline)
                p = p * pxAMm;
        coverPolygons(
            ink, sheet.cols, sheet.rows,
            [&](int y, int x0, std::span<const std::uint8_t> cover) {
                auto* to = sheet.ptr<cv::Vec4b>(y) + x0;
                for (std::size_t x = 0; x < cover.size(); ++x)
                    for (int c = 0; c < 4; ++c)
                        to[x][c] = cv::saturate_cast<std::uint8_t>((c == 3 ? cover[x] : 0) + (to[x][c] * (255 - cover[x]) + 127) / 255);
            },
            work);
    }
}

// To look at: a pixel wide at least.
void addCuts(cv::Mat& sheet, const Drawing& d, double pxAMm, const Work& work)
{
    constexpr int shift = 8, base = 16;
    for (const CutItem& item : d.cuts) {
        work.check();
        const auto rgb = std::stoi(std::string(facts(item.kind).colour).substr(1), nullptr, base);
        const cv::Scalar colour(rgb >> 16 & 255, rgb >> 8 & 255, rgb & 255, 255);
        for (const Path& path : cutsOf(item)) {
            std::vector<cv::Point> points;
            for (const Point p : flatten(path, 0.1 / pxAMm))
                points.emplace_back(int(std::lround((p.x * pxAMm - 0.5) * (1 << shift))), int(std::lround((p.y * pxAMm - 0.5) * (1 << shift))));
            cv::polylines(sheet, points, path.closed, colour, std::max(1, int(std::lround(d.hairline * pxAMm))), cv::LINE_AA, shift);
        }
    }
}

Rgba8 plain(const cv::Mat& sheet)
{
    Rgba8 out(sheet.cols, sheet.rows);
    for (int y = 0; y < sheet.rows; ++y) {
        const auto* from = sheet.ptr<cv::Vec4b>(y);
        Rgba* to = out.row(y);
        for (int x = 0; x < sheet.cols; ++x) {
            const int a = from[x][3];
            const auto by = [a](int v) { return a == 0 ? std::uint8_t(0) : std::uint8_t(std::min(255, (v * 255 + a / 2) / a)); };
            to[x] = {by(from[x][0]), by(from[x][1]), by(from[x][2]), std::uint8_t(a)};
        }
    }
    return out;
}

} // namespace

Bytes writePng(const Drawing& d, Content content, const Work& work)
{
    const double pxAMm = d.ppi / 25.4;
    const double across = std::round(d.width * pxAMm), down = std::round(d.height * pxAMm);
    if (across < 1 || down < 1 || across * down > most)
        throw Error(ErrorKind::Usage, "a sheet of {} x {} mm at {} ppi has {} million pixels, over 400; write it at a lower resolution, or as PDF", plainNumber(d.width, 1),
                    plainNumber(d.height, 1), plainNumber(d.ppi, 1), plainNumber(across * down / 1e6, 0));
    cv::Mat sheet(int(down), int(across), CV_8UC4, cv::Scalar::all(0));
    if (content != Content::Cut)
        addImages(sheet, d, pxAMm, work);
    if (content != Content::Print)
        addCuts(sheet, d, pxAMm, work);
    addMarks(sheet, marksFor(d, content), pxAMm, work);
    work.report(0.8, "pixels");
    return encodePng(plain(sheet), work, d.ppi);
}

} // namespace yokai
