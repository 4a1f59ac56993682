#include "engrave/engraving.h"

#include <opencv2/imgproc.hpp>

#include <algorithm>
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

void burnBorder(Gray8& burn, const Gray8& kept, double wide)
{
    cv::Mat inside(kept.height() + 2, kept.width() + 2, CV_8U, cv::Scalar(0)), deep; // the picture's own edge is one, too
    for (int y = 0; y < kept.height(); ++y)
        for (int x = 0; x < kept.width(); ++x)
            inside.at<std::uint8_t>(y + 1, x + 1) = kept.at(x, y) >= 128 ? 255 : 0;
    cv::distanceTransform(inside, deep, cv::DIST_L2, cv::DIST_MASK_PRECISE);
    constexpr float half = 0.5F; // from the middle of the last pixel that is kept to the edge
    for (int y = 0; y < kept.height(); ++y)
        for (int x = 0; x < kept.width(); ++x)
            if (const float d = deep.at<float>(y + 1, x + 1); d > 0 && d - half < float(wide))
                burn.at(x, y) = std::max(burn.at(x, y), kept.at(x, y));
}

} // namespace yokai
