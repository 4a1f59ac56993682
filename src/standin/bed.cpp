#include "bed.h"

#include "artwork/artwork.h"
#include "base/error.h"

#include <opencv2/imgproc.hpp>
#include <poppler-document.h>
#include <poppler-page-renderer.h>
#include <poppler-page.h>

#include <array>
#include <cmath>
#include <cstring>
#include <memory>
#include <numbers>

namespace yokai::standin {

Truth::Truth(const Askew& s, double width, double height) : swell_(s.swell), width_(width), height_(height)
{
    const double radians = std::numbers::pi / 180;
    const Affine stretchAndSkew{s.stretchX, 0, s.stretchY * std::sin(s.skew * radians), s.stretchY * std::cos(s.skew * radians), 0, 0};
    const Point middle{width / 2, height / 2};
    affine_ = Affine::move(middle.x + s.shiftX, middle.y + s.shiftY) * Affine::turn(s.turn * radians) * stretchAndSkew * Affine::move(-middle.x, -middle.y);
}

Point Truth::operator()(Point p) const
{
    const double u = std::numbers::pi * p.x / width_, v = std::numbers::pi * p.y / height_;
    return affine_(p + Point{swell_ * std::sin(v), swell_ * std::sin(u) * std::cos(v)});
}

Point Truth::inverse(Point onBed) const
{
    const Affine back = affine_.inverse();
    Point p = back(onBed);
    for (int k = 0; k < 4 && swell_ != 0; ++k) // waves are small against what they ride on
        p = p + back(onBed) - back((*this)(p));
    return p;
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
    // About 200 ppi; less for very large sheets, whose picture whoever asks for it must be able to hold.
    constexpr double mostPixels = 24e6;
    pxPerMm_ = std::min(8.0, std::sqrt(mostPixels / ((sheetWidth_ + 2 * border) * (sheetHeight_ + 2 * border))));
    poppler::page_renderer renderer;
    renderer.set_image_format(poppler::image::format_bgr24);
    renderer.set_render_hint(poppler::page_renderer::antialiasing);
    renderer.set_paper_color(0xffffffff);
    const double ppi = pxPerMm_ * 25.4;
    const poppler::image image = renderer.render_page(page.get(), ppi, ppi);
    if (!image.is_valid())
        throw Error(ErrorKind::Device, "the stand-in could not print '" + pdfPath + "'; hand off a new print PDF");
    sheet_ = cv::Mat(image.height(), image.width(), CV_8UC3, const_cast<char*>(image.const_data()), std::size_t(image.bytes_per_row())).clone();
    for (const Point p : covered_)
        cv::circle(sheet_, {int(p.x * pxPerMm_), int((sheetHeight_ - p.y) * pxPerMm_)}, int(5 * pxPerMm_), cv::Scalar(250, 250, 250), cv::FILLED);
    truth_ = Truth(askew_, sheetWidth_, sheetHeight_);
    lay();
}

void Bed::slip(Point by)
{
    truth_.slip(by);
    if (loaded())
        lay();
}

void Bed::lay()
{
    const cv::Size area(int(std::ceil((sheetWidth_ + 2 * border) * pxPerMm_)), int(std::ceil((sheetHeight_ + 2 * border) * pxPerMm_)));
    picture_.create(area, CV_8UC3);
    picture_.setTo(cv::Scalar(104, 98, 92)); // the mat
    for (double mm = 0; mm * pxPerMm_ < std::max(area.width, area.height); mm += 10) {
        const int px = int(mm * pxPerMm_);
        cv::line(picture_, {px, 0}, {px, area.height}, cv::Scalar(116, 110, 104));
        cv::line(picture_, {0, px}, {area.width, px}, cv::Scalar(116, 110, 104));
    }
    // Where each place of the bed was on the sheet; pixel centres lie half a pixel in.
    cv::Mat places(area, CV_32FC2);
    for (int y = 0; y < area.height; ++y)
        for (int x = 0; x < area.width; ++x) {
            const Point p = truth_.inverse({viewCorner().x + (x + 0.5) / pxPerMm_, viewCorner().y - (y + 0.5) / pxPerMm_});
            places.at<cv::Vec2f>(y, x) = {float(p.x * pxPerMm_ - 0.5), float((sheetHeight_ - p.y) * pxPerMm_ - 0.5)};
        }
    cv::remap(sheet_, picture_, places, cv::Mat(), cv::INTER_LINEAR, cv::BORDER_TRANSPARENT);
}

bool Bed::dark(Point at) const
{
    if (picture_.empty())
        return false;
    const double x = (at.x - viewCorner().x) * pxPerMm_ - 0.5, y = (viewCorner().y - at.y) * pxPerMm_ - 0.5;
    const int i = int(std::floor(x)), j = int(std::floor(y));
    if (i < 0 || j < 0 || i + 1 >= picture_.cols || j + 1 >= picture_.rows)
        return false;
    const double u = x - i, v = y - j;
    const auto light = [&](int a, int b) {
        const cv::Vec3b c = picture_.at<cv::Vec3b>(b, a);
        return 0.114 * c[0] + 0.587 * c[1] + 0.299 * c[2];
    };
    constexpr double threshold = 128; // half way from ink to paper; the mat is darker than that and is taken for ink
    return (light(i, j) * (1 - u) + light(i + 1, j) * u) * (1 - v) + (light(i, j + 1) * (1 - u) + light(i + 1, j + 1) * u) * v < threshold;
}

double Bed::stray() { return std::normal_distribution<double>(0, reading_)(stray_); }

cv::Mat Bed::seen() const
{
    cv::Mat out = picture_.clone();
    if (uneven_ > 0 || noise_ > 0) {
        cv::RNG rng(7);
        for (int y = 0; y < out.rows; ++y)
            for (int x = 0; x < out.cols; ++x) {
                const double light = 1 - uneven_ * (double(x) / out.cols + double(y) / out.rows) / 2, stray = noise_ > 0 ? rng.gaussian(noise_) : 0;
                for (int c = 0; c < 3; ++c)
                    out.at<cv::Vec3b>(y, x)[c] = cv::saturate_cast<unsigned char>(out.at<cv::Vec3b>(y, x)[c] * light + stray);
            }
    }
    return out;
}

namespace {
std::vector<unsigned char> pngOf(const cv::Mat& bgr)
{
    cv::Mat rgba;
    cv::cvtColor(bgr, rgba, cv::COLOR_BGR2RGBA);
    Rgba8 pixels(rgba.cols, rgba.rows);
    for (int y = 0; y < rgba.rows; ++y)
        std::memcpy(pixels.row(y), rgba.ptr(y), std::size_t(rgba.cols) * sizeof(Rgba));
    return encodePng(pixels);
}
} // namespace

std::vector<unsigned char> Bed::view() const { return pngOf(seen()); }

std::vector<unsigned char> Bed::cutSheet(const std::vector<Cut>& cuts, const std::vector<Burn>& burns, double powerMost, double beam) const
{
    cv::Mat out = picture_.clone();
    burn(out, burns, powerMost, beam);
    for (const Cut& cut : cuts) {
        std::vector<cv::Point> line;
        constexpr int fine = 4; // bits of a pixel
        for (const Point p : cut.points)
            line.emplace_back(int(((p.x - viewCorner().x) * pxPerMm_ - 0.5) * (1 << fine)), int(((viewCorner().y - p.y) * pxPerMm_ - 0.5) * (1 << fine)));
        cv::polylines(out, line, false, cv::Scalar(40, 40, 230), 1, cv::LINE_AA, fine);
    }
    return pngOf(out);
}

// Every place as brown as the beam had power when it went over it; a beam is as wide as it is.
void Bed::burn(cv::Mat& picture, const std::vector<Burn>& burns, double powerMost, double beam) const
{
    if (burns.empty())
        return;
    // Four times finer, so that lines of a tenth of a mm are told apart; row by row of strips, so that a large bed is held.
    constexpr int fine = 4, strip = 256;
    const double scale = pxPerMm_ * fine;
    for (int top = 0; top < picture.rows; top += strip) {
        const int rows = std::min(strip, picture.rows - top);
        cv::Mat dark(rows * fine, picture.cols * fine, CV_8UC1, cv::Scalar(0));
        bool any = false;
        for (const Burn& b : burns) {
            const auto at = [&](float x, float y) { return cv::Point2d((x - viewCorner().x) * scale, (viewCorner().y - y) * scale - top * fine); };
            const cv::Point2d from = at(b.x0, b.y0), to = at(b.x1, b.y1);
            const double half = beam * scale / 2;
            if (std::max(from.y, to.y) < -half || std::min(from.y, to.y) > dark.rows + half)
                continue;
            any = true;
            // The rim is filled, too: half a pixel less of it all round.
            const cv::Point2d way = to - from, along = cv::norm(way) > 0 ? way * (1 / cv::norm(way)) : cv::Point2d(1, 0);
            const cv::Point2d n = cv::Point2d(-along.y, along.x) * std::max(0.0, half - 0.5), e = along * std::min(0.5, cv::norm(way) / 2);
            constexpr int bits = 4;
            std::array<cv::Point, 4> box;
            const cv::Point2d corners[] = {from + e + n, to - e + n, to - e - n, from + e - n};
            for (std::size_t k = 0; k < box.size(); ++k)
                box[k] = {int(std::lround((corners[k].x - 0.5) * (1 << bits))), int(std::lround((corners[k].y - 0.5) * (1 << bits)))};
            cv::fillConvexPoly(dark, box.data(), int(box.size()), cv::Scalar(std::clamp(255.0 * b.power / powerMost, 0.0, 255.0)), cv::LINE_8, bits);
        }
        if (!any)
            continue;
        cv::Mat small;
        cv::resize(dark, small, {picture.cols, rows}, 0, 0, cv::INTER_AREA);
        for (int y = 0; y < rows; ++y)
            for (int x = 0; x < picture.cols; ++x) {
                const int d = small.at<std::uint8_t>(y, x);
                auto& c = picture.at<cv::Vec3b>(top + y, x);
                for (int k = 0; k < 3; ++k)
                    c[k] = std::uint8_t(c[k] * (255 - d) / 255); // burnt wholly it is black
            }
    }
}

} // namespace yokai::standin
