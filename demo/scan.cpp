#include "scan.h"

#include "artwork/frame.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

namespace yokai::demo {

namespace {

std::uint8_t lit(int value, double by) { return std::uint8_t(std::clamp(value * by, 0.0, 255.0)); }

void lay(Rgba8& glass, const Patch& patch, double pxPerMm)
{
    constexpr double rimWidth = 2.6, round = 5, margin = 5; // mm
    ArtworkSpec artwork;
    artwork.picture = openPicture(patch.drawing);
    const double inner = patch.side - 2 * (rimWidth + margin);
    const double longer = std::max(artwork.width(), artwork.height());
    artwork.setWidth(Length::mm(inner * artwork.width() / longer));
    const Framed drawn = framePicture(decodePicture(artwork.picture), artwork);
    const double drawnPxPerMm = artwork.pxPerMm(), a = patch.askew * std::numbers::pi / 180;
    for (int y = 0; y < glass.height(); ++y)
        for (int x = 0; x < glass.width(); ++x) {
            const Point off = Point{x + 0.5, y + 0.5} * (1 / pxPerMm) - patch.middle;
            const Point p{off.x * std::cos(a) + off.y * std::sin(a), -off.x * std::sin(a) + off.y * std::cos(a)}; // on the patch
            const double half = patch.side / 2 - round;
            const double outside = std::hypot(std::max(0.0, std::abs(p.x) - half), std::max(0.0, std::abs(p.y) - half)) - round;
            const double cover = std::clamp(0.5 - outside * pxPerMm, 0.0, 1.0);
            if (cover <= 0)
                continue;
            // Twill runs aslant; the rim's threads run round.
            const bool onRim = outside > -rimWidth;
            const double thread = onRim ? 1 + 0.10 * std::sin((p.x + p.y) * 9) * std::cos((p.x - p.y) * 2) - 0.12 * std::abs(outside + rimWidth / 2) / rimWidth
                                        : 1 + 0.05 * std::sin((p.x + p.y) * 12);
            Rgba c = onRim ? patch.rim : patch.cloth;
            const Point on = (p + Point{artwork.width(), artwork.height()} * 0.5) * drawnPxPerMm;
            if (!onRim && on.x >= 0 && on.y >= 0 && on.x < drawn.pixels->width() && on.y < drawn.pixels->height()) {
                const Rgba d = drawn.pixels->at(int(on.x), int(on.y));
                const auto over = [&](int top, int under) { return std::uint8_t((top * d.a + under * (255 - d.a)) / 255); };
                c = {over(d.r, c.r), over(d.g, c.g), over(d.b, c.b), 255};
            }
            Rgba& to = glass.at(x, y);
            const auto mixed = [&](std::uint8_t under, std::uint8_t top) { return std::uint8_t(under + cover * (lit(top, thread) - under)); };
            to = {mixed(to.r, c.r), mixed(to.g, c.g), mixed(to.b, c.b), 255};
        }
}

} // namespace

Rgba8 scanned(const std::vector<Patch>& patches, double width, double height, double ppi)
{
    const double pxPerMm = ppi / 25.4;
    Rgba8 out(int(width * pxPerMm), int(height * pxPerMm), Rgba{238, 238, 234, 255});
    for (const Patch& patch : patches)
        lay(out, patch, pxPerMm);
    std::mt19937 random(9);
    for (Rgba& c : out.all()) {
        const int noise = int(random() % 7) - 3;
        c = {lit(c.r + noise, 1), lit(c.g + noise, 1), lit(c.b + noise, 1), 255};
    }
    return out;
}

} // namespace yokai::demo
