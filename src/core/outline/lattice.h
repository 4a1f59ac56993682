// The lattice of distances under the level lines.
// Private to the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "base/work.h"
#include "outline/edge.h"

#include <cstdint>
#include <cstdlib>
#include <memory>
#include <new>
#include <vector>

namespace yokai {

template <class T> struct Freed {
    void operator()(T* p) const { std::free(p); }
};
// Memory that costs nothing where it is never touched: zeroed, or unset.
template <class T> std::unique_ptr<T[], Freed<T>> untouched(std::size_t n, bool zeroed)
{
    n = std::max<std::size_t>(n, 1);
    auto* p = static_cast<T*>(zeroed ? std::calloc(n, sizeof(T)) : std::malloc(n * sizeof(T)));
    if (!p)
        throw std::bad_alloc();
    return std::unique_ptr<T[], Freed<T>>(p);
}

// Signed distances on a lattice of `step` pixels, to vertices only, within a band.
struct Lattice {
    struct Stretch {
        int begin, end;
    };
    int width = 0, height = 0, words = 0;
    double step = 1;
    Point origin;
    std::unique_ptr<int[], Freed<int>> vertex;      // nearest edge vertex + 1; 0 beyond the band
    std::unique_ptr<float[], Freed<float>> squared; // squared distance to it, lattice units; unset beyond the band
    std::vector<std::uint64_t> inside;              // one bit a sample
    std::vector<std::vector<Stretch>> bandRows;     // where a row of tiles holds distances

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
