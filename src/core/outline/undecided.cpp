#include "outline/undecided.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yokai {

namespace {

// Whether two points of the edge are of one stretch of it: a few points apart, and what the
// nearest places of neighbouring samples move on by. Numbers alone do not tell, as contours
// follow one another; a contour's points are less than 2 px apart.
bool oneStretch(const Edge& edge, double step, int a, int b)
{
    const int apart = std::abs(a - b);
    return apart <= 4 + int(2 * step) && distance(edge.points[std::size_t(a)], edge.points[std::size_t(b)]) <= 2 * apart;
}

// The stretches of the edge that may be nearest in a cell: those of its corners and of the
// samples round them.
class Fronts {
public:
    Fronts() = default;
    Fronts(const Edge& edge, const Lattice& lattice, int i, int j)
    {
        for (int b = std::max(0, j - 1); b <= std::min(lattice.height - 1, j + 2); ++b)
            for (int a = std::max(0, i - 1); a <= std::min(lattice.width - 1, i + 2); ++a) {
                const int v = lattice.vertex[lattice.index(a, b)] - 1;
                if (v >= 0 && std::none_of(begin(), end(), [&](int k) { return oneStretch(edge, lattice.step, k, v); }))
                    starts_[std::size_t(count_++)] = v;
            }
    }
    const int* begin() const { return starts_.data(); }
    const int* end() const { return starts_.data() + count_; }

private:
    std::array<int, 16> starts_{};
    int count_ = 0;
};

} // namespace

// The samples of one cell. What a sample says depends on nothing but its place, so that
// cells agree on the side they share.
class Undecided::Samples {
public:
    Samples(const Undecided& all, int i, int j) : all_(all), i_(i), j_(j), n_(all.parts_), h_(all.lattice_.step / n_)
    {
        for (int b = 0; b < 2; ++b)
            for (int a = 0; a < 2; ++a)
                fronts_[std::size_t(2 * b + a)] = Fronts(all.edge_, all.lattice_, i + a, j + b);
    }

    std::vector<std::uint8_t> taken() const
    {
        std::vector<std::uint8_t> out(std::size_t(n_ + 1) * std::size_t(n_ + 1));
        for (const int b : {0, n_})
            for (const int a : {0, n_})
                out[index(a, b)] = beyond(a, b) <= 0;
        for (const int c : {0, n_}) {
            between(0, n_, [&](int k) { return beyond(k, c); }, [&](int k) -> std::uint8_t& { return out[index(k, c)]; });
            between(0, n_, [&](int k) { return beyond(c, k); }, [&](int k) -> std::uint8_t& { return out[index(c, k)]; });
        }
        fill(out, 1, 1, n_, n_);
        return out;
    }

private:
    std::size_t index(int a, int b) const { return std::size_t(b) * std::size_t(n_ + 1) + std::size_t(a); }

    // How far sample (a, b) lies beyond the line, pixels; negative within it.
    double beyond(int a, int b) const
    {
        const Point p = all_.lattice_.at(i_, j_) + Point{a * h_, b * h_};
        Nearest best;
        for (const int start : fronts_[std::size_t(2 * (b == n_) + (a == n_))])
            walk(all_.edge_, p, start, best);
        const bool inside = best.vertex >= 0 ? within(all_.edge_, p, best) : all_.lattice_.isInside(i_ + (a == n_), j_ + (b == n_));
        return (inside ? -1 : 1) * std::sqrt(best.squared) - all_.offset_;
    }

    // No distance changes faster than the place: one sample tells for all that are nearer to
    // it than it is to the line.
    template <class Beyond, class Put> void between(int first, int last, Beyond at, Put put) const
    {
        if (last - first < 2)
            return;
        const int middle = (first + last) / 2;
        const double d = at(middle);
        if (std::abs(d) > (last - first) / 2.0 * h_) {
            for (int k = first + 1; k < last; ++k)
                put(k) = d <= 0;
            return;
        }
        put(middle) = d <= 0;
        between(first, middle, at, put);
        between(middle, last, at, put);
    }

    void fill(std::vector<std::uint8_t>& out, int a0, int b0, int a1, int b1) const
    {
        if (a0 >= a1 || b0 >= b1)
            return;
        const int a = (a0 + a1) / 2, b = (b0 + b1) / 2;
        const double d = beyond(a, b);
        if (std::abs(d) >= std::hypot(std::max(a - a0, a1 - 1 - a), std::max(b - b0, b1 - 1 - b)) * h_) { // of a single sample always
            for (int k = b0; k < b1; ++k)
                std::fill(out.begin() + std::ptrdiff_t(index(a0, k)), out.begin() + std::ptrdiff_t(index(a1, k)), std::uint8_t(d <= 0));
            return;
        }
        fill(out, a0, b0, a, b);
        fill(out, a, b0, a1, b);
        fill(out, a0, b, a, b1);
        fill(out, a, b, a1, b1);
    }

    const Undecided& all_;
    int i_, j_, n_;
    double h_;
    std::array<Fronts, 4> fronts_; // of the cell, and of those to its right, below, and below to its right
};

