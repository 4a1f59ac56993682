// What the lattice cannot tell: cells where two fronts meet, in which the level line may run
// otherwise than their corners say, as through a gap narrower than the lattice's step.
// They are sampled finely, each sample against the edge itself, but for those whose corners
// tell after all. Private to the outline room.
//
// Two fronts meet in a cell where its corners have their nearest places of the edge in clearly
// different directions. Where they all lie in like directions the distance grows that way
// through the whole cell, so the line crosses it once and the corners tell how.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "outline/level.h"
#include "outline/march.h"
#include "outline/meetings.h"

#include <array>
#include <utility>

namespace yokai {

// Of the lattice's samples, one bit each as Lattice::inside.
struct LevelBits {
    std::vector<std::uint64_t> within; // those within the line
    std::vector<std::uint64_t> near;   // those near it: in no cell without one does it run
};

class Undecided {
public:
    // Pixels between samples at most. Gaps and necks of more than 1.42 times this are told apart:
    // 0.05 mm at 300 ppi.
    static constexpr double spacing = 0.41;

    // The corners of undecided cells are set anew in `bits`, exactly.
    Undecided(const Edge& edge, const Lattice& lattice, const Meetings& meetings, double offset, LevelBits& bits, const Work& work);

    bool has(int i, int j) const { return i >= 0 && j >= 0 && i < lattice_.width && j < lattice_.height && (cells_[word(i, j)] >> (i & 63) & 1); }

    // Joins the line's way through the undecided cells to the loops round them. `left`: the
    // crossed cells that march::trace left open, row after row.
    void link(march::Loops& loops, const std::vector<march::OpenCell>& left) const;

    const Spots& spots() const { return spots_; }

private:
    struct Place {
        int i = 0, j = 0;
        friend bool operator<(const Place& a, const Place& b) { return a.j != b.j ? a.j < b.j : a.i < b.i; } // row after row
    };
    // A cell's own samples.
    struct Cell : Place {
        // Clockwise from the corner above on the left; one for all of a cell that the line does not
        // reach; none where the corners tell after all.
        std::vector<std::uint8_t> rim;
        std::array<std::uint8_t, 4> corners{}; // clockwise, where they tell
        // Those within the rim, row after row; none where the rim alone tells: the line goes in and out once.
        std::vector<std::uint8_t> inner;
        std::vector<int> fronts; // where three or more meet: a point of the edge on each
        bool crossed() const { return rim.size() > 1; }
        bool told() const { return rim.empty(); }
    };
    class Samples;
    class Linker;
    // Where the k-th sample of a cell's rim lies among its own, n to a side.
    static std::pair<int, int> placeOnRim(int k, int n);
    std::size_t word(int i, int j) const { return std::size_t(j) * std::size_t(lattice_.words) + std::size_t(i >> 6); }
    std::vector<Place> met(const Meetings& meetings, const std::vector<std::uint64_t>& near, const Work& work) const;
    void decide(std::vector<Place> found, const Work& work);
    void correct(std::vector<std::uint64_t>& within) const;
    void noteSpots();
    const Cell* find(Place place) const; // null where the lattice tells
    Cell* find(Place place) { return const_cast<Cell*>(std::as_const(*this).find(place)); }
    // What a sample says that is farther from the edge than the line.
    std::uint8_t farther() const { return offset_ < 0; }
    int crossingsOf(const Cell& cell, int side) const;
    bool agree(const Cell& cell, const Cell& beyond, int side) const;

    const Edge& edge_;
    const Lattice& lattice_;
    double offset_;
    int parts_;                        // of a cell's side
    std::vector<std::uint64_t> cells_; // one bit each, as Lattice::inside
    std::vector<Cell> decided_;        // row after row
    Spots spots_;
};

} // namespace yokai
