#include "bleed/print_image.h"

#include <algorithm>
#include <vector>

namespace yokai {

namespace {

// The colours of the level before in squares of two by two, weighed by how much of them is
// printed. Alpha is the weight: 0 where nothing is.
Rgba average(const Rgba* four, int count)
{
    unsigned r = 0, g = 0, b = 0, weight = 0;
    for (int k = 0; k < count; ++k) {
        const Rgba c = four[k];
        r += unsigned(c.r) * c.a;
        g += unsigned(c.g) * c.a;
        b += unsigned(c.b) * c.a;
        weight += c.a;
    }
    if (weight == 0)
        return {255, 255, 255, 0};
    const auto byte = [&](unsigned v) { return std::uint8_t((v + weight / 2) / weight); };
    return {byte(r), byte(g), byte(b), std::uint8_t((weight + 3) / 4)};
}

// `at(i, j)` gives the finer level's pixels, of which there are `width` x `height`.
template <class At> Rgba8 coarser(int width, int height, At at, const Work& work)
{
    Rgba8 out((width + 1) / 2, (height + 1) / 2);
    parallelSlices(out.height(), 32, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 31) == 0)
                work.check();
            for (int x = 0; x < out.width(); ++x) {
                Rgba four[4];
                int count = 0;
                for (int j = 2 * y; j < std::min(2 * y + 2, height); ++j)
                    for (int i = 2 * x; i < std::min(2 * x + 2, width); ++i)
                        four[count++] = at(i, j);
                out.at(x, y) = average(four, count);
            }
        }
    });
    return out;
}

} // namespace

SharedRgba withColoursRunOn(const Rgba8& px, const Gray8& opacity, const Work& work)
{
    std::vector<Rgba8> levels;
    if (px.width() > 0 && px.height() > 0)
        levels.push_back(coarser(
            px.width(), px.height(),
            [&](int i, int j) {
                const Rgba c = px.at(i, j);
                return Rgba{c.r, c.g, c.b, opacity.at(i, j)};
            },
            work));
    while (!levels.empty() && std::max(levels.back().width(), levels.back().height()) > 1) {
        const Rgba8& last = levels.back();
        levels.push_back(coarser(
            last.width(), last.height(), [&](int i, int j) { return last.at(i, j); }, work));
    }
    auto out = std::make_shared<Rgba8>(px.width(), px.height());
    parallelSlices(px.height(), 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 31) == 0)
                work.check();
            for (int x = 0; x < px.width(); ++x) {
                Rgba c = px.at(x, y);
                c.a = opacity.at(x, y);
                if (c.a == 0) {
                    c = {255, 255, 255, 0};
                    for (std::size_t k = 0; k < levels.size() && c.a == 0; ++k)
                        c = levels[k].at(x >> (k + 1), y >> (k + 1));
                    c.a = 0;
                }
                out->at(x, y) = c;
            }
        }
    });
    return out;
}

} // namespace yokai
