// Marching squares over any sampled plane, as one pass over the rows.
//
// Private to the outline room. Samples sit on an integer lattice and everything
// outside it counts as outside the shape. Rows arrive as bit masks so that empty
// and full stretches cost next to nothing.
#pragma once

#include "base/geometry.h"
#include "base/work.h"

#include <bit>
#include <cstdint>
#include <vector>

namespace yokai::march {

struct Loops {
    std::vector<Point> points;     // every crossing, in lattice units
    std::vector<int> next;         // the crossing after each, inside on the right as drawn with y down
    std::vector<int> rowCrossings; // the crossings on lattice rows, left to right, top to bottom
    std::vector<int> rowStart;     // rowCrossings of lattice row j start here; height + 1 entries
};

// insideRow(j, words): sets bit i where sample (i, j) is inside; the words are zeroed.
// betweenX(i, j): the crossing between (i, j) and (i+1, j), as a fraction 0..1; likewise betweenY.
// saddleInside(i, j): whether the middle of the cell at (i, j) is inside.
// Samples -1 and width (height) count as outside and are passed to between* as such.
template <class InsideRow, class BetweenX, class BetweenY, class SaddleInside>
Loops trace(int width, int height, const Work& work, InsideRow insideRow, BetweenX betweenX, BetweenY betweenY, SaddleInside saddleInside)
{
    Loops loops;
    // Bit i + 1 of a row is sample i; bit 0 and the bit past the end stay outside.
    const int words = (width + 2 + 63) / 64 + 1;
    std::vector<std::uint64_t> upper(std::size_t(words), 0), lower(std::size_t(words), 0), plain(std::size_t(words), 0);
    std::vector<int> above(std::size_t(width) + 2, -1), below(std::size_t(width) + 2, -1);
    const auto bit = [](const std::vector<std::uint64_t>& row, int i) { return (row[std::size_t(i) >> 6] >> (i & 63)) & 1; };

    loops.rowStart.assign(std::size_t(height) + 1, 0);
    for (int j = -1; j < height; ++j) {
        if ((j & 63) == 0)
            work.check();
        std::fill(lower.begin(), lower.end(), 0);
        if (j + 1 < height) {
            std::fill(plain.begin(), plain.end(), 0);
            insideRow(j + 1, plain.data());
            std::uint64_t carry = 0;
            for (int w = 0; w < words; ++w) {
                lower[std::size_t(w)] = (plain[std::size_t(w)] << 1) | carry;
                carry = plain[std::size_t(w)] >> 63;
            }
            loops.rowStart[std::size_t(j) + 1] = int(loops.rowCrossings.size());
        }
        int lastLeft = -1, leftId = -1; // the crossing on the left side of the next cell, if that cell follows at once
        for (int w = 0; w < words; ++w) {
            const std::uint64_t u = upper[std::size_t(w)], l = lower[std::size_t(w)];
            const std::uint64_t un = (u >> 1) | (w + 1 < words ? upper[std::size_t(w) + 1] << 63 : 0);
            const std::uint64_t ln = (l >> 1) | (w + 1 < words ? lower[std::size_t(w) + 1] << 63 : 0);
            std::uint64_t mixed = (u ^ un) | (l ^ ln) | (u ^ l);
            while (mixed) {
                const int cell = w * 64 + std::countr_zero(mixed); // columns cell and cell + 1 of the shifted row
                mixed &= mixed - 1;
                if (cell > width)
                    break;
                const int i = cell - 1; // sample column on the left side of the cell
                const bool a = bit(upper, cell), b = bit(upper, cell + 1), c = bit(lower, cell), d = bit(lower, cell + 1);
                int top = -1, bottom = -1, left = -1, right = -1;
                const auto crossing = [&](Point p) {
                    loops.points.push_back(p);
                    loops.next.push_back(-1);
                    return int(loops.points.size()) - 1;
                };
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
                const auto link = [&](int from, int to) { loops.next[std::size_t(from)] = to; };
                // Clockwise on screen (y down) round the inside: positive area.
                switch (int(a) | int(b) << 1 | int(c) << 2 | int(d) << 3) {
                case 1:
                    link(top, left);
                    break;
                case 2:
                    link(right, top);
                    break;
                case 3:
                    link(right, left);
                    break;
                case 4:
                    link(left, bottom);
                    break;
                case 5:
                    link(top, bottom);
                    break;
                case 7:
                    link(right, bottom);
                    break;
                case 8:
                    link(bottom, right);
                    break;
                case 10:
                    link(bottom, top);
                    break;
                case 11:
                    link(bottom, left);
                    break;
                case 12:
                    link(left, right);
                    break;
                case 13:
                    link(top, right);
                    break;
                case 14:
                    link(left, top);
                    break;
                case 6:
                    if (saddleInside(i, j)) {
                        link(left, top);
                        link(right, bottom);
                    } else {
                        link(right, top);
                        link(left, bottom);
                    }
                    break;
                case 9:
                    if (saddleInside(i, j)) {
                        link(top, right);
                        link(bottom, left);
                    } else {
                        link(top, left);
                        link(bottom, right);
                    }
                    break;
                default:
                    break;
                }
            }
        }
        std::swap(upper, lower);
        std::swap(above, below);
    }
    loops.rowStart[std::size_t(height)] = int(loops.rowCrossings.size());
    return loops;
}

} // namespace yokai::march
