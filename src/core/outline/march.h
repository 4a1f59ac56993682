// Marching squares over any sampled plane, as one pass over the rows; large planes in two
// slabs of rows side by side, which share the crossings on the row between them.
//
// Private to the outline room. Samples sit on an integer lattice and everything
// outside it counts as outside the shape. Rows arrive as bit masks so that empty
// and full stretches cost next to nothing.
#pragma once

#include "base/geometry.h"
#include "base/work.h"

#include <bit>
#include <cstdint>
#include <cstring>
#include <span>
#include <vector>

namespace yokai::march {

// One bit of each of 64 bytes, the first byte's the lowest.
inline std::uint64_t packed(const std::uint8_t* bytes, int bit = 0)
{
    std::uint64_t word = 0;
    for (int k = 0; k < 8; ++k) {
        std::uint64_t eight;
        std::memcpy(&eight, bytes + 8 * k, 8);
        eight = (eight >> bit) & 0x0101010101010101ULL;
        word |= ((eight * 0x0102040810204080ULL) >> 56) << (8 * k); // the multiplication gathers the eight bits
    }
    return word;
}

// The crossings on the sides of a cell; -1 where a side is not crossed.
struct Sides {
    int top, right, bottom, left;
};

// A crossed cell whose crossings the caller joins up.
struct OpenCell {
    int i, j; // its sample above on the left
    Sides sides;
};

struct Loops {
    std::vector<Point> points;     // every crossing, in lattice units
    std::vector<int> next;         // the crossing after each, inside on the right as drawn with y down
    std::vector<int> rowCrossings; // the crossings on lattice rows, left to right, top to bottom
    std::vector<int> rowStart;     // rowCrossings of lattice row j start here; height + 1 entries
    std::vector<OpenCell> open;    // row after row
};

// The crossings of the cells between sample rows first .. last. Those on row `first` come
// first and are borrowed from the slab above, which has them too.
struct Slab {
    Loops loops;
    int borrowed = 0;
};

// Links a cell's crossings; `inside` has a bit for each corner that is: 1 and 2 above, 4 and 8 below.
template <class Saddle> void linkCell(Loops& loops, int inside, const Sides& on, Saddle saddleInside)
{
    constexpr int top = 0, right = 1, bottom = 2, left = 3, none = -1;
    struct Way {
        int from, to;
    };
    // Clockwise on screen (y down) round the inside: positive area.
    static constexpr Way ways[16] = {{none, none},    {top, left},  {right, top},  {right, left},  {left, bottom}, {top, bottom}, {none, none}, {right, bottom},
                                     {bottom, right}, {none, none}, {bottom, top}, {bottom, left}, {left, right},  {top, right},  {left, top},  {none, none}};
    const int at[] = {on.top, on.right, on.bottom, on.left};
    const auto link = [&](Way way) {
        if (way.from != none && at[way.from] >= 0)
            loops.next[std::size_t(at[way.from])] = at[way.to];
    };
    const auto both = [&](Way one, Way other) {
        link(one);
        link(other);
    };
    if (inside == 6)
        saddleInside() ? both({left, top}, {right, bottom}) : both({right, top}, {left, bottom});
    else if (inside == 9)
        saddleInside() ? both({top, right}, {bottom, left}) : both({top, left}, {bottom, right});
    else
        link(ways[inside]);
}

// Of the words of a row of bits, the k-th of the row moved one bit down.
inline std::uint64_t nextBits(std::span<const std::uint64_t> row, std::size_t k) { return (row[k] >> 1) | (k + 1 < row.size() ? row[k + 1] << 63 : 0); }

// Over 60 lines: one pass over the bits, whose state (two rows of bits, two of crossings, the last
// cell's right side) would have to be handed through every part of it.
template <class InsideRow, class BetweenX, class BetweenY, class SaddleInside, class LeftOpen>
Slab traceSlab(int width, int height, int first, int last, const Work& work, InsideRow& insideRow, BetweenX& betweenX, BetweenY& betweenY,
               SaddleInside& saddleInside, LeftOpen& leftOpen)
{
    Slab slab;
    Loops& loops = slab.loops;
    // Bit i + 1 of a row is sample i; bit 0 and the bit past the end stay outside.
    const int words = (width + 2 + 63) / 64 + 1;
    std::vector<std::uint64_t> upper(std::size_t(words), 0), lower(std::size_t(words), 0), plain(std::size_t(words), 0);
    std::vector<int> above(std::size_t(width) + 2, -1), below(std::size_t(width) + 2, -1);
    const auto bit = [](const std::vector<std::uint64_t>& row, int i) { return (row[std::size_t(i) >> 6] >> (i & 63)) & 1; };
    const auto read = [&](int j, std::vector<std::uint64_t>& row) {
        std::fill(plain.begin(), plain.end(), 0);
        insideRow(j, plain.data());
        std::uint64_t carry = 0;
        for (int w = 0; w < words; ++w) {
            row[std::size_t(w)] = (plain[std::size_t(w)] << 1) | carry;
            carry = plain[std::size_t(w)] >> 63;
        }
    };
    const auto crossing = [&](Point p) {
        loops.points.push_back(p);
        loops.next.push_back(-1);
        return int(loops.points.size()) - 1;
    };
    if (first >= 0) {
        read(first, upper);
        for (int w = 0; w < words; ++w)
            for (std::uint64_t mixed = upper[std::size_t(w)] ^ nextBits(upper, std::size_t(w)); mixed; mixed &= mixed - 1) {
                const int cell = w * 64 + std::countr_zero(mixed);
                above[std::size_t(cell)] = crossing({cell - 1 + betweenX(cell - 1, first), double(first)});
                ++slab.borrowed;
            }
    }
    for (int j = first; j < last; ++j) {
        if ((j & 63) == 0)
            work.check();
        std::fill(lower.begin(), lower.end(), 0);
        if (j + 1 < height) {
            read(j + 1, lower);
            loops.rowStart.push_back(int(loops.rowCrossings.size()));
        }
        int lastLeft = -1, leftId = -1; // the crossing on the left side of the next cell, if that cell follows at once
        for (int w = 0; w < words; ++w) {
            const std::uint64_t u = upper[std::size_t(w)], l = lower[std::size_t(w)];
            const std::uint64_t un = nextBits(upper, std::size_t(w)), ln = nextBits(lower, std::size_t(w));
            std::uint64_t mixed = (u ^ un) | (l ^ ln) | (u ^ l);
            while (mixed) {
                const int cell = w * 64 + std::countr_zero(mixed); // columns cell and cell + 1 of the shifted row
                mixed &= mixed - 1;
                if (cell > width)
                    break;
                const int i = cell - 1; // sample column on the left side of the cell
                const bool a = bit(upper, cell), b = bit(upper, cell + 1), c = bit(lower, cell), d = bit(lower, cell + 1);
                int top = -1, bottom = -1, left = -1, right = -1;
                if (a != b)
                    top = above[std::size_t(cell)];
                if (a != c)
                    left = lastLeft == cell ? leftId : crossing({double(i), j + betweenY(i, j)});
                if (c != d) {
                    bottom = crossing({i + betweenX(i, j + 1), double(j + 1)});
                    below[std::size_t(cell)] = bottom;
                    loops.rowCrossings.push_back(bottom);
                }
                if (b != d) {
                    right = crossing({double(i + 1), j + betweenY(i + 1, j)});
                    lastLeft = cell + 1;
                    leftId = right;
                }
                const Sides sides{top, right, bottom, left};
                if (leftOpen(i, j))
                    loops.open.push_back({i, j, sides});
                else
                    linkCell(loops, int(a) | int(b) << 1 | int(c) << 2 | int(d) << 3, sides, [&] { return saddleInside(i, j); });
            }
        }
        std::swap(upper, lower);
        std::swap(above, below);
    }
    return slab;
}

// insideRow(j, words): sets bit i where sample (i, j) is inside; the words are zeroed.
// betweenX(i, j): the crossing between (i, j) and (i+1, j), as a fraction 0..1; likewise betweenY.
// saddleInside(i, j): whether the middle of the cell at (i, j) is inside.
// leftOpen(i, j): whether that cell's crossings are not linked but handed over in Loops::open.
// Samples -1 and width (height) count as outside and are passed to between* as such. All may
// be called from two threads.
template <class InsideRow, class BetweenX, class BetweenY, class SaddleInside, class LeftOpen>
Loops trace(int width, int height, const Work& work, InsideRow insideRow, BetweenX betweenX, BetweenY betweenY, SaddleInside saddleInside, LeftOpen leftOpen)
{
    constexpr int worthwhile = 256;
    const int middle = height < worthwhile ? height : height / 2;
    Slab upper, lower;
    parallelSlices(middle < height ? 2 : 1, 1, [&](int begin, int end) {
        for (int k = begin; k < end; ++k)
            (k == 0 ? upper : lower) =
                traceSlab(width, height, k == 0 ? -1 : middle, k == 0 ? middle : height, work, insideRow, betweenX, betweenY, saddleInside, leftOpen);
    });
    Loops loops = std::move(upper.loops);
    const int base = int(loops.points.size()) - lower.borrowed;
    const int shared = middle < height ? loops.rowStart[std::size_t(middle)] : 0; // the upper slab's crossings on the row between
    const auto number = [&](int id) { return id < 0 ? -1 : id < lower.borrowed ? loops.rowCrossings[std::size_t(shared + id)] : base + id; };
    loops.points.insert(loops.points.end(), lower.loops.points.begin() + lower.borrowed, lower.loops.points.end());
    loops.next.resize(loops.points.size(), -1);
    for (int id = 0; id < int(lower.loops.next.size()); ++id)
        if (const int next = lower.loops.next[std::size_t(id)]; next >= 0)
            loops.next[std::size_t(number(id))] = number(next);
    for (const auto& [i, j, on] : lower.loops.open)
        loops.open.push_back({i, j, {number(on.top), number(on.right), number(on.bottom), number(on.left)}});
    const int before = int(loops.rowCrossings.size());
    for (const int id : lower.loops.rowCrossings)
        loops.rowCrossings.push_back(number(id));
    for (const int start : lower.loops.rowStart)
        loops.rowStart.push_back(before + start);
    loops.rowStart.push_back(int(loops.rowCrossings.size()));
    return loops;
}

} // namespace yokai::march
