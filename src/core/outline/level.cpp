#include "outline/level.h"

#include "outline/undecided.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace yokai {

namespace {

// Of each sample bit 0: within the level's distance, bit 1: about as far. By itself, so that many go at once.
void compare(const float* __restrict squared, std::uint8_t* __restrict bytes, int count, float level, float least, float most)
{
    for (int i = 0; i < count; ++i) {
        const int nearer = squared[i] <= level ? 1 : 0, farEnough = squared[i] >= least ? 2 : 0, nearEnough = squared[i] <= most ? 2 : 0;
        bytes[i] = std::uint8_t(nearer | (farEnough & nearEnough));
    }
}

LevelBits bitsOf(const Lattice& l, double offset, const Work& work)
{
    LevelBits out{l.inside, std::vector<std::uint64_t>(l.inside.size(), 0)};
    // No place in a cell is farther than 0.71 steps from its nearest corner, and distances are
    // to points of the edge, not to what lies between them.
    constexpr double near = 0.8;
    const double level = std::abs(offset) / l.step;
    const float squaredLevel = float(level * level), least = float(level > near ? (level - near) * (level - near) : 0),
                most = float((level + near) * (level + near));
    parallelSlices(l.height, 32, [&](int first, int last) {
        std::vector<std::uint8_t> bytes(std::size_t(l.words) * 64); // bit 0: within the level's distance, bit 1: about as far
        for (int j = first; j < last; ++j) {
            work.check();
            const float* squared = l.squared.get() + l.index(0, j);
            const std::size_t row = std::size_t(j) * std::size_t(l.words);
            for (const auto [begin, end] : l.band(j)) {
                const int from = begin & ~63, to = (end + 63) & ~63;
                std::fill(bytes.begin() + from, bytes.begin() + to, std::uint8_t(0));
                compare(squared + begin, bytes.data() + begin, end - begin, squaredLevel, least, most);
                for (int i = from; i < to; i += 64) {
                    const std::size_t word = row + std::size_t(i >> 6);
                    const std::uint64_t bits = march::packed(bytes.data() + i);
                    out.within[word] = offset > 0 ? out.within[word] | bits : out.within[word] & ~bits;
                    out.near[word] |= march::packed(bytes.data() + i, 1);
                }
            }
        }
    });
    return out;
}

// Of the points that came of fine samples as many as the lattice would have given, or as a
// small loop needs.
void thin(Polyline& loop, const std::vector<int>& ids, int ofLattice, double step)
{
    constexpr double share = 0.25, ofASmallLoop = 48;
    const double apart = std::min(share * step, length(loop) / ofASmallLoop);
    double since = apart; // along the loop, from the last one kept
    std::size_t kept = 0;
    Point before = loop.front();
    for (std::size_t k = 0; k < loop.size(); ++k) {
        const Point p = loop[k];
        since += distance(p, before);
        before = p;
        if (ids[k] < ofLattice || since >= apart) {
            loop[kept++] = p;
            since = 0;
        }
    }
    loop.resize(kept);
}

// The crossings as loops; none at all where one has no end.
std::optional<std::vector<Polyline>> loopsOf(const march::Loops& crossings, int ofLattice, const Lattice& l)
{
    std::vector<Polyline> out;
    std::vector<unsigned char> seen(crossings.points.size(), 0);
    for (const int first : crossings.rowCrossings) {
        if (seen[std::size_t(first)] || crossings.next[std::size_t(first)] < 0) // the lattice's own within undecided cells belong to no loop
            continue;
        Polyline loop;
        std::vector<int> ids;
        for (int p = first; !seen[std::size_t(p)]; p = crossings.next[std::size_t(p)]) {
            seen[std::size_t(p)] = 1;
            loop.push_back(l.origin + crossings.points[std::size_t(p)] * l.step);
            ids.push_back(p);
            if (crossings.next[std::size_t(p)] < 0)
                return std::nullopt;
        }
        thin(loop, ids, ofLattice, l.step);
        out.push_back(std::move(loop));
    }
    return out;
}

// Where the line crosses the lattice, joined up but in the cells that are left to `undecided`.
march::Loops crossings(const Lattice& l, const Meetings& meetings, double level, const std::vector<std::uint64_t>& within, const Undecided* undecided,
                       const Work& work)
{
    constexpr double infinite = std::numeric_limits<double>::infinity();
    const auto signedAt = [&](int i, int j) {
        if (i < 0 || j < 0 || i >= l.width || j >= l.height)
            return infinite;
        const double d = std::sqrt(double(l.squared[l.index(i, j)])) * l.step; // the band reaches farther than the line
        return l.isInside(i, j) ? -d : d;
    };
    // `met`: fronts meet beside the side of a cell from `a` to `b`.
    const auto between = [&](double a, double b, bool met) {
        if (!std::isfinite(a) || !std::isfinite(b) || a == b)
            return 0.5;
        // Where one front passes, a little beyond the line: from there a point comes to its place in one go.
        constexpr double beyond = 0.06; // of a step: more than a distance's bend from sample to sample hides
        return std::clamp((level + (met ? 0 : std::copysign(beyond * l.step, level)) - a) / (b - a), 0.0, 1.0);
    };
    return march::trace(
        l.width, l.height, work, [&](int j, std::uint64_t* words) { std::copy_n(within.data() + std::size_t(j) * std::size_t(l.words), l.words, words); },
        [&](int i, int j) { return between(signedAt(i, j), signedAt(i + 1, j), meetings.at(i, j - 1) || meetings.at(i, j)); },
        [&](int i, int j) { return between(signedAt(i, j), signedAt(i, j + 1), meetings.at(i - 1, j) || meetings.at(i, j)); },
        [&](int i, int j) { return signedAt(i, j) + signedAt(i + 1, j) + signedAt(i, j + 1) + signedAt(i + 1, j + 1) < 4 * level; },
        [&](int i, int j) { return undecided && undecided->has(i, j); });
}

} // namespace

Level levelOf(const Edge& edge, const Lattice& l, const Meetings& meetings, double offset, const Work& work)
{
    LevelBits bits = bitsOf(l, offset, work);
    {
        const Undecided undecided(edge, l, meetings, offset, bits, work);
        march::Loops found = crossings(l, meetings, offset, bits.within, &undecided, work);
        const int ofLattice = int(found.points.size());
        undecided.link(found, found.open);
        if (auto loops = loopsOf(found, ofLattice, l))
            return {std::move(*loops), undecided.spots()};
    }
    // Should cells ever disagree on a side they share, the lattice's word is better than a line with an end.
    const march::Loops plain = crossings(l, meetings, offset, bitsOf(l, offset, work).within, nullptr, work);
    return {*loopsOf(plain, int(plain.points.size()), l), {}};
}

} // namespace yokai
