#include "bleed/bleed.h"

#include "base/cover.h"
#include "bleed/seeds.h"
#include "bleed/window.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yokai {

namespace {

constexpr double underTheRim = 3; // px within the kept edge that the bleed begins

// The level lines of the print's outer edge, and inwards those it begins at, as one region in a window.
Gray8 extentOf(const DistanceField& edge, double reach, const Window& window, const Work& work)
{
    std::vector<Polyline> region;
    constexpr double any = 0; // however small
    for (const LevelLine& line : edge.at(reach, any, work))
        region.push_back(inWindow(line.points, window));
    for (const LevelLine& line : edge.at(-underTheRim, any, work)) {
        region.push_back(inWindow(line.points, window));
        std::reverse(region.back().begin(), region.back().end());
    }
    Gray8 out(window.width, window.height, std::uint8_t(0));
    coverPolygons(
        region, window.width, window.height,
        [&](int y, int x0, std::span<const std::uint8_t> cover) { std::copy(cover.begin(), cover.end(), out.row(y) + x0); }, work);
    return out;
}

// The nearest seed of each place by columns first, then along rows. No farther than `reach`.
class NearestSeed {
public:
    NearestSeed(const Bits& seeds, const Window& window, int reach, const Work& work) : seeds_(seeds), window_(window), reach_(reach), away_(window.width, window.height)
    {
        // Blocks of columns, as wide as stay in the nearest cache from row to row.
        constexpr int block = 256;
        parallelSlices((window.width + block - 1) / block, 1, [&](int begin, int end) {
            for (int k = begin; k < end; ++k)
                columns(k * block, std::min(window.width, (k + 1) * block), work);
        });
    }

    // Visits (x, seed's column, seed's row) of those places of a row of the window, from one to before another, that have one.
    template <class F> void eachOf(int y, int from, int to, std::vector<std::int32_t>& sites, std::vector<double>& bounds, F visit) const
    {
        const std::int16_t* row = away_.row(y);
        const int first = std::max(0, from - reach_), last = std::min(window_.width, to + reach_);
        sites.clear();
        bounds.clear();
        // The lower envelope of the parabolas (x - site)^2 + away^2.
        for (int x = first; x < last; ++x) {
            if (row[x] == none)
                continue;
            const double own = double(row[x]) * row[x] + double(x) * x;
            double begins = -std::numeric_limits<double>::infinity();
            while (!sites.empty()) {
                const int s = sites.back();
                begins = (own - (double(row[s]) * row[s] + double(s) * s)) / (2.0 * (x - s));
                if (begins > bounds.back())
                    break;
                sites.pop_back();
                bounds.pop_back();
                begins = -std::numeric_limits<double>::infinity();
            }
            sites.push_back(x);
            bounds.push_back(begins);
        }
        std::size_t k = 0;
        for (int x = from; x < to && !sites.empty(); ++x) {
            while (k + 1 < sites.size() && bounds[k + 1] <= x)
                ++k;
            visit(x, sites[k], y + row[sites[k]]);
        }
    }

private:
    static constexpr std::int16_t none = std::numeric_limits<std::int16_t>::max();

    bool seed(int x, int y) const
    {
        const int px = x + window_.x0, py = y + window_.y0;
        return px >= 0 && py >= 0 && px < seeds_.width() && py < seeds_.height() && seeds_.at(px, py);
    }

    void columns(int begin, int end, const Work& work)
    {
        std::vector<int> since(std::size_t(end - begin), reach_ + 1);
        for (int y = 0; y < window_.height; ++y) { // from above
            if ((y & 63) == 0)
                work.check();
            std::int16_t* row = away_.row(y);
            for (int x = begin; x < end; ++x) {
                int& s = since[std::size_t(x - begin)];
                s = seed(x, y) ? 0 : s + 1;
                row[x] = s <= reach_ ? std::int16_t(-s) : none;
            }
        }
        std::fill(since.begin(), since.end(), reach_ + 1);
        for (int y = window_.height; y-- > 0;) { // and from below
            std::int16_t* row = away_.row(y);
            for (int x = begin; x < end; ++x) {
                int& s = since[std::size_t(x - begin)];
                s = row[x] == 0 ? 0 : s + 1;
                if (s <= reach_ && (row[x] == none || s < -row[x]))
                    row[x] = std::int16_t(s);
            }
        }
    }

