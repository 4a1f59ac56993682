#include "layers/coverage.h"

#include "keep/colour.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
#include <cmath>
#include <cstring>

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

// Openings in which there is nothing but what lies above become its own: sets of areas that are joined and reach neither the picture's edge
// nor anything else.
void closeCovered(Gray8& coverage, const Split& split, const ColourSet& own, const ColourSet& above)
{
    const LabelAreas& areas = split.areas;
    enum class State : std::uint8_t { Unknown, Open, Closed };
    std::vector<State> state(areas.all.size(), State::Unknown);
    for (std::size_t k = 0; k < areas.all.size(); ++k) {
        if (state[k] != State::Unknown || own[areas.all[k].label])
            continue;
        std::vector<int> joined{int(k)};
        bool closed = true;
        state[k] = State::Open;
        for (std::size_t next = 0; next < joined.size(); ++next) {
            const LabelArea& area = areas.all[std::size_t(joined[next])];
            closed = closed && !area.rim && above[area.label];
            for (const auto& [other, pixels] : area.beside)
                if (state[std::size_t(other)] == State::Unknown && !own[areas.all[std::size_t(other)].label]) {
                    state[std::size_t(other)] = State::Open;
                    joined.push_back(other);
                }
        }
        if (closed)
            for (const int area : joined)
                state[std::size_t(area)] = State::Closed;
    }
    // Its rim is half the opening's, half its own already.
    const int w = coverage.width(), h = coverage.height();
    for (int y = 0; y < h; ++y)
        for (std::size_t k = areas.rows[std::size_t(y)]; k < areas.rows[std::size_t(y) + 1]; ++k)
            if (const LabelRun& run = areas.runs[k]; state[std::size_t(run.area)] == State::Closed)
                for (int v = std::max(0, y - 1); v <= std::min(h - 1, y + 1); ++v)
                    std::fill(coverage.row(v) + std::max(0, run.x0 - 1), coverage.row(v) + std::min(w, run.x1 + 1), std::uint8_t(255));
}

} // namespace

Gray8 coverageOf(const Split& split, const ColourSet& set, const Work& work)
{
    Gray8 out(split.label.width(), split.label.height());
    eachRow(out.height(), out.width(), work, [&](int y) {
        for (std::size_t k = split.areas.rows[std::size_t(y)]; k < split.areas.rows[std::size_t(y) + 1]; ++k) {
            const LabelRun& run = split.areas.runs[k];
            std::fill(out.row(y) + run.x0, out.row(y) + run.x1, std::uint8_t(set[split.areas.all[std::size_t(run.area)].label] ? 255 : 0));
        }
        // Most pixels are all of their label: eight are passed over at once.
        const std::uint8_t* shares = split.share.row(y);
        constexpr std::uint64_t whole = ~0ULL;
        for (int x = 0; x < out.width();) {
            if (std::uint64_t eight = 0; x + 8 <= out.width() && (std::memcpy(&eight, shares + x, 8), eight == whole)) {
                x += 8;
                continue;
            }
            if (const int share = shares[x]; share < 255)
                out.at(x, y) = std::uint8_t((set[split.label.at(x, y)] ? share : 0) + (set[split.other.at(x, y)] ? 255 - share : 0));
            ++x;
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
        closeCovered(out, split, own, above);
    if (layer.spread > 0 && !layer.above.empty()) {
        const Gray8 covered = coverageOf(split, above, work), wide = grown(out, layer.spread, work);
        for (std::size_t k = 0; k < out.size(); ++k)
            out.all()[k] = std::uint8_t(std::min(255, int(out.all()[k]) + int(std::min(covered.all()[k], wide.all()[k]))));
    }
    return out;
}

} // namespace yokai
