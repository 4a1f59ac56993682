#include "keep/subject.h"

#include "path/path.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

constexpr int coarseSide = 300; // pixels: of the small copy GrabCut works on

// A whole number of pixels.
struct Box {
    int x0, y0, x1, y1;
    int width() const { return x1 - x0; }
    int height() const { return y1 - y0; }
};

struct Placed {
    Polyline box;                  // pixels; empty: the strokes alone
    std::vector<SubjectStroke> strokes; // pixels
};

Placed placed(const SubjectSpec& spec, const Affine& fromSource)
{
    Placed out;
    for (const Point p : spec.box)
        out.box.push_back(fromSource(p));
    const double scale = std::sqrt(std::abs(fromSource.det()));
    for (SubjectStroke s : spec.strokes) {
        s.radius *= scale;
        for (Point& p : s.points)
            p = fromSource(p);
        out.strokes.push_back(std::move(s));
    }
    return out;
}

// What is looked at: the box and as much of its surround as tells what that looks like.
Box lookedAt(const Placed& at, int width, int height)
{
    constexpr double surround = 0.25; // of its longer side
    Rect box = at.box.empty() ? Rect{0, 0, double(width), double(height)} : bounds(at.box);
    for (const SubjectStroke& s : at.strokes) // what is marked as picture counts beside the box too
        for (const Point p : s.points)
            if (s.picture)
                box.add(p);
    const double more = surround * std::max(box.width(), box.height());
    const auto within = [](double v, int most) { return int(std::clamp(v, 0.0, double(most))); };
    return {within(std::floor(box.x0 - more), width), within(std::floor(box.y0 - more), height), within(std::ceil(box.x1 + more), width),
            within(std::ceil(box.y1 + more), height)};
}

// Part of the picture, so much smaller, over white.
cv::Mat smaller(const Rgba8& px, const Box& part, cv::Size size)
{
    const cv::Mat whole(px.height(), px.width(), CV_8UC4, const_cast<Rgba*>(px.all().data()));
    const cv::Mat from = whole(cv::Rect(part.x0, part.y0, part.width(), part.height()));
    cv::Mat small, out(size, CV_8UC3);
    cv::resize(from, small, size, 0, 0, cv::INTER_AREA);
    for (int y = 0; y < small.rows; ++y)
        for (int x = 0; x < small.cols; ++x) {
            const auto c = small.at<cv::Vec4b>(y, x);
            for (int k = 0; k < 3; ++k)
                out.at<cv::Vec3b>(y, x)[k] = std::uint8_t((c[k] * c[3] + 255 * (255 - c[3])) / 255);
        }
    return out;
}

// What is known of each pixel of the small copy from the box and the strokes.
cv::Mat knownOf(const Placed& at, const Box& part, cv::Size size)
{
    const double sx = double(size.width) / part.width(), sy = double(size.height) / part.height();
    const auto on = [&](Point p) { return cv::Point(int(std::floor((p.x - part.x0) * sx)), int(std::floor((p.y - part.y0) * sy))); };
    cv::Mat known(size, CV_8U, cv::Scalar(at.box.empty() ? cv::GC_PR_BGD : cv::GC_BGD));
    if (!at.box.empty()) {
        std::vector<cv::Point> corners;
        for (const Point p : at.box)
            corners.push_back(on(p));
        cv::fillConvexPoly(known, corners, cv::Scalar(cv::GC_PR_FGD));
    }
    for (const SubjectStroke& s : at.strokes)
        for (std::size_t k = 0; k < s.points.size(); ++k)
            cv::line(known, on(s.points[k ? k - 1 : 0]), on(s.points[k]), cv::Scalar(s.picture ? cv::GC_FGD : cv::GC_BGD), std::max(1, int(std::lround(2 * s.radius * sx))));
    return known;
}

// The pieces that belong to the subject: large ones, and those marked; openings too small to be meant are closed.
cv::Mat tidy(const cv::Mat& subject, const cv::Mat& known)
{
    cv::Mat out(subject.size(), CV_8U, cv::Scalar(0));
    cv::Mat labels, stats, centres;
    const int count = cv::connectedComponentsWithStats(subject, labels, stats, centres, 4);
    int largest = 0;
    for (int k = 1; k < count; ++k)
        largest = std::max(largest, stats.at<int>(k, cv::CC_STAT_AREA));
    constexpr double crumb = 0.04, pinhole = 0.004; // of the largest piece
    for (int k = 1; k < count; ++k) {
        const cv::Mat piece = labels == k;
        if (stats.at<int>(k, cv::CC_STAT_AREA) > crumb * largest || cv::countNonZero(piece & (known == cv::GC_FGD)) > 0)
            out.setTo(255, piece);
    }
    const int openings = cv::connectedComponentsWithStats(out == 0, labels, stats, centres, 4);
    for (int k = 1; k < openings; ++k) {
        const cv::Mat piece = labels == k;
        if (stats.at<int>(k, cv::CC_STAT_AREA) < pinhole * largest && cv::countNonZero(piece & (known == cv::GC_BGD)) == 0)
            out.setTo(255, piece);
    }
    return out;
}

