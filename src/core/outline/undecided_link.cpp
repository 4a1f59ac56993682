#include "outline/undecided.h"

#include <cstring>

namespace yokai {

// Marching squares within the cells, one after another, row after row.
class Undecided::Linker {
public:
    Linker(const Undecided& all, march::Loops& loops) : all_(all), loops_(loops), n_(all.parts_), sides_(all.decided_.size()) {}

    void run(std::size_t at, const march::Sides& coarse)
    {
        const Cell& cell = all_.decided_[at];
        // A side has its crossings from whichever of its cells came first, or from the lattice.
        const Crossed* up = earlier(cell.i, cell.j - 1);
        const Crossed* left = earlier(cell.i - 1, cell.j);
        Crossed& own = sides_[at];
        const std::vector<int> north = up ? up->bottom : given(cell, 0, coarse.top);
        const std::vector<int> west = left ? left->right : given(cell, 3, coarse.left);
        own.right = all_.has(cell.i + 1, cell.j) ? made(cell, 1) : given(cell, 1, coarse.right);
        own.bottom = all_.has(cell.i, cell.j + 1) ? made(cell, 2) : given(cell, 2, coarse.bottom);
        if (cell.inner.empty())
            passThrough(cell, north, own, west);
        else
            throughInner(cell, north, own, west);
    }

private:
    // The crossings of a side, one for each step between two samples, left to right or downwards; -1: none.
    struct Crossed {
        std::vector<int> right, bottom;
    };

    const Crossed* earlier(int i, int j) const
    {
        const Cell* cell = all_.find({i, j});
        return cell ? &sides_[std::size_t(cell - all_.decided_.data())] : nullptr;
    }

    int rim(const Cell& cell, int k) const { return cell.rim[std::size_t(k % (4 * n_))]; }

    // In at one crossing of the rim and out at the other: the line leaves its inside on the right.
    void passThrough(const Cell& cell, const std::vector<int>& north, const Crossed& own, const std::vector<int>& west)
    {
        int from = -1, to = -1;
        for (int k = 0; k < 4 * n_; ++k) {
            if (rim(cell, k) == rim(cell, k + 1))
                continue;
            const int along = k % n_, back = n_ - 1 - along;
            const int id = k < n_       ? north[std::size_t(along)]
                           : k < 2 * n_ ? own.right[std::size_t(along)]
                           : k < 3 * n_ ? own.bottom[std::size_t(back)]
                                        : west[std::size_t(back)];
            (rim(cell, k) ? from : to) = id;
        }
        if (from >= 0 && to >= 0)
            loops_.next[std::size_t(from)] = to;
    }

    void throughInner(const Cell& cell, const std::vector<int>& north, const Crossed& own, const std::vector<int>& west)
    {
        std::vector<std::uint8_t> all(std::size_t(n_ + 1) * std::size_t(n_ + 1)); // row after row
        const auto sample = [&](int a, int b) -> std::uint8_t& { return all[std::size_t(b) * std::size_t(n_ + 1) + std::size_t(a)]; };
        for (int k = 0; k < 4 * n_; ++k) {
            const auto [a, b] = placeOnRim(k, n_);
            sample(a, b) = cell.rim[std::size_t(k)];
        }
        for (int b = 1; b < n_; ++b)
            std::copy_n(cell.inner.begin() + std::ptrdiff_t(b - 1) * (n_ - 1), n_ - 1, &sample(1, b));
        std::vector<int> above = north, below(std::size_t(n_), -1); // the crossings of a row of samples, and of the next
        for (int b = 0; b < n_; ++b) {
            if (std::memcmp(&sample(0, b), &sample(1, b), 2 * std::size_t(n_) + 1) == 0) { // this row and the next are all of one side
                std::fill(above.begin(), above.end(), -1);
                continue;
            }
            for (int a = 0; a < n_; ++a)
                below[std::size_t(a)] = b + 1 == n_                                ? own.bottom[std::size_t(a)]
                                        : sample(a, b + 1) != sample(a + 1, b + 1) ? crossing(cell, a + 0.5, b + 1)
                                                                                   : -1;
            int before = west[std::size_t(b)];
            for (int a = 0; a < n_; ++a) {
                const int after = a + 1 == n_ ? own.right[std::size_t(b)] : sample(a + 1, b) != sample(a + 1, b + 1) ? crossing(cell, a + 1, b + 0.5) : -1;
                const int mask = sample(a, b) | sample(a + 1, b) << 1 | sample(a, b + 1) << 2 | sample(a + 1, b + 1) << 3;
                // Where even the fine samples cannot tell, parts stay apart.
                if (mask != 0 && mask != 15)
                    march::linkCell(loops_, mask, {above[std::size_t(a)], after, below[std::size_t(a)], before}, [] { return false; });
                before = after;
            }
            std::swap(above, below);
        }
    }

    int crossing(const Cell& cell, double a, double b)
    {
        loops_.points.push_back({cell.i + a / n_, cell.j + b / n_});
        loops_.next.push_back(-1);
        loops_.rowCrossings.push_back(int(loops_.points.size()) - 1);
        return int(loops_.points.size()) - 1;
    }

    // What put(k) gives for each step of a side that is crossed, left to right or downwards.
    template <class Put> std::vector<int> along(const Cell& cell, int side, Put put) const
    {
        std::vector<int> out(std::size_t(n_), -1);
        for (int k = side * n_; k < (side + 1) * n_; ++k)
            if (rim(cell, k) != rim(cell, k + 1))
                out[std::size_t(side < 2 ? k % n_ : n_ - 1 - k % n_)] = put(k);
        return out;
    }
    std::vector<int> made(const Cell& cell, int side)
    {
        return along(cell, side, [&](int k) {
            const auto [a, b] = placeOnRim(k, n_);
            const auto [c, d] = placeOnRim((k + 1) % (4 * n_), n_);
            return crossing(cell, (a + c) / 2.0, (b + d) / 2.0);
        });
    }
    // The lattice's own crossing, of which there is one at most.
    std::vector<int> given(const Cell& cell, int side, int id) const
    {
        return along(cell, side, [id](int) { return id; });
    }

    const Undecided& all_;
    march::Loops& loops_;
    int n_;
    std::vector<Crossed> sides_;
};

void Undecided::link(march::Loops& loops, const std::vector<march::OpenCell>& left) const
{
    Linker linker(*this, loops);
    std::size_t next = 0;
    for (std::size_t k = 0; k < decided_.size(); ++k) {
        // Of cells whose corners all lie on one side the lattice had nothing to leave.
        const bool met = next < left.size() && left[next].i == decided_[k].i && left[next].j == decided_[k].j;
        linker.run(k, met ? left[next++].sides : march::Sides{-1, -1, -1, -1});
    }
}

} // namespace yokai