    const Bits& seeds_;
    Window window_;
    int reach_;
    Raster<std::int16_t> away_; // rows to the nearest seed of the column
};

int depthOf(const BleedSpec& spec, const BleedGround& ground)
{
    constexpr int blended = 2, lossy = 4, most = 64; // px that a drawn edge and one from a JPEG are mixed with the paper over
    return spec.inside ? std::clamp(int(std::lround(spec.inside->mm() * ground.pxPerMm)), 0, most) : ground.lossy ? lossy : blended;
}

// The place as far within the edge as the one asked for lies without; the seed where nothing is printed there.
Rgba mirroredAt(const BleedGround& ground, Point place, Point seed, int depth)
{
    const Point way = seed - place;
    const double length = norm(way), within = depth + 0.5; // the seed's middle, from the edge
    const Point there = length > 0 ? seed + way * (std::max(0.0, length - 2 * within) / length) : seed;
    const int x = int(std::lround(there.x)), y = int(std::lround(there.y));
    constexpr std::uint8_t opaque = 250;
    const bool inside = x >= 0 && y >= 0 && x < ground.pixels.width() && y < ground.pixels.height() && ground.printed.at(x, y) >= opaque;
    return inside ? ground.pixels.at(x, y) : ground.pixels.at(int(seed.x), int(seed.y));
}

} // namespace

std::shared_ptr<const PrintImage> bleedOf(const DistanceField& edge, const BleedGround& ground, const BleedSpec& spec, const Work& work)
{
    const double reach = spec.reach().mm() * ground.pxPerMm;
    if (reach <= 0 || edge.contours().empty())
        return nullptr;
    const Window window = windowOf(edge, reach);
    const Gray8 extent = extentOf(edge, reach, window, work);
    auto pixels = std::make_shared<Rgba8>(window.width, window.height);
    const bool plain = spec.border > Length() || spec.from == BleedFrom::Colour;
    const Rgba own = spec.border > Length() ? spec.borderColour : spec.colour;
    const int depth = depthOf(spec, ground);
    std::optional<Bits> seeds;
    std::optional<NearestSeed> nearest;
    if (!plain) {
        seeds.emplace(seedsOf(ground.printed, depth, work));
        nearest.emplace(*seeds, window, int(std::ceil(reach + underTheRim)) + 2 * depth + 2, work);
    }
    parallelSlices(window.height, 16, [&](int begin, int end) {
        std::vector<std::int32_t> sites;
        std::vector<double> bounds;
        for (int y = begin; y < end; ++y) {
            if ((y & 15) == 0)
                work.check();
            Rgba* to = pixels->row(y);
            const std::uint8_t* alpha = extent.row(y);
            std::fill(to, to + window.width, Rgba{own.r, own.g, own.b, 0});
            const std::uint8_t *first = std::find_if(alpha, alpha + window.width, [](std::uint8_t a) { return a > 0; }), *last = alpha + window.width;
            while (last > first && last[-1] == 0)
                --last;
            const int from = int(first - alpha), until = int(last - alpha);
            if (plain)
                for (int x = from; x < until; ++x)
                    to[x].a = alpha[x];
            else
                nearest->eachOf(y, from, until, sites, bounds, [&](int x, int seedX, int seedY) {
                    if (alpha[x] == 0)
                        return;
                    const Point seed{double(seedX + window.x0), double(seedY + window.y0)};
                    const Rgba c = spec.from == BleedFrom::Mirror ? mirroredAt(ground, {double(x + window.x0), double(y + window.y0)}, seed, depth)
                                                                  : ground.pixels.at(seedX + window.x0, seedY + window.y0);
                    to[x] = {c.r, c.g, c.b, alpha[x]};
                });
        }
    });
    auto out = std::make_shared<PrintImage>();
    out->pixels = std::move(pixels);
    out->toMm = toMmOf(window, ground.pxPerMm);
    return out;
}

} // namespace yokai