Undecided::Undecided(const Edge& edge, const Lattice& lattice, double offset, std::vector<std::uint64_t>& within, const Work& work)
    : edge_(edge), lattice_(lattice), offset_(offset), parts_(std::max(1, int(std::lround(lattice.step / spacing)))), cells_(lattice.inside.size(), 0)
{
    decide(met(work), work);
    correct(within);
}

// The cells near the line in which two fronts meet.
std::vector<std::pair<int, int>> Undecided::met(const Work& work) const
{
    const Lattice& l = lattice_;
    // No place in a cell is farther than 0.71 steps from its nearest corner, and distances are
    // to points of the edge, not to what lies between them.
    constexpr double near = 0.8;
    const double level = std::abs(offset_) / l.step;
    const float least = float(level > near ? (level - near) * (level - near) : 0), most = float((level + near) * (level + near));
    const float alike = float(std::cos(0.8)); // radians: fronts in directions farther apart than that may close on each other

    const auto apart = [&](int i, int j, int va, int a, int vb, int b) { // corners a and b, bit 0 to the right and bit 1 below
        if (va == 0 || vb == 0 || oneStretch(edge_, l.step, va - 1, vb - 1))
            return false;
        const Point pa = edge_.points[std::size_t(va) - 1], pb = edge_.points[std::size_t(vb) - 1];
        const Point na = l.at(i + (a & 1), j + (a >> 1)) - pa, nb = l.at(i + (b & 1), j + (b >> 1)) - pb;
        return dot(na, nb) < alike * std::sqrt(dot(na, na) * dot(nb, nb));
    };
    std::vector<std::vector<std::pair<int, int>>> rows{std::size_t(l.height)};
    parallelSlices(l.height - 1, 32, [&](int from, int to) {
        std::vector<std::uint8_t> close(std::size_t(l.width) + 1);
        for (int j = from; j < to; ++j) {
            work.check();
            const auto look = [&](int i) {
                const int* above = l.vertex.get() + l.index(i, j);
                const int* below = l.vertex.get() + l.index(i, j + 1);
                const int v[] = {above[0], above[1], below[0], below[1]};
                for (int a = 0; a < 4; ++a)
                    for (int b = a + 1; b < 4; ++b)
                        if (apart(i, j, v[a], a, v[b], b))
                            return true;
                return false;
            };
            // Cells of which a corner in this row or the next lies near the line.
            for (const int row : {j, j + 1})
                for (const auto [begin, end] : l.band(row)) {
                    const float* squared = l.squared.get() + l.index(0, row);
                    for (int i = begin; i < end; ++i)
                        close[std::size_t(i)] |= std::uint8_t(squared[i] >= least) & std::uint8_t(squared[i] <= most);
                }
            const int last = j / Lattice::tile == (j + 1) / Lattice::tile ? j : j + 1; // rows of one tile share their stretches
            for (int row = j; row <= last; ++row)
                for (const auto [begin, end] : l.band(row))
                    for (int i = std::max(0, begin - 1); i < end; ++i)
                        if ((close[std::size_t(i)] | close[std::size_t(i) + 1]) && i + 1 < l.width && look(i))
                            rows[std::size_t(j)].push_back({i, j});
            for (const int row : {j, j + 1})
                for (const auto [begin, end] : l.band(row))
                    std::fill(close.begin() + begin, close.begin() + end, std::uint8_t(0));
        }
    });
    std::vector<std::pair<int, int>> out;
    for (const auto& row : rows)
        out.insert(out.end(), row.begin(), row.end());
    return out;
}

// Samples the cells found, and those into which the line runs on from them otherwise than the
// lattice would have it: their common side is crossed more than once.
void Undecided::decide(std::vector<std::pair<int, int>> found, const Work& work)
{
    while (!found.empty()) {
        std::vector<Cell> cells;
        for (const auto& [i, j] : found)
            if (!has(i, j)) {
                cells_[word(i, j)] |= std::uint64_t(1) << (i & 63);
                cells.push_back({i, j, {}});
            }
        found.clear();
        constexpr int slice = 8;
        parallelSlices(int(cells.size()), slice, [&](int begin, int end) {
            for (int k = begin; k < end; ++k) {
                work.check();
                Cell& cell = cells[std::size_t(k)];
                cell.samples = Samples(*this, cell.i, cell.j).taken();
            }
        });
        const int n = parts_, across = n + 1;
        for (const Cell& cell : cells) {
            const auto crossings = [&](int start, int stride) {
                int count = 0;
                for (int k = 0; k < n; ++k)
                    count += cell.samples[std::size_t(start + k * stride)] != cell.samples[std::size_t(start + (k + 1) * stride)];
                return count;
            };
            const auto runsOn = [&](int count, int i, int j) {
                if (count > 1 && i >= 0 && j >= 0 && i + 1 < lattice_.width && j + 1 < lattice_.height && !has(i, j))
                    found.push_back({i, j});
            };
            runsOn(crossings(0, 1), cell.i, cell.j - 1);
            runsOn(crossings(n * across, 1), cell.i, cell.j + 1);
            runsOn(crossings(0, across), cell.i - 1, cell.j);
            runsOn(crossings(n, across), cell.i + 1, cell.j);
        }
        decided_.insert(decided_.end(), std::make_move_iterator(cells.begin()), std::make_move_iterator(cells.end()));
    }
    std::sort(decided_.begin(), decided_.end(), [](const Cell& a, const Cell& b) { return a.j != b.j ? a.j < b.j : a.i < b.i; });
}

