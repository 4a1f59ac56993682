#include "artwork/frame.h"

#include "base/error.h"

#include <opencv2/imgproc.hpp>

#include <numbers>

namespace yokai {

namespace {

constexpr double mostWorkingPx = 20'000;

Affine turning(int quarters, bool mirror, double straighten, double width, double height)
{
    static constexpr Affine quarter[] = {{1, 0, 0, 1, 0, 0}, {0, 1, -1, 0, 0, 0}, {-1, 0, 0, -1, 0, 0}, {0, -1, 1, 0, 0, 0}};
    Affine map = quarter[quarters & 3];
    if (mirror)
        map = Affine::scale(-1, 1) * map;
    if (straighten != 0)
        map = Affine::turn(straighten * std::numbers::pi / 180) * map;
    return map * Affine::move(-width / 2, -height / 2);
}
Affine turning(const ArtworkSpec& a)
{
    const ArtworkSpec::Source source = a.source();
    return turning(a.quarters, a.mirror, a.straighten, source.width, source.height);
}
Affine turning(const FrameSpec& f) { return turning(f.quarters, f.mirror, f.straighten, f.sourceWidth, f.sourceHeight); }

Rect boxUnder(const Affine& map, const Rect& r)
{
    Rect out = Rect::nothing();
    for (const Point p : {Point{r.x0, r.y0}, Point{r.x1, r.y0}, Point{r.x0, r.y1}, Point{r.x1, r.y1}})
        out.add(map(p));
    return out;
}

bool apart(const ArtworkSpec& a) { return a.sizeBy == SizeBy::Both && !a.lies(); } // its sides' sizes
bool even(const ArtworkSpec& a) { return a.straighten == 0 && !apart(a); }

} // namespace

std::optional<FromAbove> ArtworkSpec::fromAbove() const { return tilt ? FromAbove::of(*tilt, picture.info.width, picture.info.height) : std::nullopt; }

// Corners that are no rectangle's leave it as it is; scale() says so.
ArtworkSpec::Source ArtworkSpec::source() const
{
    const auto above = fromAbove();
    return above ? Source{above->width(), above->height(), above->pxPerMm() * 25.4} : Source{picture.info.width, picture.info.height, picture.info.ppi};
}

std::optional<Affine> ArtworkSpec::frameOnSheet() const
{
    const auto above = lies() ? fromAbove() : std::nullopt;
    return above ? std::optional(above->toPlane() * sourceToMm().inverse()) : std::nullopt;
}

Rect ArtworkSpec::whole() const
{
    const Source all = source();
    return boxUnder(turning(*this), {0, 0, double(all.width), double(all.height)});
}

Rect ArtworkSpec::frame() const
{
    const Rect all = whole();
    Rect f = all;
    if (crop)
        f = {std::max(crop->x0, all.x0), std::max(crop->y0, all.y0), std::min(crop->x1, all.x1), std::min(crop->y1, all.y1)};
    if (f.empty())
        f = all;
    // A whole number of pixels, or the working copy would be stretched by the rest.
    if (!even(*this) && !apart(*this)) {
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
    if (tilt && !fromAbove())
        throw Error(ErrorKind::Usage, "the four corners in '{}' are not those of a rectangle; put each on its corner, from the top left round to the right", picture.fileName);
    const bool turned = quarters & 1;
    const Source all = source();
    const double fullWidth = turned ? all.height : all.width, fullHeight = turned ? all.width : all.height;
    const double across = (sidePx > 0 ? sidePx : sizeBy == SizeBy::Height ? fullHeight : fullWidth) / side.mm();
    Point k{all.ppi / 25.4, all.ppi / 25.4};
    switch (lies() ? SizeBy::File : sizeBy) {
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
        throw Error(ErrorKind::Usage,
                    longest < 1        ? "'{}' would be under 1 mm; give it a width from 1 mm to 20 m"
                    : longest > 20'000 ? "'{}' would be over 20 m; give it a width from 1 mm to 20 m"
                                       : "'{}' would be 50 times stretched; bring its sides nearer to the picture's own ratio",
                    picture.fileName);
    return k;
}

bool ArtworkSpec::hasScale() const
{
    try {
        scale();
        return true;
    } catch (const Error&) {
        return false;
    }
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

FrameSpec ArtworkSpec::frameSpec() const
{
    FrameSpec out;
    const Point k = scale();
    const Source all = source();
    out.sourceWidth = all.width;
    out.sourceHeight = all.height;
    out.quarters = quarters & 3;
    out.mirror = mirror;
    out.straighten = straighten;
    out.whole = whole();
    out.frame = frame();
    out.resampled = !even(*this);
    const double finest = std::max(k.x, k.y);
    const double wide = out.frame.width() * finest / k.x, high = out.frame.height() * finest / k.y;
    if (wide > mostWorkingPx || high > mostWorkingPx)
        throw Error(ErrorKind::Usage, "'{}' is stretched too far; bring its sides nearer to the picture's own ratio", picture.fileName);
    out.width = std::max(1, int(std::lround(wide)));
    out.height = std::max(1, int(std::lround(high)));
    return out;
}

namespace {

// Each pixel of the frame is one of the source's.
SharedRgba picked(const Rgba8& source, const FrameSpec& spec, const Affine& fromSource, const Work& work)
{
    const Affine back = fromSource.inverse();
    auto out = std::make_shared<Rgba8>(spec.width, spec.height);
    const auto at = [&](int x, int y) {
        const Point p = back({x + 0.5, y + 0.5});
        return std::pair(std::clamp(int(std::floor(p.x)), 0, source.width() - 1), std::clamp(int(std::floor(p.y)), 0, source.height() - 1));
    };
    const int dx = int(std::lround(back.a)), dy = int(std::lround(back.b)); // one step to the right, in the source
    eachRow(spec.height, spec.width, work, [&](int y) {
        auto [sx, sy] = at(0, y);
        Rgba* to = out->row(y);
        for (int x = 0; x < spec.width; ++x, sx += dx, sy += dy)
            to[x] = source.at(std::clamp(sx, 0, source.width() - 1), std::clamp(sy, 0, source.height() - 1));
    });
    return out;
}

std::uint8_t shareOf(int v, int alpha) { return std::uint8_t((v * alpha + 127) / 255); }
std::uint8_t wholeOf(int v, int alpha) { return std::uint8_t(std::min(255, (v * 255 + alpha / 2) / alpha)); }

// The source through the map, a band of rows at a time so that a stop is obeyed. Between
// pixels the colours are weighed by their opacity, or clear ones would tint the edge.
void warp(const cv::Mat& from, cv::Mat& to, const Affine& fromSource, int how, const Work& work)
{
    constexpr int band = 16; // rows: some 10 ms of the widest picture
    parallelSlices((to.rows + band - 1) / band, 1, [&](int begin, int end) {
        for (int b = begin; b < end; ++b) {
            work.check();
            const int top = b * band, bottom = std::min(to.rows, top + band);
            // OpenCV counts from pixel centres.
            const Affine m = Affine::move(-0.5, -0.5 - top) * fromSource * Affine::move(0.5, 0.5);
            cv::Mat part = to.rowRange(top, bottom);
            cv::warpAffine(from, part, cv::Matx23d(m.a, m.c, m.e, m.b, m.d, m.f), part.size(), how, cv::BORDER_CONSTANT, cv::Scalar(0, 0, 0, 0));
        }
    });
}

template <class F> void eachSoft(Rgba8& px, const Work& work, F f)
{
    eachRow(px.height(), px.width(), work, [&](int y) {
        for (Rgba *c = px.row(y), *last = c + px.width(); c != last; ++c)
            if (c->a != 255 && c->a != 0)
                f(*c);
    });
}

cv::Mat matOf(const Rgba8& px) { return {px.height(), px.width(), CV_8UC4, const_cast<Rgba*>(px.all().data())}; }

} // namespace

Framed framePicture(const SharedRgba& source, const FrameSpec& spec, const Work& work)
{
    Framed out;
    const Rect& f = spec.frame;
    out.fromSource = Affine::scale(spec.width / f.width(), spec.height / f.height()) * Affine::move(-f.x0, -f.y0) * turning(spec);
    const bool asIs = spec.quarters == 0 && !spec.mirror && !spec.resampled;
    if (asIs && spec.width == source->width() && spec.height == source->height()) {
        out.pixels = source;
        return out;
    }
    work.check();
    if (!spec.resampled) {
        out.pixels = picked(*source, spec, out.fromSource, work);
        return out;
    }
    Rgba8 weighed(source->width(), source->height());
    eachRow(source->height(), source->width(), work, [&](int y) { std::copy_n(source->row(y), source->width(), weighed.row(y)); });
    eachSoft(weighed, work, [](Rgba& c) { c = {shareOf(c.r, c.a), shareOf(c.g, c.a), shareOf(c.b, c.a), c.a}; });
    auto pixels = std::make_shared<Rgba8>(spec.width, spec.height);
    cv::Mat to = matOf(*pixels);
    warp(matOf(weighed), to, out.fromSource, cv::INTER_CUBIC, work);
    eachSoft(*pixels, work, [](Rgba& c) { c = {wholeOf(c.r, c.a), wholeOf(c.g, c.a), wholeOf(c.b, c.a), c.a}; });
    auto within = std::make_shared<Gray8>(spec.width, spec.height);
    cv::Mat mask(spec.height, spec.width, CV_8U, within->all().data());
    warp(cv::Mat(source->height(), source->width(), CV_8U, cv::Scalar(255)), mask, out.fromSource, cv::INTER_LINEAR, work);
    out.pixels = pixels;
    out.within = within;
    return out;
}

} // namespace yokai
