#include "bleed/seeds.h"

namespace yokai {

namespace {

enum class Grow { In, Out };

// A pixel and its eight neighbours, all of them (in) or any of them (out); what lies outside is clear.
Bits grown(const Bits& from, Grow grow, const Work& work)
{
    Bits out(from.width(), from.height());
    const int words = from.words();
    const std::vector<std::uint64_t> clear(std::size_t(words), 0);
    const auto combine = [&](std::uint64_t a, std::uint64_t b, std::uint64_t c) { return grow == Grow::In ? a & b & c : a | b | c; };
    parallelSlices(from.height(), 32, [&](int begin, int end) {
        std::vector<std::uint64_t> column(std::size_t(words), 0); // of three rows
        for (int y = begin; y < end; ++y) {
            if ((y & 31) == 0)
                work.check();
            const std::uint64_t *above = y > 0 ? from.row(y - 1) : clear.data(), *own = from.row(y), *below = y + 1 < from.height() ? from.row(y + 1) : clear.data();
            for (int w = 0; w < words; ++w)
                column[std::size_t(w)] = combine(above[w], own[w], below[w]);
            std::uint64_t* to = out.row(y);
            for (int w = 0; w < words; ++w) {
                const std::uint64_t here = column[std::size_t(w)];
                const std::uint64_t left = here << 1 | (w > 0 ? column[std::size_t(w - 1)] >> 63 : 0);
                const std::uint64_t right = here >> 1 | (w + 1 < words ? column[std::size_t(w + 1)] << 63 : 0);
                to[w] = combine(left, here, right);
            }
        }
    });
    return out;
}

} // namespace

Bits seedsOf(const Gray8& opacity, int depth, const Work& work)
{
    constexpr std::uint8_t opaque = 250; // no paper shines through
    Bits within(opacity.width(), opacity.height());
    parallelSlices(opacity.height(), 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 31) == 0)
                work.check();
            const std::uint8_t* from = opacity.row(y);
            std::uint64_t* to = within.row(y);
            for (int x = 0; x < opacity.width(); ++x)
                to[x >> 6] |= std::uint64_t(from[x] >= opaque) << (x & 63);
        }
    });
    std::vector<Bits> depths{std::move(within)}; // those so deep or deeper
    for (int level = 0; level < depth; ++level)
        depths.push_back(grown(depths.back(), Grow::In, work));
    // The deepest first; of what is thinner its own deepest, unless a seed lies as near as its edge does.
    Bits seeds = depths.back();
    for (int level = depth; level-- > 0;) {
        const Bits again = grown(depths[std::size_t(level) + 1], Grow::Out, work);
        Bits near = seeds;
        constexpr int beyond = 2; // px: the corners of a stepped edge are no strokes
        for (int step = 0; step < depth - level + beyond; ++step)
            near = grown(near, Grow::Out, work);
        for (int y = 0; y < seeds.height(); ++y)
            for (int w = 0; w < seeds.words(); ++w)
                seeds.row(y)[w] |= depths[std::size_t(level)].row(y)[w] & ~again.row(y)[w] & ~near.row(y)[w];
    }
    return seeds;
}

} // namespace yokai