void Undecided::correct(std::vector<std::uint64_t>& within) const
{
    const std::size_t n = std::size_t(parts_);
    for (const Cell& cell : decided_)
        for (int corner = 0; corner < 4; ++corner) {
            const int a = corner & 1, b = corner >> 1;
            const std::uint64_t bit = std::uint64_t(1) << ((cell.i + a) & 63);
            std::uint64_t& to = within[word(cell.i + a, cell.j + b)];
            to = cell.samples[(std::size_t(b) * (n + 1) + std::size_t(a)) * n] ? to | bit : to & ~bit;
        }
}

// Marching squares within the cells, one after another, row after row.
class Undecided::Linker {
public:
    Linker(const Undecided& all, march::Loops& loops) : all_(all), loops_(loops), n_(all.parts_), sides_(all.decided_.size()) {}

    void run(std::size_t at, const march::Sides& coarse)
    {
        const Cell& cell = all_.decided_[at];
        Crossed& own = sides_[at];
        const auto neighbour = [&](int i, int j) { return all_.has(i, j) ? all_.find(i, j) : nullptr; };
        const auto crossed = [&](const Cell* other) -> Crossed& { return sides_[std::size_t(other - all_.decided_.data())]; };
        const Cell* up = neighbour(cell.i, cell.j - 1);
        const Cell* left = neighbour(cell.i - 1, cell.j);
        // The crossings of a row of samples, and of the one below it.
        std::vector<int> above = up ? crossed(up).bottom : given(cell, 0, 1, coarse.top), below;
        const std::vector<int> west = left ? crossed(left).right : given(cell, 0, n_ + 1, coarse.left);
        const std::vector<int> east = neighbour(cell.i + 1, cell.j) ? made(cell, n_, 0, 0, 1) : given(cell, n_, n_ + 1, coarse.right);
        for (int b = 0; b < n_; ++b) {
            if (b + 1 < n_)
                below = made(cell, 0, b + 1, 1, 0);
            else
                below = neighbour(cell.i, cell.j + 1) ? made(cell, 0, n_, 1, 0) : given(cell, n_ * (n_ + 1), 1, coarse.bottom);
            int before = west[std::size_t(b)];
            for (int a = 0; a < n_; ++a) {
                const int mask = sample(cell, a, b) | sample(cell, a + 1, b) << 1 | sample(cell, a, b + 1) << 2 | sample(cell, a + 1, b + 1) << 3;
                const int after = a + 1 == n_                                              ? east[std::size_t(b)]
                                  : sample(cell, a + 1, b) != sample(cell, a + 1, b + 1) ? crossing(cell, a + 1, b + 0.5)
                                                                                         : -1;
                // Where even the fine samples cannot tell, parts stay apart.
                march::linkCell(loops_, mask, {above[std::size_t(a)], after, below[std::size_t(a)], before}, [] { return false; });
                before = after;
            }
            std::swap(above, below);
        }
        own.bottom = std::move(above);
        own.right = east;
    }

private:
    struct Crossed {
        std::vector<int> right, bottom;
    };

    int sample(const Cell& cell, int a, int b) const { return cell.samples[std::size_t(b) * std::size_t(n_ + 1) + std::size_t(a)]; }

    int crossing(const Cell& cell, double a, double b)
    {
        loops_.points.push_back({cell.i + a / n_, cell.j + b / n_});
        loops_.next.push_back(-1);
        loops_.rowCrossings.push_back(int(loops_.points.size()) - 1);
        return int(loops_.points.size()) - 1;
    }

    // New crossings along a row or a column of samples from (a, b) on.
    std::vector<int> made(const Cell& cell, int a, int b, int da, int db)
    {
        std::vector<int> out(std::size_t(n_), -1);
        for (int k = 0; k < n_; ++k, a += da, b += db)
            if (sample(cell, a, b) != sample(cell, a + da, b + db))
                out[std::size_t(k)] = crossing(cell, a + da / 2.0, b + db / 2.0);
        return out;
    }

    // The lattice's own crossing of a side, at its place among the samples of that side.
    std::vector<int> given(const Cell& cell, int start, int stride, int id) const
    {
        std::vector<int> out(std::size_t(n_), -1);
        for (int k = 0; k < n_; ++k)
            if (cell.samples[std::size_t(start + k * stride)] != cell.samples[std::size_t(start + (k + 1) * stride)])
                out[std::size_t(k)] = id;
        return out;
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

const Undecided::Cell* Undecided::find(int i, int j) const
{
    const auto at = std::lower_bound(decided_.begin(), decided_.end(), std::pair(j, i), [](const Cell& c, std::pair<int, int> k) { return std::pair(c.j, c.i) < k; });
    return &*at;
}

} // namespace yokai
