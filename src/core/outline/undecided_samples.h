// One undecided cell: what its corners tell, or its samples. Private to the outline room.
//
// Unit: pixels, as in contour.h; places within the cell in samples, `parts_` to a side.
#pragma once

#include "outline/fronts.h"
#include "outline/undecided.h"

#include <optional>

namespace yokai {

class Undecided::Samples {
public:
    Samples(const Undecided& all, int i, int j);

    // `again`: the cell and one beside it do not agree on their common side.
    void take(Cell& cell, bool again);

private:
    // What the cell's corners, clockwise from above on the left, see of the fronts near it.
    struct View {
        std::array<std::array<double, CellSide::most>, 4> past; // how far each lies beyond the line
        std::size_t count;                                      // of fronts

        CellSide side(std::size_t k) const { return {past[k], past[(k + 1) % 4], count}; }
    };

    static constexpr int few = 2; // fronts: they leave no spot between them

    std::optional<View> viewed() const;
    std::optional<std::array<std::uint8_t, 4>> cornersTell(const View& view) const;

    void goRound(Cell& cell, const std::optional<View>& view) const;
    bool leavesNothingWithin(Cell& cell, const std::optional<View>& view) const;
    template <class Beyond, class Put> void between(int first, int last, Beyond at, Put put) const;
    void fill(std::vector<std::uint8_t>& out, int a0, int b0, int a1, int b1) const;

    // Whether the edge is far enough for its fronts to be nearly straight.
    bool seenFromFar() const { return std::abs(all_.offset_) > 2 * all_.lattice_.step; }
    // A distance's change along a side is uneven by what a circle bends, and by what the edge does.
    double unevenness() const { return 2 * spacing + all_.lattice_.step * all_.lattice_.step / (4 * std::abs(all_.offset_)); }
    Point corner(int k) const { return all_.lattice_.at(i_ + (k == 1 || k == 2), j_ + (k >> 1)); }
    std::size_t index(int a, int b) const { return std::size_t(b - 1) * std::size_t(n_ - 1) + std::size_t(a - 1); } // within the rim
    Point place(int a, int b) const;
    double beyond(int a, int b) const;

    const Undecided& all_;
    int i_, j_, n_;
    double h_;
    bool alone_ = true;            // only its own fronts are known
    std::array<Fronts, 4> fronts_; // of the cell, and of those to its right, below, and below to its right
};

} // namespace yokai
