// The cells of a lattice in which two fronts meet, found out where a line asks for them and
// remembered: where fronts meet does not depend on the line's distance, and the next line mostly
// runs through the same cells. Private to the outline room.
#pragma once

#include "outline/lattice.h"

#include <atomic>
#include <memory>

namespace yokai {

// Thread-safe.
class Meetings {
public:
    static constexpr double leastApart = 0.8; // radians between the directions of two fronts

    explicit Meetings(const Lattice& lattice);

    // Of the 64 cells of row j from column 64 * word on, those of `asked` in which fronts meet.
    std::uint64_t among(const Edge& edge, const Lattice& lattice, std::size_t word, int j, std::uint64_t asked) const;

    // Whether it is known that fronts meet in a cell; in none beyond the lattice.
    bool at(int i, int j) const
    {
        return i >= 0 && j >= 0 && i < 64 * columns_ && j < rows_ &&
               (words_[std::size_t(j) * std::size_t(columns_) + std::size_t(i >> 6)].meet.load(std::memory_order_relaxed) >> (i & 63) & 1);
    }

private:
    struct Word {
        std::atomic<std::uint64_t> known = 0, meet = 0; // one bit a cell
    };
    std::unique_ptr<Word[]> words_; // as Lattice::inside
    int columns_, rows_;            // of words
};

} // namespace yokai
