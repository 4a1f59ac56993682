#include "outline/meetings.h"

#include "outline/fronts.h"

#include <bit>
#include <cmath>

namespace yokai {

Meetings::Meetings(const Lattice& lattice) : words_(std::make_unique<Word[]>(lattice.inside.size())), columns_(lattice.words), rows_(lattice.height) {}

std::uint64_t Meetings::among(const Edge& edge, const Lattice& lattice, std::size_t word, int j, std::uint64_t asked) const
{
    Word& cells = words_[std::size_t(j) * std::size_t(lattice.words) + word];
    // Whoever asks at the same time finds the same: a bit known is a bit that is there.
    const std::uint64_t unknown = asked & ~cells.known.load(std::memory_order_acquire);
    if (unknown) {
        const double alike = std::cos(leastApart);
        std::uint64_t meet = 0;
        for (std::uint64_t left = unknown; left; left &= left - 1) {
            const int bit = std::countr_zero(left), i = int(word) * 64 + bit;
            if (i + 1 < lattice.width && frontsMeet(edge, lattice, alike, i, j))
                meet |= std::uint64_t(1) << bit;
        }
        cells.meet.fetch_or(meet, std::memory_order_relaxed);
        cells.known.fetch_or(unknown, std::memory_order_release);
    }
    return asked & cells.meet.load(std::memory_order_relaxed);
}

} // namespace yokai
