// The stretches of the edge that a level line may run at in a cell of the lattice. Private to
// the outline room.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "outline/lattice.h"

#include <array>
#include <cmath>
#include <limits>
#include <span>

namespace yokai {

// By the place on each that is nearest to the cell's middle.
class Fronts {
public:
    struct Front {
        int vertex;
        double away; // from the cell's middle
    };

    Fronts() = default;
    // Looks at what is nearest to the cell's corners and to the samples round them.
    Fronts(const Edge& edge, const Lattice& lattice, double radius, int i, int j);

    // Those that may reach the line in the cell, the nearest first.
    const Front* begin() const { return fronts_.data(); }
    const Front* end() const { return fronts_.data() + count_; }
    int count() const { return count_; }

    double beyond() const { return beyond_; } // how far the cell's middle is from the edge, past the radius
    bool outside() const { return outside_; } // on which side of it

    // Of each that comes near the cell a point of the edge.
    std::span<const int> near() const { return {apart_.data(), std::size_t(apartCount_)}; }
    // The widest angle seen from the cell's middle in which none of those is that may reach the line in the cell.
    double open() const;

private:
    static constexpr std::size_t most = 16; // samples looked at
    void add(Front front);
    std::array<Front, 2 * most> fronts_{};
    int count_ = 0;
    std::array<int, most> apart_{};
    std::array<double, most> angles_{};
    int apartCount_ = 0, angleCount_ = 0;
    double beyond_ = std::numeric_limits<double>::infinity();
    bool outside_ = true;
};

// Whether two corners of a cell have their nearest places of the edge in directions whose angle's
// cosine is less than `alike`.
bool frontsMeet(const Edge& edge, const Lattice& lattice, double alike, int i, int j);

// A side of a cell by how far several fronts lie beyond the line, seen from its ends; between them
// each changes evenly. The least of such distances rises to one peak and falls again.
struct CellSide {
    static constexpr std::size_t most = 5; // fronts
    const std::array<double, most>&from, &to;
    std::size_t count;

    // Whether the line crosses the side as its ends have it, and where they have it leads to the
    // front that it belongs to. `unevenness`: how far a distance may be off.
    bool asItsEnds(double unevenness) const;
    double peak() const;

    std::size_t nearestAt(double t) const; // which front, a part t along
    double at(std::size_t f, double t) const { return std::lerp(from[f], to[f], t); }
    double leastAt(double t) const { return at(nearestAt(t), t); }
};

} // namespace yokai
