#include "engrave/engraving.h"

#include <array>
#include <cmath>

namespace yokai {

Gray8 burnOf(const Rgba8& picture, const Gray8& kept, const Gray8* region, const EngraveSpec& spec, const Work& work)
{
    // By how light a grey is in sRGB, which is near what the eye takes for even steps; the curve is for what a material makes of it.
    std::array<std::uint8_t, 256> burn{};
    for (int grey = 0; grey < 256; ++grey)
        burn[std::size_t(grey)] = std::uint8_t(std::lround(255 * std::pow(1 - grey / 255.0, spec.curve)));
    Gray8 out(picture.width(), picture.height());
    eachRow(out.height(), out.width(), work, [&](int y) {
        const Rgba* from = picture.row(y);
        for (int x = 0; x < out.width(); ++x) {
            // Rec. 709 luma.
            const int grey = (54 * from[x].r + 183 * from[x].g + 19 * from[x].b + 128) >> 8;
            const int own = (burn[std::size_t(std::min(grey, 255))] * kept.at(x, y) + 127) / 255;
            out.at(x, y) = std::uint8_t(region ? std::max(0, int(region->at(x, y)) - own) : own);
        }
    });
    return out;
}

} // namespace yokai
