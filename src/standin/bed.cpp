#include "bed.h"

#include "artwork/artwork.h"
#include "base/error.h"

#include <opencv2/imgproc.hpp>
#include <poppler-document.h>
#include <poppler-page-renderer.h>
#include <poppler-page.h>

#include <cmath>
#include <cstring>
#include <memory>
#include <numbers>

namespace yokai::standin {

Affine Distortion::map(double width, double height) const
{
    const double radians = std::numbers::pi / 180;
    const Affine stretchAndSkew{stretchX, 0, stretchY * std::sin(skew * radians), stretchY * std::cos(skew * radians), 0, 0};
    const Point middle{width / 2, height / 2};
    return Affine::move(middle.x + shiftX, middle.y + shiftY) * Affine::turn(turn * radians) * stretchAndSkew * Affine::move(-middle.x, -middle.y);
}

void Bed::print(const std::string& pdfPath)
{
    const std::unique_ptr<poppler::document> document(poppler::document::load_from_file(pdfPath));
    const std::unique_ptr<poppler::page> page(document && !document->is_locked() ? document->create_page(0) : nullptr);
    if (!page)
        throw Error(ErrorKind::Input, "the stand-in cannot print '" + pdfPath + "': it is not a PDF; hand off a print PDF first");
    const auto size = page->page_rect(poppler::media_box);
    sheetWidth_ = size.width() * 25.4 / 72;
    sheetHeight_ = size.height() * 25.4 / 72;
    if (!(sheetWidth_ > 1 && sheetHeight_ > 1 && sheetWidth_ < 20'000 && sheetHeight_ < 20'000))
        throw Error(ErrorKind::Input, "the stand-in cannot print '" + pdfPath + "': its page has no sensible size; hand off a print PDF first");
    // About 200 ppi, less for very large sheets.
    pxPerMm_ = std::min(8.0, std::sqrt(40e6 / (sheetWidth_ * sheetHeight_)));
    poppler::page_renderer renderer;
    renderer.set_image_format(poppler::image::format_bgr24);
    renderer.set_render_hint(poppler::page_renderer::antialiasing);
    renderer.set_paper_color(0xffffffff);
    const double ppi = pxPerMm_ * 25.4;
    const poppler::image image = renderer.render_page(page.get(), ppi, ppi);
    if (!image.is_valid())
        throw Error(ErrorKind::Device, "the stand-in could not print '" + pdfPath + "'; hand off a new print PDF");
    const cv::Mat sheet(image.height(), image.width(), CV_8UC3, const_cast<char*>(image.const_data()), std::size_t(image.bytes_per_row()));

    truth_ = distortion_.map(sheetWidth_, sheetHeight_);
    // From bed pixels to sheet pixels; pixel centres lie half a pixel in.
    const Affine bedFromPx = Affine{1 / pxPerMm_, 0, 0, -1 / pxPerMm_, viewCorner().x, viewCorner().y} * Affine::move(0.5, 0.5);
    const Affine pxFromSheet = Affine::move(-0.5, -0.5) * Affine{pxPerMm_, 0, 0, -pxPerMm_, 0, sheetHeight_ * pxPerMm_};
    const Affine back = pxFromSheet * truth_.inverse() * bedFromPx;
    const cv::Mat matrix = (cv::Mat_<double>(2, 3) << back.a, back.c, back.e, back.b, back.d, back.f);
    const cv::Size area(int(std::ceil((sheetWidth_ + 2 * border) * pxPerMm_)), int(std::ceil((sheetHeight_ + 2 * border) * pxPerMm_)));
    picture_.create(area, CV_8UC3);
    picture_.setTo(cv::Scalar(104, 98, 92)); // the mat
    for (double mm = 0; mm * pxPerMm_ < std::max(area.width, area.height); mm += 10) {
        const int px = int(mm * pxPerMm_);
        cv::line(picture_, {px, 0}, {px, area.height}, cv::Scalar(116, 110, 104));
        cv::line(picture_, {0, px}, {area.width, px}, cv::Scalar(116, 110, 104));
    }
    cv::warpAffine(sheet, picture_, matrix, area, cv::INTER_LINEAR | cv::WARP_INVERSE_MAP, cv::BORDER_TRANSPARENT);
    cuts_.clear();
    at_ = {};
    down_ = false;
}

std::optional<Point> Bed::findMark(Point near, double diameter)
{
    if (picture_.empty() || !(diameter > 0.5 && diameter < 50))
        return std::nullopt;
    const double reach = diameter * 1.7; // what the sensor sees around where it was sent
    const Point corner = viewCorner();
    const cv::Point2d centre((near.x - corner.x) * pxPerMm_, (corner.y - near.y) * pxPerMm_);
    const cv::Rect window = cv::Rect(int(centre.x - reach * pxPerMm_), int(centre.y - reach * pxPerMm_), int(2 * reach * pxPerMm_), int(2 * reach * pxPerMm_)) &
                            cv::Rect(0, 0, picture_.cols, picture_.rows);
    if (window.area() < 16)
        return std::nullopt;
    cv::Mat grey;
    cv::cvtColor(picture_(window), grey, cv::COLOR_BGR2GRAY);
    const cv::Mat dark = grey < 80; // darker than the mat
    cv::Mat labels, stats, centres;
    const int count = cv::connectedComponentsWithStats(dark, labels, stats, centres);
    const double wanted = diameter * pxPerMm_;
    int best = -1;
    double nearest = 1e18;
    for (int i = 1; i < count; ++i) {
        const double w = stats.at<int>(i, cv::CC_STAT_WIDTH), h = stats.at<int>(i, cv::CC_STAT_HEIGHT), area = stats.at<int>(i, cv::CC_STAT_AREA);
        const double fill = area / (w * h), x = centres.at<double>(i, 0), y = centres.at<double>(i, 1);
        // A disc fills pi/4 of its box.
        if (std::abs(w / wanted - 1) > 0.25 || std::abs(h / wanted - 1) > 0.25 || std::abs(fill - 0.785) > 0.08)
            continue;
        const double d = std::hypot(x + window.x - centre.x, y + window.y - centre.y);
        if (d < nearest) {
            nearest = d;
            best = i;
        }
    }
    if (best < 0)
        return std::nullopt;
    // The centroid of the darkness round the disc, to a fraction of a pixel.
    const int pad = 3;
    const cv::Rect box = cv::Rect(stats.at<int>(best, cv::CC_STAT_LEFT) - pad, stats.at<int>(best, cv::CC_STAT_TOP) - pad,
                                  stats.at<int>(best, cv::CC_STAT_WIDTH) + 2 * pad, stats.at<int>(best, cv::CC_STAT_HEIGHT) + 2 * pad) &
                         cv::Rect(0, 0, window.width, window.height);
    double sum = 0, sx = 0, sy = 0;
    for (int y = box.y; y < box.y + box.height; ++y)
        for (int x = box.x; x < box.x + box.width; ++x) {
            const double v = 255 - grey.at<unsigned char>(y, x);
            sum += v;
            sx += v * (x + 0.5);
            sy += v * (y + 0.5);
        }
    const double x = (window.x + sx / sum) / pxPerMm_, y = (window.y + sy / sum) / pxPerMm_;
    std::normal_distribution<double> stray(0, repeatability);
    const double dx = stray(stray_), dy = stray(stray_);
    return Point{corner.x + x + dx, corner.y - y + dy};
}

std::vector<unsigned char> Bed::view() const
{
    cv::Mat rgba;
    cv::cvtColor(picture_, rgba, cv::COLOR_BGR2RGBA);
    Rgba8 pixels(rgba.cols, rgba.rows);
    for (int y = 0; y < rgba.rows; ++y)
        std::memcpy(pixels.row(y), rgba.ptr(y), std::size_t(rgba.cols) * sizeof(Rgba));
    return encodePng(pixels);
}

void Bed::moveTo(Point p)
{
    at_ = {std::round(p.x / motorStep) * motorStep, std::round(p.y / motorStep) * motorStep};
    if (down_ && !cuts_.empty())
        cuts_.back().push_back(at_);
}

void Bed::tool(bool down)
{
    if (down && !down_)
        cuts_.push_back({at_});
    down_ = down;
}

} // namespace yokai::standin
