#include "bleed/underprint.h"

#include "base/cover.h"
#include "bleed/window.h"
#include "keep/colour.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yokai {

namespace {

// What lies over a place: the picture, and what bleeds beneath it.
Rgba over(const BleedGround& ground, const PrintImage* bled, const Window& bleedWindow, int x, int y)
{
    Rgba top;
    if (x >= 0 && y >= 0 && x < ground.pixels.width() && y < ground.pixels.height()) {
        top = ground.pixels.at(x, y);
        top.a = ground.printed.at(x, y);
    }
    const int bx = x - bleedWindow.x0, by = y - bleedWindow.y0;
    if (top.a == 255 || !bled || bx < 0 || by < 0 || bx >= bleedWindow.width || by >= bleedWindow.height)
        return top;
    const Rgba below = bled->pixels->at(bx, by);
    const double shown = top.a / 255.0, rest = (1 - shown) * below.a / 255.0, all = shown + rest;
    if (all <= 0)
        return {};
    const auto mixed = [&](std::uint8_t a, std::uint8_t b) { return std::uint8_t(std::lround((a * shown + b * rest) / all)); };
    return {mixed(top.r, below.r), mixed(top.g, below.g), mixed(top.b, below.b), std::uint8_t(std::lround(255 * all))};
}

// Of each lightness L*, 0..100, how much ink lies under it.
std::array<double, 101> curveOf(const UnderprintSpec& spec)
{
    std::array<double, 101> out{};
    for (int L = 0; L <= 100; ++L)
        out[std::size_t(L)] = spec.where == UnderprintWhere::All       ? 1.0
                              : spec.lightFull <= spec.lightFrom ? double(L >= spec.lightFrom)
                                                                 : std::clamp((L - spec.lightFrom) / (spec.lightFull - spec.lightFrom), 0.0, 1.0);
    return out;
}

} // namespace

std::shared_ptr<const Plate> underprintOf(const DistanceField& edge, const BleedGround& ground, const BleedSpec& bleed, const PrintImage* bled,
                                          const UnderprintSpec& spec, const Work& work)
{
    if (!spec.on || edge.contours().empty())
        return nullptr;
    const double reach = (bleed.reach() - spec.choke).mm() * ground.pxPerMm;
    const Window window = windowOf(edge, std::max(0.0, reach)), bleedWindow = windowOf(edge, bleed.reach().mm() * ground.pxPerMm);
    constexpr double any = 0; // however small
    std::vector<Polyline> region;
    for (const LevelLine& line : edge.at(reach, any, work))
        region.push_back(inWindow(line.points, window));
    if (region.empty())
        return nullptr;
    const std::array<double, 101> curve = curveOf(spec);
    auto tint = std::make_shared<Gray8>(window.width, window.height, std::uint8_t(0));
    coverPolygons(
        region, window.width, window.height,
        [&](int y, int x0, std::span<const std::uint8_t> cover) {
            std::uint8_t* to = tint->row(y) + x0;
            for (std::size_t x = 0; x < cover.size(); ++x) {
                if (cover[x] == 0)
                    continue;
                const Rgba c = over(ground, bled, bleedWindow, x0 + int(x) + window.x0, y + window.y0);
                const double ink = spec.where == UnderprintWhere::All ? 1 : curve[std::size_t(lightnessOf(c))];
                to[x] = std::uint8_t(std::lround(ink * c.a * cover[x] / 255));
            }
        },
        work);
    auto out = std::make_shared<Plate>();
    out->tint = std::move(tint);
    out->toMm = toMmOf(window, ground.pxPerMm);
    return out;
}

} // namespace yokai
