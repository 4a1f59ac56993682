#include "outline/undecided.h"

#include "outline/undecided_samples.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>
#include <set>

namespace yokai {

std::pair<int, int> Undecided::placeOnRim(int k, int n)
{
    const int side = k / n, along = k % n;
    return side == 0 ? std::pair(along, 0) : side == 1 ? std::pair(n, along) : side == 2 ? std::pair(n - along, n) : std::pair(0, n - along);
}

Undecided::Undecided(const Edge& edge, const Lattice& lattice, const Meetings& meetings, double offset, LevelBits& bits, const Work& work)
    : edge_(edge), lattice_(lattice), offset_(offset), parts_(int(std::ceil(lattice.step / spacing))), cells_(lattice.inside.size(), 0)
{
    decide(met(meetings, bits.near, work), work);
    correct(bits.within);
    noteSpots();
    // Where the line does not reach, the lattice tells now.
    std::erase_if(decided_, [this](const Cell& cell) {
        if (!cell.crossed())
            cells_[word(cell.i, cell.j)] &= ~(std::uint64_t(1) << (cell.i & 63));
        return !cell.crossed();
    });
}

// In the cells beside it, too: a corner may be sought from there.
void Undecided::noteSpots()
{
    for (const Cell& cell : decided_)
        if (!cell.fronts.empty() && (cell.crossed() || cell.told()))
            for (int j = std::max(0, cell.j - 1); j <= std::min(lattice_.height - 1, cell.j + 1); ++j)
                for (int i = std::max(0, cell.i - 1); i <= std::min(lattice_.width - 1, cell.i + 1); ++i) {
                    std::vector<int>& spot = spots_[lattice_.index(i, j)];
                    for (const int front : cell.fronts)
                        if (std::none_of(spot.begin(), spot.end(), [&](int other) { return oneStretch(edge_, lattice_.step, front, other); }))
                            spot.push_back(front);
                }
}

// The cells near the line in which two fronts meet.
std::vector<Undecided::Place> Undecided::met(const Meetings& meetings, const std::vector<std::uint64_t>& near, const Work& work) const
{
    const Lattice& l = lattice_;
    // Fronts that close on each other come from opposite sides, and those round a spot that none
    // has reached yet are, of three, at least 120 degrees apart at the widest. From a corner of the
    // cell each may look turned by as much as half the cell's diagonal is wide at that distance, and
    // by what the lattice knows its nearest place too coarsely.
    constexpr double roundASpot = 2 * std::numbers::pi / 3, turned = std::numbers::sqrt2 / 2 + 0.25;
    const double level = std::abs(offset_) / l.step;
    const double alike = std::cos(std::max(Meetings::leastApart, roundASpot - 2 * turned / std::max(level, 1e-9)));
    std::vector<std::vector<Place>> rows{std::size_t(l.height)};
    parallelSlices(l.height - 1, 32, [&](int from, int to) {
        for (int j = from; j < to; ++j) {
            work.check();
            const std::span upper(near.data() + word(0, j), std::size_t(l.words)), lower(near.data() + word(0, j + 1), std::size_t(l.words));
            for (std::size_t w = 0; w < upper.size(); ++w)
                if (const std::uint64_t asked = upper[w] | lower[w] | march::nextBits(upper, w) | march::nextBits(lower, w))
                    for (std::uint64_t cells = meetings.among(edge_, l, w, j, asked); cells; cells &= cells - 1)
                        if (const int i = int(w) * 64 + std::countr_zero(cells); frontsMeet(edge_, l, alike, i, j))
                            rows[std::size_t(j)].push_back({i, j});
        }
    });
    std::vector<Place> out;
    for (const auto& row : rows)
        out.insert(out.end(), row.begin(), row.end());
    return out;
}

// Samples the cells found, and again those that do not agree with one beside them, or into which
// the line runs on otherwise than the lattice would have it: their common side is crossed more than once.
void Undecided::decide(std::vector<Place> found, const Work& work)
{
    std::set<Place> twice;
    const auto askAgain = [&](Place place) {
        const bool within = place.i >= 0 && place.j >= 0 && place.i + 1 < lattice_.width && place.j + 1 < lattice_.height;
        if (within && twice.insert(place).second)
            found.push_back(place);
    };
    for (bool again = false; !found.empty(); again = true) {
        std::sort(found.begin(), found.end());
        std::vector<Cell> cells(found.size());
        constexpr int slice = 8;
        parallelSlices(int(cells.size()), slice, [&](int begin, int end) {
            for (int k = begin; k < end; ++k) {
                work.check();
                Cell& cell = cells[std::size_t(k)];
                static_cast<Place&>(cell) = found[std::size_t(k)];
                Samples(*this, cell.i, cell.j).take(cell, again);
            }
        });
        for (Cell& cell : cells)
            if (Cell* before = again ? find(cell) : nullptr)
                *before = std::move(cell);
            else
                decided_.insert(again ? std::upper_bound(decided_.begin(), decided_.end(), cell) : decided_.end(), std::move(cell));
        for (const auto [i, j] : found)
            cells_[word(i, j)] |= std::uint64_t(1) << (i & 63);
        const std::vector<Place> taken = std::move(found);
        found.clear();
        for (const Place& place : taken)
            for (int side = 0; side < 4; ++side) {
                const Cell& cell = *find(place);
                if (!cell.crossed())
                    break;
                constexpr int across[] = {0, 1, 0, -1}, down[] = {-1, 0, 1, 0};
                const Place next{place.i + across[side], place.j + down[side]};
                const Cell* beyond = find(next);
                if (beyond && beyond->crossed() ? agree(cell, *beyond, side) : crossingsOf(cell, side) <= (beyond && !beyond->told() ? 0 : 1))
                    continue;
                askAgain(next);
                if (beyond && beyond->crossed())
                    askAgain(place);
            }
    }
}

// Whether a cell and the one beyond a side of it have the same samples there.
bool Undecided::agree(const Cell& cell, const Cell& beyond, int side) const
{
    const auto at = [&](const Cell& c, int k) { return c.rim[std::size_t(k % (4 * parts_))]; };
    const int own = side * parts_, other = ((side + 2) % 4 + 1) * parts_; // the one clockwise, the other back
    for (int k = 0; k <= parts_; ++k)
        if (at(cell, own + k) != at(beyond, other - k))
            return false;
    return true;
}

int Undecided::crossingsOf(const Cell& cell, int side) const
{
    int crossings = 0;
    for (int k = side * parts_; k < (side + 1) * parts_; ++k)
        crossings += cell.rim[std::size_t(k)] != cell.rim[std::size_t((k + 1) % (4 * parts_))];
    return crossings;
}

void Undecided::correct(std::vector<std::uint64_t>& within) const
{
    // What was sampled at the corners themselves has the last word.
    for (const bool crossed : {false, true})
        for (const Cell& cell : decided_)
            for (int corner = 0; corner < 4 && cell.crossed() == crossed; ++corner) { // clockwise
                const int i = cell.i + (corner == 1 || corner == 2), j = cell.j + (corner >> 1);
                const std::uint64_t bit = std::uint64_t(1) << (i & 63);
                std::uint64_t& to = within[word(i, j)];
                const std::uint8_t is = cell.told() ? cell.corners[std::size_t(corner)] : cell.rim[crossed ? std::size_t(corner * parts_) : 0];
                to = is ? to | bit : to & ~bit;
            }
}

const Undecided::Cell* Undecided::find(Place place) const
{
    if (!has(place.i, place.j))
        return nullptr;
    const auto at = std::lower_bound(decided_.begin(), decided_.end(), place);
    return at != decided_.end() && at->i == place.i && at->j == place.j ? &*at : nullptr;
}

} // namespace yokai
