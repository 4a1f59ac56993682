#include "layers/labels.h"

#include <algorithm>
#include <array>
#include <map>

namespace yokai {

namespace labels {

namespace {

// What a small area becomes: what most of its border is, of larger ones; itself where there is none.
std::uint8_t takerOf(const LabelAreas& areas, const LabelArea& small)
{
    std::array<int, 256> borders{};
    for (const auto& [other, pixels] : small.beside)
        if (const LabelArea& n = areas.all[std::size_t(other)]; n.label != noColour && n.pixels > small.pixels)
            borders[n.label] += pixels;
    const auto most = std::max_element(borders.begin(), borders.end());
    return *most > 0 ? std::uint8_t(most - borders.begin()) : small.label;
}

} // namespace

void despeckle(Split& split, double least, const Work& work)
{
    constexpr int rounds = 4; // speckles within speckles
    for (int round = 0; round < rounds; ++round) {
        const LabelAreas areas = areasOf(split.label, work);
        std::vector<std::uint8_t> to;
        bool any = false;
        for (const LabelArea& area : areas.all) {
            to.push_back(area.label != noColour && double(area.pixels) < least ? takerOf(areas, area) : area.label);
            any = any || to.back() != area.label;
        }
        if (!any)
            return;
        Raster<std::uint8_t>& label = split.label;
        for (int y = 0; y < label.height(); ++y)
            for (std::size_t k = areas.rows[std::size_t(y)]; k < areas.rows[std::size_t(y) + 1]; ++k) {
                const LabelRun& run = areas.runs[k];
                const std::uint8_t was = areas.all[std::size_t(run.area)].label, now = to[std::size_t(run.area)];
                if (now == was)
                    continue;
                std::fill(label.row(y) + run.x0, label.row(y) + run.x1, now);
                // Nothing is left of it, nor in the pixels that it shared.
                constexpr int rim = 2;
                for (int v = std::max(0, y - rim); v <= std::min(label.height() - 1, y + rim); ++v)
                    for (int u = std::max(0, run.x0 - rim); u < std::min(label.width(), run.x1 + rim); ++u)
                        if ((v == y && u >= run.x0 && u < run.x1) || split.other.at(u, v) == was) {
                            split.other.at(u, v) = noColour;
                            split.share.at(u, v) = 255;
                        }
            }
    }
}

void soften(Split& split, const Work& work)
{
    const int w = split.label.width(), h = split.label.height();
    const Raster<std::uint8_t> hard = [&] {
        Raster<std::uint8_t> copy(w, h);
        std::copy(split.label.all().begin(), split.label.all().end(), copy.all().begin());
        return copy;
    }();
    constexpr int reach = 2;
    constexpr int weights[] = {1, 4, 6, 4, 1}; // binomial: a Gaussian of one pixel
    eachRow(h, w, work, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const std::uint8_t own = hard.at(x, y);
            bool alone = true;
            for (int dy = -reach; dy <= reach && alone; ++dy)
                for (int dx = -reach; dx <= reach && alone; ++dx)
                    alone = hard.at(std::clamp(x + dx, 0, w - 1), std::clamp(y + dy, 0, h - 1)) == own;
            if (alone)
                continue;
            std::array<std::pair<std::uint8_t, int>, 25> seen;
            std::size_t count = 0;
            for (int dy = -reach; dy <= reach; ++dy)
                for (int dx = -reach; dx <= reach; ++dx) {
                    const std::uint8_t l = hard.at(std::clamp(x + dx, 0, w - 1), std::clamp(y + dy, 0, h - 1));
                    const auto known = std::find_if(seen.begin(), seen.begin() + std::ptrdiff_t(count), [l](const auto& s) { return s.first == l; });
                    const int weight = weights[dx + reach] * weights[dy + reach];
                    if (known == seen.begin() + std::ptrdiff_t(count))
                        seen[count++] = {l, weight};
                    else
                        known->second += weight;
                }
            std::partial_sort(seen.begin(), seen.begin() + std::min<std::ptrdiff_t>(2, std::ptrdiff_t(count)), seen.begin() + std::ptrdiff_t(count),
                              [](const auto& a, const auto& b) { return a.second > b.second || (a.second == b.second && a.first < b.first); });
            const double both = seen[0].second + seen[1].second;
            split.label.at(x, y) = seen[0].first;
            split.other.at(x, y) = seen[1].first;
            split.share.at(x, y) = std::uint8_t(std::clamp(std::lround(255 * seen[0].second / both), 128L, 255L));
        }
    });
}

} // namespace labels

Split withAreas(const Split& split, const std::vector<Point>& places, const Work& work)
{
    const int w = split.label.width(), h = split.label.height();
    Split out{split.colours, Raster<std::uint8_t>(w, h), Raster<std::uint8_t>(w, h), Gray8(w, h), {}};
    std::copy(split.label.all().begin(), split.label.all().end(), out.label.all().begin());
    std::copy(split.other.all().begin(), split.other.all().end(), out.other.all().begin());
    std::copy(split.share.all().begin(), split.share.all().end(), out.share.all().begin());
    std::map<int, std::uint8_t> taken; // by the area's number
    for (const Point p : places) {
        const int x = int(std::floor(p.x)), y = int(std::floor(p.y));
        if (x < 0 || y < 0 || x >= w || y >= h || split.label.at(x, y) == noColour || out.colours.size() >= noColour)
            continue;
        const int area = split.areas.at(x, y);
        if (!taken.emplace(area, std::uint8_t(out.colours.size())).second)
            continue;
        const LabelArea& of = split.areas.all[std::size_t(area)];
        out.colours[of.label].pixels -= of.pixels;
        out.colours.push_back({split.colours[of.label].colour, of.pixels, p});
    }
    for (int y = 0; y < h; ++y) {
        work.check();
        for (std::size_t k = split.areas.rows[std::size_t(y)]; k < split.areas.rows[std::size_t(y) + 1]; ++k) {
            const LabelRun& run = split.areas.runs[k];
            const auto to = taken.find(run.area);
            if (to == taken.end())
                continue;
            const std::uint8_t was = split.areas.all[std::size_t(run.area)].label;
            std::fill(out.label.row(y) + run.x0, out.label.row(y) + run.x1, to->second);
            // And what it shares with those beside it.
            for (int v = std::max(0, y - 1); v <= std::min(h - 1, y + 1); ++v)
                for (int u = std::max(0, run.x0 - (v == y)); u < std::min(w, run.x1 + (v == y)); ++u)
                    if (split.other.at(u, v) == was)
                        out.other.at(u, v) = to->second;
        }
    }
    out.areas = split.areas;
    for (const auto& [area, label] : taken)
        out.areas.all[std::size_t(area)].label = label;
    return out;
}

} // namespace yokai
