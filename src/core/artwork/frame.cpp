#include "artwork/frame.h"

#include "base/error.h"

#include <opencv2/imgproc.hpp>

#include <numbers>

namespace yokai {

namespace {

constexpr double mostWorkingPx = 20'000;

Affine turning(const ArtworkSpec& a)
{
    static constexpr Affine quarter[] = {{1, 0, 0, 1, 0, 0}, {0, 1, -1, 0, 0, 0}, {-1, 0, 0, -1, 0, 0}, {0, -1, 1, 0, 0, 0}};
    Affine map = quarter[a.quarters & 3];
    if (a.mirror)
        map = Affine::scale(-1, 1) * map;
    if (a.straighten != 0)
        map = Affine::turn(a.straighten * std::numbers::pi / 180) * map;
    return map * Affine::move(-a.picture.info.width / 2.0, -a.picture.info.height / 2.0);
}

Rect boxUnder(const Affine& map, const Rect& r)
{
    Rect out = Rect::nothing();
    for (const Point p : {Point{r.x0, r.y0}, Point{r.x1, r.y0}, Point{r.x0, r.y1}, Point{r.x1, r.y1}})
        out.add(map(p));
    return out;
}

bool even(const ArtworkSpec& a) { return a.straighten == 0 && a.sizeBy != SizeBy::Both; }

} // namespace

Rect ArtworkSpec::whole() const { return boxUnder(turning(*this), {0, 0, double(picture.info.width), double(picture.info.height)}); }

Rect ArtworkSpec::frame() const
{
    const Rect all = whole();
    Rect f = all;
    if (crop)
        f = {std::max(crop->x0, all.x0), std::max(crop->y0, all.y0), std::min(crop->x1, all.x1), std::min(crop->y1, all.y1)};
    if (f.empty())
        f = all;
    // A whole number of pixels, or the working copy would be stretched by the rest.
    if (!even(*this) && sizeBy != SizeBy::Both) {
        f.x1 = f.x0 + std::max(1.0, std::round(f.width()));
        f.y1 = f.y0 + std::max(1.0, std::round(f.height()));
    } else if (crop && even(*this)) { // whole pixels, counted from the picture's corner
        const auto snap = [](double v, double corner) { return std::round(v - corner) + corner; };
        f = {snap(f.x0, all.x0), snap(f.y0, all.y0), snap(f.x1, all.x0), snap(f.y1, all.y0)};
        f.x1 = std::max(f.x1, f.x0 + 1);
        f.y1 = std::max(f.y1, f.y0 + 1);
    }
    return f;
}

Point ArtworkSpec::scale() const
{
    const bool turned = quarters & 1;
    const double fullWidth = turned ? picture.info.height : picture.info.width, fullHeight = turned ? picture.info.width : picture.info.height;
    const double across = (sidePx > 0 ? sidePx : sizeBy == SizeBy::Height ? fullHeight : fullWidth) / side.mm();
    Point k{picture.info.ppi / 25.4, picture.info.ppi / 25.4};
    switch (sizeBy) {
    case SizeBy::File:
        break;
    case SizeBy::Width:
    case SizeBy::Height:
        k = {across, across};
        break;
    case SizeBy::Both:
        k = {across, (downPx > 0 ? downPx : fullHeight) / down.mm()};
        break;
    case SizeBy::Ppi:
        k = {ppi / 25.4, ppi / 25.4};
        break;
    }
    const Rect f = frame();
    const double longest = std::max(f.width() / k.x, f.height() / k.y), ratio = k.x / k.y;
    if (!std::isfinite(k.x) || !std::isfinite(k.y) || !(longest >= 1 && longest <= 20'000) || !(ratio > 0.02 && ratio < 50))
        throw Error(ErrorKind::Usage, "'" + picture.fileName + "' would be " +
                                          (longest < 1        ? "under 1 mm"
                                           : longest > 20'000 ? "over 20 m"
                                                              : "50 times stretched") +
                                          "; give it a width from 1 mm to 20 m");
    return k;
}

double ArtworkSpec::pxPerMm() const
{
    const Point k = scale();
    return std::max(k.x, k.y);
}

double ArtworkSpec::width() const { return frame().width() / scale().x; }
double ArtworkSpec::height() const { return frame().height() / scale().y; }

Affine ArtworkSpec::sourceToMm() const
{
    const Point k = scale();
    const Rect f = frame();
    return Affine::scale(1 / k.x, 1 / k.y) * Affine::move(-f.x0, -f.y0) * turning(*this);
}

void ArtworkSpec::turnRight()
{
    // Behind a mirror or a free turn the quarter is the other way round or the same.
    quarters = (quarters + (mirror ? 3 : 1)) & 3;
    if (crop)
        crop = Rect{-crop->y1, crop->x0, -crop->y0, crop->x1};
    if (sizeBy == SizeBy::Width)
        sizeBy = SizeBy::Height;
    else if (sizeBy == SizeBy::Height)
        sizeBy = SizeBy::Width;
    if (sizeBy == SizeBy::Both) {
        std::swap(side, down);
        std::swap(sidePx, downPx);
    }
}

void ArtworkSpec::turnLeft()
{
    turnRight();
    turnRight();
    turnRight();
}

void ArtworkSpec::mirrorAcross()
{
    mirror = !mirror;
    straighten = -straighten;
    if (crop)
        crop = Rect{-crop->x1, crop->y0, -crop->x0, crop->y1};
}

void ArtworkSpec::straightenTo(double degrees)
{
    // What was sized as a whole stays at its scale, though the box round it grows.
    if (sizeBy == SizeBy::Width || sizeBy == SizeBy::Height || sizeBy == SizeBy::Both) {
        const Rect f = frame();
        if (sidePx <= 0)
            sidePx = sizeBy == SizeBy::Height ? f.height() : f.width();
        if (downPx <= 0)
            downPx = f.height();
    }
    straighten = std::clamp(std::round(degrees * 100) / 100, -45.0, 45.0);
}

void ArtworkSpec::cropTo(const Rect& mm)
{
    const Point k = scale();
    const Rect f = frame(), all = whole();
    Rect to{f.x0 + mm.x0 * k.x, f.y0 + mm.y0 * k.y, f.x0 + mm.x1 * k.x, f.y0 + mm.y1 * k.y};
    to = {std::max(to.x0, all.x0), std::max(to.y0, all.y0), std::min(to.x1, all.x1), std::min(to.y1, all.y1)};
    if (to.width() < 1 || to.height() < 1)
        return;
    if (sidePx <= 0)
        sidePx = sizeBy == SizeBy::Height ? f.height() : f.width();
    if (downPx <= 0)
        downPx = f.height();
    const bool all_ = distance({to.x0, to.y0}, {all.x0, all.y0}) < 0.5 && distance({to.x1, to.y1}, {all.x1, all.y1}) < 0.5;
    crop = all_ ? std::nullopt : std::optional(to);
}

void ArtworkSpec::setWidth(Length width, bool keepRatio)
{
    const Point k = scale();
    const Rect f = frame();
    if (keepRatio && sizeBy != SizeBy::Both) {
        sizeBy = SizeBy::Width;
        side = width;
        sidePx = f.width();
        return;
    }
    const Length high = sizeBy == SizeBy::Both && downPx == f.height() ? down : Length::mm(f.height() / k.y);
    const double factor = keepRatio ? width.mm() / (f.width() / k.x) : 1;
    down = keepRatio ? Length::mm(high.mm() * factor) : high;
    downPx = f.height();
    side = width;
    sidePx = f.width();
    sizeBy = SizeBy::Both;
}

void ArtworkSpec::setHeight(Length height, bool keepRatio)
{
    const Point k = scale();
    const Rect f = frame();
    if (keepRatio && sizeBy != SizeBy::Both) {
        sizeBy = SizeBy::Height;
        side = height;
        sidePx = f.height();
        return;
    }
    const Length wide = sizeBy == SizeBy::Both && sidePx == f.width()    ? side
                        : sizeBy == SizeBy::Width && sidePx == f.width() ? side
                                                                         : Length::mm(f.width() / k.x);
    const double factor = keepRatio ? height.mm() / (f.height() / k.y) : 1;
    side = keepRatio ? Length::mm(wide.mm() * factor) : wide;
    sidePx = f.width();
    down = height;
    downPx = f.height();
    sizeBy = SizeBy::Both;
}

Framed framePicture(const SharedRgba& source, const ArtworkSpec& spec, const Work& work)
{
    Framed out;
    const Rect f = spec.frame();
    const Point k = spec.scale();
    const double finest = std::max(k.x, k.y);
    const double wide = f.width() * finest / k.x, high = f.height() * finest / k.y;
    if (wide > mostWorkingPx || high > mostWorkingPx)
        throw Error(ErrorKind::Usage, "'" + spec.picture.fileName + "' is stretched too far; bring its sides nearer to the picture's own ratio");
    const int width = std::max(1, int(std::lround(wide))), height = std::max(1, int(std::lround(high)));
    out.fromSource = Affine::scale(width / f.width(), height / f.height()) * Affine::move(-f.x0, -f.y0) * turning(spec);
    const bool asIs = spec.quarters == 0 && !spec.mirror && even(spec);
    if (asIs && width == source->width() && height == source->height()) {
        out.pixels = source;
        return out;
    }
    work.check();
    const cv::Mat from(source->height(), source->width(), CV_8UC4, const_cast<Rgba*>(source->all().data()));
    auto pixels = std::make_shared<Rgba8>(width, height);
    cv::Mat to(height, width, CV_8UC4, pixels->all().data());
    if (even(spec)) {
        cv::Mat turned = from;
        static constexpr cv::RotateFlags flags[] = {cv::ROTATE_180, cv::ROTATE_90_CLOCKWISE, cv::ROTATE_180, cv::ROTATE_90_COUNTERCLOCKWISE};
        if (spec.quarters & 3)
            cv::rotate(from, turned, flags[spec.quarters & 3]);
        work.check();
        if (spec.mirror)
            cv::flip(turned, turned, 1);
        const Rect all = spec.whole();
        turned(cv::Rect(int(std::lround(f.x0 - all.x0)), int(std::lround(f.y0 - all.y0)), width, height)).copyTo(to);
        out.pixels = pixels;
        return out;
    }
    // Between pixels the colours are weighed by their opacity, or clear ones would tint the edge.
    cv::Mat weighed(from.size(), CV_8UC4);
    parallelSlices(from.rows, 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            const Rgba* a = source->row(y);
            Rgba* b = weighed.ptr<Rgba>(y);
            for (int x = 0; x < from.cols; ++x) {
                const int alpha = a[x].a;
                const auto by = [alpha](int v) { return std::uint8_t((v * alpha + 127) / 255); };
                b[x] = alpha == 255 ? a[x] : Rgba{by(a[x].r), by(a[x].g), by(a[x].b), a[x].a};
            }
        }
    });
    work.check();
    // OpenCV counts from pixel centres.
    const Affine centred = Affine::move(-0.5, -0.5) * out.fromSource * Affine::move(0.5, 0.5);
    const cv::Matx23d matrix(centred.a, centred.c, centred.e, centred.b, centred.d, centred.f);
    cv::warpAffine(weighed, to, matrix, to.size(), cv::INTER_CUBIC, cv::BORDER_CONSTANT, cv::Scalar(0, 0, 0, 0));
    work.check();
    cv::Mat whole(from.size(), CV_8U, cv::Scalar(255));
    auto within = std::make_shared<Gray8>(width, height);
    cv::Mat mask(height, width, CV_8U, within->all().data());
    cv::warpAffine(whole, mask, matrix, mask.size(), cv::INTER_LINEAR, cv::BORDER_CONSTANT, cv::Scalar(0));
    work.check();
    parallelSlices(height, 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y)
            for (int x = 0; x < width; ++x) {
                Rgba& c = pixels->at(x, y);
                if (c.a == 255 || c.a == 0)
                    continue;
                const int alpha = c.a;
                const auto by = [alpha](int v) { return std::uint8_t(std::min(255, (v * 255 + alpha / 2) / alpha)); };
                c = {by(c.r), by(c.g), by(c.b), c.a};
            }
    });
    out.pixels = pixels;
    out.within = within;
    return out;
}

} // namespace yokai