// With what it encloses: openings that are joined to what is not subject by no more than gaps in a drawn outline.
cv::Mat enclosed(const cv::Mat& subject, const cv::Mat& known)
{
    constexpr int gap = 7; // pixels of the small copy
    cv::Mat closed, labels, out = subject.clone();
    cv::morphologyEx(subject, closed, cv::MORPH_CLOSE, cv::getStructuringElement(cv::MORPH_ELLIPSE, {gap, gap}));
    std::vector<bool> outer(std::size_t(cv::connectedComponents(closed == 0, labels, 4)), false);
    outer[0] = true;
    const auto each = [&](auto run) {
        for (int y = 0; y < subject.rows; ++y)
            for (int x = 0; x < subject.cols; ++x)
                run(y, x, std::size_t(labels.at<int>(y, x)));
    };
    each([&](int y, int x, std::size_t label) {
        if (known.at<std::uint8_t>(y, x) == cv::GC_BGD || x == 0 || y == 0 || x == subject.cols - 1 || y == subject.rows - 1)
            outer[label] = true;
    });
    each([&](int y, int x, std::size_t label) {
        if (!outer[label])
            out.at<std::uint8_t>(y, x) = 255;
    });
    return out;
}

cv::Mat isSubject(const cv::Mat& mask) { return (mask == cv::GC_FGD) | (mask == cv::GC_PR_FGD); }

// On the small copy. Colours are told apart in CIELAB. What has a drawn outline is often left with that alone, so that what it encloses is
// offered once more.
cv::Mat coarse(const cv::Mat& picture, const cv::Mat& known, const Work& work)
{
    cv::Mat lab, mask = known.clone(), surround, subject;
    cv::cvtColor(picture, lab, cv::COLOR_RGB2Lab);
    // It tells five colours of either, and wants as many pixels to begin with.
    constexpr int rounds = 3, least = 5;
    const auto tooFew = [&] {
        const int of = cv::countNonZero(isSubject(mask));
        return of < least || mask.rows * mask.cols - of < least;
    };
    if (tooFew())
        return isSubject(mask);
    for (const bool again : {false, true}) {
        if (again)
            mask.setTo(cv::GC_PR_FGD, enclosed(isSubject(mask), known) & (mask == cv::GC_PR_BGD));
        for (int k = 0; k < rounds; ++k) {
            cv::grabCut(lab, mask, {}, surround, subject, 1, k == 0 ? cv::GC_INIT_WITH_MASK : cv::GC_EVAL);
            work.check();
            if (tooFew())
                return tidy(isSubject(mask), known);
        }
    }
    return tidy(isSubject(mask), known);
}

// A part of the picture near the edge, finely: each pixel for a mixture of what is subject and what is not nearby, as far as the two are more
// unlike than they are uneven. `cover`: what a smaller copy told.
void refine(const cv::Mat& picture, const cv::Mat& cover, const cv::Rect& part, cv::Mat& out)
{
    constexpr int reach = 6, brink = 2; // pixels: where the two are looked at, and how far the edge may be off
    const cv::Rect looked = (part + cv::Point(-reach, -reach) + cv::Size(2 * reach, 2 * reach)) & cv::Rect({0, 0}, cover.size());
    const cv::Mat c = cover(looked);
    cv::Mat band;
    cv::dilate((c > 8) & (c < 247), band, cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * brink + 1, 2 * brink + 1}));
    cv::Mat colour;
    picture(looked).convertTo(colour, CV_32F);
    // Mean, and how far the colours lie from it, of each side.
    struct Side {
        cv::Mat count, mean, square;
    };
    const auto sideOf = [&](const cv::Mat& is) {
        Side s;
        cv::Mat weight, weights, sum;
        is.convertTo(weight, CV_32F, 1.0 / 255);
        cv::merge(std::vector{weight, weight, weight}, weights);
        const cv::Mat only = colour.mul(weights);
        const cv::Size box(2 * reach + 1, 2 * reach + 1);
        cv::boxFilter(weight, s.count, CV_32F, box, {-1, -1}, false, cv::BORDER_REPLICATE);
        cv::boxFilter(only, s.mean, CV_32F, box, {-1, -1}, false, cv::BORDER_REPLICATE);
        cv::boxFilter(only.mul(only), s.square, CV_32F, box, {-1, -1}, false, cv::BORDER_REPLICATE);
        return s;
    };
    const Side in = sideOf((c > 127) & ~band), outside = sideOf((c <= 127) & ~band);
    const cv::Point shift = part.tl() - looked.tl();
    for (int y = 0; y < part.height; ++y)
        for (int x = 0; x < part.width; ++x) {
            const cv::Point p(x + shift.x, y + shift.y);
            if (!band.at<std::uint8_t>(p))
                continue;
            const float n = in.count.at<float>(p), m = outside.count.at<float>(p);
            if (n < 3 || m < 3)
                continue;
            const cv::Vec3f firm = in.mean.at<cv::Vec3f>(p) / n, back = outside.mean.at<cv::Vec3f>(p) / m, apart = firm - back, here = colour.at<cv::Vec3f>(p) - back;
            const cv::Vec3f uneven = in.square.at<cv::Vec3f>(p) / n - firm.mul(firm) + outside.square.at<cv::Vec3f>(p) / m - back.mul(back);
            const float contrast = apart.dot(apart), noise = std::max(0.f, uneven[0]) + std::max(0.f, uneven[1]) + std::max(0.f, uneven[2]);
            const float told = std::clamp(here.dot(apart) / std::max(contrast, 1e-3f), 0.f, 1.f), trust = contrast / (contrast + 2 * noise + 16);
            const float was = float(c.at<std::uint8_t>(p)) / 255;
            out.at<std::uint8_t>(part.y + y, part.x + x) = std::uint8_t(255 * (trust * told + (1 - trust) * was) + 0.5f);
        }
}

