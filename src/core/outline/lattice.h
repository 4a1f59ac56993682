// The lattice of distances under the level lines.
// Private to the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "base/untouched.h"
#include "base/work.h"
#include "outline/edge.h"

#include <cstdint>
#include <vector>

namespace yokai {

// Signed distances on a lattice of `step` pixels, to vertices only, within a band.
struct Lattice {
    struct Stretch {
        int begin, end;
    };
    int width = 0, height = 0, words = 0;
    double step = 1;
    Point origin;
    Untouched<int> vertex;                      // nearest edge vertex + 1; 0 beyond the band
    Untouched<float> squared;                   // squared distance to it, lattice units; unset beyond the band
    std::vector<std::uint64_t> inside;          // one bit a sample
    std::vector<std::vector<Stretch>> bandRows; // where a row of tiles holds distances

    static constexpr int tile = 8;
    Point at(int i, int j) const { return {origin.x + i * step, origin.y + j * step}; }
    std::size_t count() const { return std::size_t(width) * std::size_t(height); }
    std::size_t index(int i, int j) const { return std::size_t(j) * std::size_t(width) + std::size_t(i); }
    const std::uint64_t* insideRow(int j) const { return inside.data() + std::size_t(j) * std::size_t(words); }
    bool isInside(int i, int j) const { return (insideRow(j)[i >> 6] >> (i & 63)) & 1; }
    const std::vector<Stretch>& band(int j) const { return bandRows[std::size_t(j / tile)]; }
};

// `reach`: how far distances are needed on either side, pixels.
Lattice makeLattice(const Edge& edge, double step, double reach, const Work& work);

} // namespace yokai
