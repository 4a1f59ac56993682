#include "layers/coverage.h"

#include "keep/colour.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

ColourSet setOf(const Split& split, const ColoursOf& of)
{
    ColourSet out{};
    for (const Rgba c : of.colours)
        if (const auto k = colourIn(split, c))
            out[std::size_t(*k)] = true;
    for (std::size_t k = 0; k < split.colours.size(); ++k)
        if (split.colours[k].area && std::find(of.areas.begin(), of.areas.end(), *split.colours[k].area) != of.areas.end())
            out[k] = true;
    return out;
}

cv::Mat matOf(Gray8& raster) { return cv::Mat(raster.height(), raster.width(), CV_8UC1, raster.all().data()); }

// What lies within `spread` of it; its edge is where half of a pixel is covered.
Gray8 grown(const Gray8& coverage, double spread, const Work& work)
{
    Gray8 outside(coverage.width(), coverage.height());
    for (std::size_t k = 0; k < coverage.size(); ++k)
        outside.all()[k] = coverage.all()[k] >= 128 ? 0 : 255;
    work.check();
    cv::Mat away;
    cv::distanceTransform(matOf(outside), away, cv::DIST_L2, cv::DIST_MASK_PRECISE);
    // From whole pixels it goes in steps, which a line would follow; where it rises evenly this changes nothing.
    constexpr double evened = 1.5; // px
    cv::GaussianBlur(away, away, {}, evened);
    Gray8 out(coverage.width(), coverage.height());
    eachRow(out.height(), out.width(), work, [&](int y) {
        for (int x = 0; x < out.width(); ++x) // from a pixel's centre; the edge lies half a pixel before the first that is outside
            out.at(x, y) = std::uint8_t(std::clamp(std::lround(255 * (spread - (double(away.at<float>(y, x)) - 0.5) + 0.5)), 0L, 255L));
    });
    return out;
}

// Openings in which there is nothing but what lies above become its own.
void closeCovered(Gray8& coverage, const Split& split, const ColourSet& above, const Work& work)
{
    Gray8 outside(coverage.width(), coverage.height());
    for (std::size_t k = 0; k < coverage.size(); ++k)
        outside.all()[k] = coverage.all()[k] >= 128 ? 0 : 255;
    work.check();
    cv::Mat areas;
    const int count = cv::connectedComponents(matOf(outside), areas, 4, CV_32S);
    work.check();
    std::vector<bool> open(std::size_t(count), false);
    for (int y = 0; y < outside.height(); ++y)
        for (int x = 0; x < outside.width(); ++x) {
            const auto area = std::size_t(areas.at<int>(y, x));
            const bool rim = x == 0 || y == 0 || x + 1 == outside.width() || y + 1 == outside.height();
            if (area > 0 && (rim || !above[split.label.at(x, y)]))
                open[area] = true;
        }
    // Its rim is half the opening's, half its own already.
    Gray8 closed(coverage.width(), coverage.height());
    std::copy(coverage.all().begin(), coverage.all().end(), closed.all().begin());
    for (int y = 0; y < outside.height(); ++y)
        for (int x = 0; x < outside.width(); ++x)
            if (const auto area = std::size_t(areas.at<int>(y, x)); area > 0 && !open[area])
                for (int v = std::max(0, y - 1); v <= std::min(outside.height() - 1, y + 1); ++v)
                    for (int u = std::max(0, x - 1); u <= std::min(outside.width() - 1, x + 1); ++u)
                        closed.at(u, v) = 255;
    coverage = std::move(closed);
}

} // namespace

Gray8 coverageOf(const Split& split, const ColourSet& set, const Work& work)
{
    Gray8 out(split.label.width(), split.label.height());
    eachRow(out.height(), out.width(), work, [&](int y) {
        for (int x = 0; x < out.width(); ++x) {
            const int share = split.share.at(x, y);
            out.at(x, y) = std::uint8_t((set[split.label.at(x, y)] ? share : 0) + (set[split.other.at(x, y)] ? 255 - share : 0));
        }
    });
    return out;
}

std::optional<int> colourIn(const Split& split, Rgba colour)
{
    constexpr double near = 20; // CIEDE2000: farther it is another
    std::optional<int> out;
    double least = near;
    for (std::size_t k = 0; k < split.colours.size(); ++k)
        if (const double d = ciede2000(labOf(split.colours[k].colour), labOf(colour)); !split.colours[k].area && d < least) {
            least = d;
            out = int(k);
        }
    return out;
}

Gray8 layerCoverage(const Split& split, const LayerOf& layer, const Work& work)
{
    const ColourSet own = setOf(split, layer.from == LayerFrom::Above ? layer.above : layer.own), above = setOf(split, layer.above);
    Gray8 out = coverageOf(split, own, work);
    if (layer.from == LayerFrom::Above)
        return out;
    if (layer.closeCovered && !layer.above.empty())
        closeCovered(out, split, above, work);
    if (layer.spread > 0 && !layer.above.empty()) {
        const Gray8 covered = coverageOf(split, above, work), wide = grown(out, layer.spread, work);
        for (std::size_t k = 0; k < out.size(); ++k)
            out.all()[k] = std::uint8_t(std::min(255, int(out.all()[k]) + int(std::min(covered.all()[k], wide.all()[k]))));
    }
    return out;
}

} // namespace yokai
