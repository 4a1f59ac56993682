#include "keep/keep.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace yokai {

namespace {

// Clears what lies inside a dropped part's contour and its soft rim.
void clearInside(Gray8& mask, const Contour& contour)
{
    const Rect box = bounds(contour.points).grown(2);
    const int x0 = std::max(0, int(box.x0)), y0 = std::max(0, int(box.y0));
    const int x1 = std::min(mask.width(), int(box.x1) + 1), y1 = std::min(mask.height(), int(box.y1) + 1);
    if (x0 >= x1 || y0 >= y1)
        return;
    cv::Mat area(y1 - y0, x1 - x0, CV_8U, cv::Scalar(0));
    std::vector<cv::Point> points;
    points.reserve(contour.points.size());
    constexpr int shift = 6;
    for (Point p : contour.points)
        points.emplace_back(int(std::lround((p.x - 0.5 - x0) * (1 << shift))), int(std::lround((p.y - 0.5 - y0) * (1 << shift))));
    cv::fillPoly(area, std::vector{points}, cv::Scalar(255), cv::LINE_8, shift);
    cv::dilate(area, area, cv::getStructuringElement(cv::MORPH_RECT, {3, 3}));
    for (int y = y0; y < y1; ++y)
        for (int x = x0; x < x1; ++x)
            if (area.at<std::uint8_t>(y - y0, x - x0))
                mask.at(x, y) = 0;
}

// A place inside a contour and outside the contours directly within it: the middle of
// the widest stretch along a row through its middle third.
Point placeIn(const Contours& edge, const std::vector<int>& within, const Contour& contour)
{
    const Rect box = bounds(contour.points);
    Point best = box.centre();
    double widest = -1;
    for (const double share : {0.5, 0.37, 0.63, 0.25, 0.75}) {
        const double y = box.y0 + box.height() * share + 1e-4;
        std::vector<double> xs;
        const auto cross = [&](const Polyline& p) {
            for (std::size_t i = 0; i < p.size(); ++i) {
                const Point a = p[i], b = p[i + 1 == p.size() ? 0 : i + 1];
                if ((a.y > y) != (b.y > y))
                    xs.push_back(a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y));
            }
        };
        cross(contour.points);
        for (const int k : within)
            cross(edge[std::size_t(k)].points);
        std::sort(xs.begin(), xs.end());
        for (std::size_t k = 0; k + 1 < xs.size(); k += 2)
            if (xs[k + 1] - xs[k] > widest) {
                widest = xs[k + 1] - xs[k];
                best = {(xs[k] + xs[k + 1]) / 2, y};
            }
        constexpr double wideEnough = 0.3;
        if (widest > wideEnough * box.width())
            break;
    }
    return best;
}

// The innermost contour round a place, or -1.
int contourAt(const Contours& edge, const std::vector<Rect>& boxes, Point p)
{
    int found = -1;
    double smallest = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < edge.size(); ++i)
        if (std::abs(edge[i].area) < smallest && boxes[i].contains(p) && contains(edge[i].points, p)) {
            smallest = std::abs(edge[i].area);
            found = int(i);
        }
    return found;
}

using Flags = std::vector<unsigned char>; // one a contour

struct OpeningsOfParts {      // of each part
    std::vector<double> area; // px2
    std::vector<int> count;
};

OpeningsOfParts openingsOf(const Contours& edge)
{
    OpeningsOfParts out{std::vector<double>(edge.size(), 0), std::vector<int>(edge.size(), 0)};
    for (const Contour& c : edge)
        if (c.opening() && c.parent >= 0) {
            out.area[std::size_t(c.parent)] += -c.area;
            ++out.count[std::size_t(c.parent)];
        }
    return out;
}

// What stays by its size.
Flags staysBySize(const Contours& edge, const OpeningsOfParts& openings, const PartsSpec& spec, double mm2)
{
    Flags stays(edge.size(), 0);
    for (std::size_t i = 0; i < edge.size(); ++i)
        if (!edge[i].opening())
            stays[i] = (edge[i].area - openings.area[i]) * mm2 >= spec.smallestPart;
    for (std::size_t i = 0; i < edge.size(); ++i)
        if (edge[i].opening() && edge[i].parent >= 0 && stays[std::size_t(edge[i].parent)]) {
            const double area = -edge[i].area * mm2;
            stays[i] = spec.openings == Openings::Keep || (spec.openings == Openings::Over && area > spec.openingsOver);
        }
    return stays;
}

// What was said by hand has the last word; true for each contour it was said of.
Flags chooseByHand(Flags& stays, const Contours& edge, const PartsSpec& spec, const Affine& fromSource)
{
    Flags chosen(edge.size(), 0);
    std::vector<Rect> boxes;
    if (!spec.byHand.empty())
        for (const Contour& c : edge)
            boxes.push_back(bounds(c.points));
    for (const PartChoice& choice : spec.byHand)
        if (const int at = contourAt(edge, boxes, fromSource(choice.at)); at >= 0) {
            stays[std::size_t(at)] = choice.keep;
            chosen[std::size_t(at)] = 1;
        }
    return chosen;
}

