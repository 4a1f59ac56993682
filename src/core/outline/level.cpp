#include "outline/level.h"

#include "outline/undecided.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

// Which samples lie within the line, one bit each, as Lattice::inside.
std::vector<std::uint64_t> withinLevel(const Lattice& l, double offset, const Work& work)
{
    std::vector<std::uint64_t> out = l.inside;
    const float squaredLevel = float(offset * offset / (l.step * l.step));
    parallelSlices(l.height, 32, [&](int first, int last) {
        std::vector<std::uint8_t> near(std::size_t(l.words) * 64);
        for (int j = first; j < last; ++j) {
            work.check();
            const float* squared = l.squared.get() + l.index(0, j);
            std::uint64_t* words = out.data() + std::size_t(j) * std::size_t(l.words);
            for (const auto [begin, end] : l.band(j)) {
                const int from = begin & ~63, to = (end + 63) & ~63;
                std::fill(near.begin() + from, near.begin() + to, std::uint8_t(0));
                for (int i = begin; i < end; ++i)
                    near[std::size_t(i)] = squared[i] <= squaredLevel;
                for (int i = from; i < to; i += 64) {
                    const std::uint64_t bits = march::packed(near.data() + i);
                    words[i >> 6] = offset > 0 ? words[i >> 6] | bits : words[i >> 6] & ~bits;
                }
            }
        }
    });
    return out;
}

} // namespace

std::vector<Polyline> levelLoops(const Edge& edge, const Lattice& l, double offset, const Work& work)
{
    const double level = offset, infinite = std::numeric_limits<double>::infinity();
    const auto signedAt = [&](int i, int j) {
        if (i < 0 || j < 0 || i >= l.width || j >= l.height)
            return infinite;
        const std::size_t at = l.index(i, j);
        const double d = l.vertex[at] ? std::sqrt(double(l.squared[at])) * l.step : infinite;
        return l.isInside(i, j) ? -d : d;
    };
    const auto between = [&](double a, double b) {
        if (!std::isfinite(a) || !std::isfinite(b) || a == b)
            return 0.5;
        return std::clamp((level - a) / (b - a), 0.0, 1.0);
    };
    std::vector<std::uint64_t> within = withinLevel(l, offset, work);
    const Undecided undecided(edge, l, offset, within, work);
    march::Loops loops = march::trace(
        l.width, l.height, work, [&](int j, std::uint64_t* words) { std::copy_n(within.data() + std::size_t(j) * std::size_t(l.words), l.words, words); },
        [&](int i, int j) { return between(signedAt(i, j), signedAt(i + 1, j)); },
        [&](int i, int j) { return between(signedAt(i, j), signedAt(i, j + 1)); },
        [&](int i, int j) { return signedAt(i, j) + signedAt(i + 1, j) + signedAt(i, j + 1) + signedAt(i + 1, j + 1) < 4 * level; },
        [&](int i, int j) { return undecided.has(i, j); });
    undecided.link(loops, loops.open);
    std::vector<Polyline> rough;
    std::vector<unsigned char> seen(loops.points.size(), 0);
    for (int first : loops.rowCrossings) {
        if (seen[std::size_t(first)] || loops.next[std::size_t(first)] < 0) // a crossing within the undecided belongs to no loop
            continue;
        Polyline loop;
        for (int p = first; !seen[std::size_t(p)]; p = loops.next[std::size_t(p)]) {
            seen[std::size_t(p)] = 1;
            loop.push_back(l.origin + loops.points[std::size_t(p)] * l.step);
        }
        rough.push_back(std::move(loop));
    }
    return rough;
}

} // namespace yokai