// Where the edge runs, in squares.
cv::Mat finer(const cv::Mat& picture, const cv::Mat& cover, const Work& work)
{
    constexpr int square = 64;
    cv::Mat out = cover.clone();
    const int across = (cover.cols + square - 1) / square, down = (cover.rows + square - 1) / square;
    parallelSlices(across * down, 4, [&](int begin, int end) {
        for (int k = begin; k < end; ++k) {
            work.check();
            const cv::Rect part = cv::Rect(k % across * square, k / across * square, square, square) & cv::Rect({0, 0}, cover.size());
            const cv::Rect round = (part + cv::Point(-2, -2) + cv::Size(4, 4)) & cv::Rect({0, 0}, cover.size());
            double least = 0, most = 0;
            cv::minMaxLoc(cover(round), &least, &most);
            if (most > 8 && least < 247)
                refine(picture, cover, part, out);
        }
    });
    return out;
}

} // namespace

Gray8 subjectOf(const Rgba8& px, const SubjectSpec& spec, const Affine& fromSource, const Work& work)
{
    Gray8 out(px.width(), px.height(), 0);
    const Placed at = placed(spec, fromSource);
    const Box part = lookedAt(at, px.width(), px.height());
    if (part.width() < 8 || part.height() < 8)
        return out;
    const auto sized = [&](double side) {
        const double scale = std::min(1.0, side / std::max(part.width(), part.height()));
        return cv::Size(std::max(4, int(std::lround(part.width() * scale))), std::max(4, int(std::lround(part.height() * scale))));
    };
    const cv::Size whole(part.width(), part.height());
    cv::Size size = sized(coarseSide);
    cv::Mat cover = coarse(smaller(px, part, size), knownOf(at, part, size), work);
    for (double side = coarseSide;; side *= 2) {
        size = sized(side);
        cv::Mat larger;
        cv::resize(cover, larger, size, 0, 0, cv::INTER_LINEAR);
        cover = finer(smaller(px, part, size), larger, work);
        if (size == whole)
            break;
    }
    for (int y = 0; y < cover.rows; ++y)
        std::copy_n(cover.ptr<std::uint8_t>(y), cover.cols, out.row(part.y0 + y) + part.x0);
    return out;
}

Gray8 brought(const Gray8& coverage, const Affine& fromSource, int width, int height, const Work& work)
{
    Gray8 out(width, height);
    const cv::Mat from(coverage.height(), coverage.width(), CV_8U, const_cast<std::uint8_t*>(coverage.all().data()));
    parallelSlices(height, 64, [&](int begin, int end) {
        work.check();
        // OpenCV counts from the middles of pixels.
        const Affine m = Affine::move(-0.5, -0.5 - begin) * fromSource * Affine::move(0.5, 0.5);
        cv::Mat to(end - begin, width, CV_8U, out.row(begin));
        cv::warpAffine(from, to, cv::Matx23d(m.a, m.c, m.e, m.b, m.d, m.f), to.size(), cv::INTER_LINEAR, cv::BORDER_CONSTANT, cv::Scalar(0));
    });
    return out;
}

} // namespace yokai