// A part lying in an opening that is filled is swallowed by what surrounds it.
Flags swallowedIn(const Contours& edge, const Flags& stays)
{
    Flags swallowed(edge.size(), 0);
    for (std::size_t i = 0; i < edge.size(); ++i) {
        if (edge[i].parent < 0)
            continue;
        const auto parent = std::size_t(edge[i].parent);
        if (swallowed[parent] || (edge[parent].opening() && !stays[parent] && edge[parent].parent >= 0 && stays[std::size_t(edge[parent].parent)]))
            swallowed[i] = 1;
    }
    return swallowed;
}

// The list: parts by size, each that stays followed by its openings by size.
void list(Parts& out, const Contours& edge, const OpeningsOfParts& openings, const Flags& stays, const Flags& chosen, double pxPerMm)
{
    const double mm2 = 1 / (pxPerMm * pxPerMm);
    std::vector<int> order;
    for (std::size_t i = 0; i < edge.size(); ++i)
        if (!edge[i].opening())
            order.push_back(int(i));
    const auto own = [&](int i) { return edge[std::size_t(i)].area - openings.area[std::size_t(i)]; };
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) { return own(a) > own(b); });
    std::vector<std::vector<int>> within(edge.size()); // openings of a part, parts in an opening
    for (std::size_t i = 0; i < edge.size(); ++i)
        if (edge[i].parent >= 0)
            within[std::size_t(edge[i].parent)].push_back(int(i));
    const auto boxOf = [&](const Contour& c) {
        const Rect b = bounds(c.points);
        return Rect{b.x0 / pxPerMm, b.y0 / pxPerMm, b.x1 / pxPerMm, b.y1 / pxPerMm};
    };
    for (const int i : order) {
        const auto k = std::size_t(i);
        const int listed = int(out.all.size());
        out.all.push_back({false, bool(stays[k]), own(i) * mm2, boxOf(edge[k]), openings.count[k], i, -1, {}, bool(chosen[k])});
        out.all.back().inside = placeIn(edge, within[k], edge[k]) * (1 / pxPerMm);
        (stays[k] ? out.keptParts : out.droppedParts)++;
        if (!stays[k])
            continue;
        std::stable_sort(within[k].begin(), within[k].end(), [&](int a, int b) { return edge[std::size_t(a)].area < edge[std::size_t(b)].area; });
        for (const int o : within[k]) {
            const auto q = std::size_t(o);
            out.all.push_back({true, bool(stays[q]), -edge[q].area * mm2, boxOf(edge[q]), 0, o, listed, {}, bool(chosen[q])});
            out.all.back().inside = placeIn(edge, within[q], edge[q]) * (1 / pxPerMm);
            (stays[q] ? out.keptOpenings : out.filledOpenings)++;
        }
    }
}

} // namespace

Parts partsOf(Contours edge, const PartsSpec& spec, const Affine& fromSource, double pxPerMm, const Work& work)
{
    Parts out;
    const OpeningsOfParts openings = openingsOf(edge);
    Flags stays = staysBySize(edge, openings, spec, 1 / (pxPerMm * pxPerMm));
    const Flags chosen = chooseByHand(stays, edge, spec, fromSource);
    const Flags swallowed = swallowedIn(edge, stays);
    work.check();
    list(out, edge, openings, stays, chosen, pxPerMm);

    std::vector<int> renumbered(edge.size(), -1);
    for (std::size_t i = 0; i < edge.size(); ++i)
        if (stays[i] && !swallowed[i]) {
            renumbered[i] = int(out.contours.size());
            if (edge[i].parent >= 0)
                edge[i].parent = renumbered[std::size_t(edge[i].parent)];
            out.contours.push_back(std::move(edge[i]));
        } else if (!edge[i].opening() && !stays[i] && !swallowed[i]) {
            out.dropped.push_back(std::move(edge[i]));
        }
    return out;
}

SharedGray printedOf(const Rgba8& px, const Coverage& coverage, const Parts& parts, const Work& work)
{
    auto printed = std::make_shared<Gray8>(px.width(), px.height());
    const bool ownAlpha = coverage.rule == KeepRule::Alpha, touched = coverage.opaqueInside;
    // Past the soft rim of what is kept, faint cover is what the rule was in doubt about, as a
    // shadow on the paper: none of it is printed.
    constexpr double farthest = 8; // px
    const int reach = 2 + int(std::ceil(std::min(farthest, 2 * coverage.smoothing)));
    const auto onRim = [&](int x, int y) {
        for (int j = std::max(0, y - reach); j <= std::min(px.height() - 1, y + reach); ++j)
            for (int i = std::max(0, x - reach); i <= std::min(px.width() - 1, x + reach); ++i)
                if (coverage.pixels->at(i, j) >= 128)
                    return true;
        return false;
    };
    parallelSlices(px.height(), 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 63) == 0)
                work.check();
            const Rgba* from = px.row(y);
            const std::uint8_t* c = coverage.pixels->row(y);
            std::uint8_t* to = printed->row(y);
            for (int x = 0; x < px.width(); ++x)
                if (ownAlpha)
                    to[x] = touched ? std::min(c[x], from[x].a) : c[x] ? from[x].a : 0;
                else
                    to[x] = c[x] > 0 && c[x] < 128 && !onRim(x, y) ? 0 : std::uint8_t((int(c[x]) * from[x].a + 127) / 255);
        }
    });
    for (std::size_t i = 0; i < parts.dropped.size(); ++i) {
        if ((i & 63) == 0)
            work.check();
        clearInside(*printed, parts.dropped[i]);
    }
    return printed;
}

} // namespace yokai
