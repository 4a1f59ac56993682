#include "outline/undecided.h"

#include "outline/fronts.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>
#include <optional>
#include <set>

namespace yokai {

std::pair<int, int> Undecided::placeOnRim(int k, int n)
{
    const int side = k / n, along = k % n;
    return side == 0 ? std::pair(along, 0) : side == 1 ? std::pair(n, along) : side == 2 ? std::pair(n - along, n) : std::pair(0, n - along);
}

// The samples of one cell.
class Undecided::Samples {
public:
    Samples(const Undecided& all, int i, int j) : all_(all), i_(i), j_(j), n_(all.parts_), h_(all.lattice_.step / n_) {}

    // `again`: the cell and one beside it do not agree on their common side.
    void take(Cell& cell, bool again)
    {
        const auto fronts = [this](int i, int j) { return Fronts(all_.edge_, all_.lattice_, std::abs(all_.offset_), i, j); };
        fronts_[0] = fronts(i_, j_);
        if (const Fronts& own = fronts_[0]; !again && std::abs(own.beyond()) > all_.lattice_.step * std::numbers::sqrt2 / 2) {
            const bool farther = own.beyond() > 0;
            cell.rim = {std::uint8_t(all_.offset_ > 0 ? !farther || !own.outside() : farther && !own.outside())};
            return;
        }
        if (fronts_[0].count() > 2)
            for (const Fronts::Front& front : fronts_[0])
                cell.fronts.push_back(front.vertex);
        const std::optional<View> view = again ? std::nullopt : viewed();
        if (const auto corners = view ? cornersTell(*view) : std::nullopt) {
            cell.corners = *corners;
            return;
        }
        // Cells beside each other see the same fronts, mostly. If not, of all samples of their common
        // side those are asked that the cell to the right and below sees.
        alone_ = !again;
        for (int k = 1; k < 4 && again; ++k)
            fronts_[std::size_t(k)] = fronts(i_ + (k & 1), j_ + (k >> 1));
        goRound(cell, view);
        // Fronts seen from far enough to be nearly straight leave no spot between them but where they
        // stand all round it: else what is not crossed at the rim is crossed nowhere, crossed at two
        // sides, the line runs through, and crossed more often, it runs along each front if what lies
        // between them hangs together.
        int crossings = 0, sides = 0;
        for (int k = 0; k < 4 * n_; ++k)
            if (cell.rim[std::size_t(k)] != cell.rim[std::size_t((k + 1) % (4 * n_))]) {
                ++crossings;
                sides |= 1 << (k / n_);
            }
        if (seenFromFar()) {
            const bool far = crossings == 0 && cell.rim[0] == all_.farther(); // nor does a front come between from nowhere
            const bool plain = fronts_[0].count() <= 2 || view || (again && viewed());
            const bool uncrossed = far || (plain && crossings == 0);
            if (uncrossed)
                cell.rim.resize(1);
            if (uncrossed || (plain && crossings == 2 && std::popcount(unsigned(sides)) == 2) || (plain && crossings > 2 && hangsTogether(cell)))
                return;
        }
        cell.inner.resize(std::size_t(n_ - 1) * std::size_t(n_ - 1));
        fill(cell.inner, 1, 1, n_, n_);
    }

private:
    // What the cell's corners, clockwise from above on the left, see of the fronts near it.
    struct View {
        std::array<std::array<double, CellSide::most>, 4> past; // how far each lies beyond the line
        std::size_t count;                                      // of fronts
    };

    // Whether the edge is far enough for its fronts to be nearly straight.
    bool seenFromFar() const { return std::abs(all_.offset_) > 2 * all_.lattice_.step; }
    // A distance's change along a side is uneven by what a circle bends, and by what the edge does.
    double unevenness() const { return 2 * spacing + all_.lattice_.step * all_.lattice_.step / (4 * std::abs(all_.offset_)); }

    // The samples of the rim.
    void goRound(Cell& cell, const std::optional<View>& view) const
    {
        cell.rim.resize(4 * std::size_t(n_));
        const auto put = [&](int k) -> std::uint8_t& { return cell.rim[std::size_t(k)]; };
        for (int corner = 0; corner < 4; ++corner) {
            const auto [a, b] = placeOnRim(corner * n_, n_);
            put(corner * n_) = beyond(a, b) <= 0;
        }
        for (int side = 0; side < 4; ++side) {
            const std::uint8_t from = put(side * n_), to = put((side + 1) % 4 * n_);
            if (view && CellSide{view->past[std::size_t(side)], view->past[std::size_t(side + 1) % 4], view->count}.asItsEnds(unevenness())) {
                int first = 0, last = n_; // of one kind, and of the other
                while (from != to && last - first > 1) {
                    const int middle = (first + last) / 2;
                    const auto [a, b] = placeOnRim(side * n_ + middle, n_);
                    ((beyond(a, b) <= 0) == from ? first : last) = middle;
                }
                std::fill_n(cell.rim.begin() + side * n_, last, from);
                std::fill_n(cell.rim.begin() + side * n_ + last, n_ - last, to);
                continue;
            }
            // Left to right or downwards, as the cell beyond does it.
            const auto onRim = [&](int k) { return (side * n_ + (side < 2 ? k : n_ - k)) % (4 * n_); };
            const auto at = [&](int k) {
                const auto [a, b] = placeOnRim(onRim(k), n_);
                return beyond(a, b);
            };
            between(0, n_, at, [&](int k) -> std::uint8_t& { return put(onRim(k)); });
        }
    }

    // Nothing where the fronts are not seen from far enough to be nearly straight, or where they may
    // have a spot between them that none has reached: only if they stand all round it. Of a
    // stretch that the lattice takes for one there may be two places as near, and from elsewhere in
    // the cell it is seen in another direction.
    std::optional<View> viewed() const
    {
        const Lattice& l = all_.lattice_;
        const double level = std::abs(all_.offset_);
        const std::span<const int> near = fronts_[0].near();
        if (!seenFromFar() || near.size() > CellSide::most)
            return std::nullopt;
        View out{{}, near.size()};
        std::array<int, CellSide::most> reaching; // the line within the cell
        std::size_t count = 0;
        for (std::size_t f = 0; f < near.size(); ++f) {
            double least = std::numeric_limits<double>::infinity();
            for (int k = 0; k < 4; ++k) {
                Nearest foot;
                walk(all_.edge_, l.at(i_ + (k == 1 || k == 2), j_ + (k >> 1)), near[f], foot);
                if (!oneStretch(all_.edge_, l.step, near[f], foot.vertex)) // as of the inside of a circle about as wide as the distance
                    return std::nullopt;
                const double past = out.past[std::size_t(k)][f] = std::sqrt(foot.squared) - level;
                least = std::min(least, past);
            }
            if (least < unevenness())
                reaching[count++] = near[f];
        }
        if (fronts_[0].count() > 2 && mayHaveSpot({reaching.data(), count}))
            return std::nullopt;
        return out;
    }

    // What lies between fronts all round is farthest from them where three are equally far.
    bool mayHaveSpot(std::span<const int> fronts) const
    {
        const Lattice& l = all_.lattice_;
        const Point middle = l.at(i_, j_) + Point{l.step / 2, l.step / 2};
        for (std::size_t f = 0; f < fronts.size(); ++f)
            for (std::size_t g = 0; g < f; ++g)
                for (std::size_t h = 0; h < g; ++h)
                    if (const auto far = equallyFar(all_.edge_, {fronts[f], fronts[g], fronts[h]}, middle, l.step);
                        far && far->away - std::abs(all_.offset_) > -spacing)
                        return true;
        return false;
    }

    // Which corners lie within the line, where the fronts leave nothing between them that the corners
    // do not show.
    std::optional<std::array<std::uint8_t, 4>> cornersTell(const View& view) const
    {
        const Lattice& l = all_.lattice_;
        const double level = std::abs(all_.offset_);
        if (view.count < 2)
            return std::nullopt;
        std::array<double, 4> least;
        for (int k = 0; k < 4; ++k) {
            const auto& here = view.past[std::size_t(k)];
            least[std::size_t(k)] = *std::min_element(here.begin(), here.begin() + std::ptrdiff_t(view.count));
            // Where the lattice missed the nearest place, its crossings are off too.
            const double known = std::sqrt(double(l.squared[l.index(i_ + (k == 1 || k == 2), j_ + (k >> 1))])) * l.step - level;
            constexpr double missed = 0.1; // of a step
            if (std::abs(known - least[std::size_t(k)]) > missed * l.step)
                return std::nullopt;
        }
        const auto nearer = [&](std::size_t k) { return least[k % 4] <= 0; };
        const bool saddle = nearer(0) == nearer(2) && nearer(1) == nearer(3) && nearer(0) != nearer(1);
        // A spot that little more than one corner lies in takes more points than the lattice has.
        constexpr double ampleSpot = 0.4; // of a cell's side, across its half
        const double farthest = *std::max_element(least.begin(), least.end());
        if (saddle || (farthest > 0 && farthest < ampleSpot * l.step))
            return std::nullopt;
        for (std::size_t k = 0; k < 4; ++k)
            if (!CellSide{view.past[k], view.past[(k + 1) % 4], view.count}.asItsEnds(unevenness()))
                return std::nullopt;
        std::array<std::uint8_t, 4> within;
        for (std::size_t k = 0; k < 4; ++k)
            within[k] = all_.offset_ > 0 ? nearer(k) || !fronts_[0].outside() : !nearer(k) && !fronts_[0].outside();
        return within;
    }

    std::size_t index(int a, int b) const { return std::size_t(b - 1) * std::size_t(n_ - 1) + std::size_t(a - 1); } // within the rim

    // How far sample (a, b) lies beyond the line, pixels; negative within it.
    double beyond(int a, int b) const
    {
        const bool toTheRight = !alone_ && a == n_, below = !alone_ && b == n_;
        return beyond(place(a, b), fronts_[std::size_t(2 * below + toTheRight)], {(toTheRight ? 0 : a) - n_ / 2.0, (below ? 0 : b) - n_ / 2.0});
    }

    // By whole numbers, so that neighbours mean the same place to the last bit.
    Point place(int a, int b) const
    {
        const Lattice& l = all_.lattice_;
        return l.origin + Point{l.step * (double(i_) * n_ + a) / n_, l.step * (double(j_) * n_ + b) / n_};
    }

    // `fromMiddle`: of the cell whose fronts they are, in samples.
    double beyond(Point p, const Fronts& fronts, Point fromMiddle) const
    {
        const double away = h_ * norm(fromMiddle);
        Nearest best;
        for (const Fronts::Front& front : fronts) {
            const double least = front.away - away - 1e-6;
            if (least > 0 && least * least > best.squared)
                break;
            walk(all_.edge_, p, front.vertex, best);
        }
        // Where the edge itself is far, all of the cell lies on one side of it.
        const bool inside = !seenFromFar() && best.vertex >= 0 ? within(all_.edge_, p, best) : !fronts.outside();
        return (inside ? -1 : 1) * std::sqrt(best.squared) - all_.offset_;
    }

    // Whether the parts of the rim that are farther from the edge than the line are joined within the
    // cell by what is so too: straight from the middle of each to that of the next.
    bool hangsTogether(const Cell& cell) const
    {
        const int round = 4 * n_;
        const auto at = [&](int k) { return cell.rim[std::size_t(k % round)]; };
        int start = 0; // of a part that is nearer
        while (at(start) != all_.farther() || at(start + 1) == all_.farther())
            ++start;
        std::optional<Point> before;
        for (int k = start + 1; k <= start + round; ++k) {
            if (at(k) != all_.farther())
                continue;
            const int begin = k;
            while (at(k + 1) == all_.farther() && k < start + round)
                ++k;
            const auto [a, b] = placeOnRim(((begin + k) / 2) % round, n_);
            const Point middle{double(a), double(b)};
            if (before && !clear(*before, middle))
                return false;
            before = middle;
        }
        return true;
    }

    // Whether all between two of the cell's samples lies farther from the edge than the line.
    bool clear(Point from, Point to) const
    {
        const Point middle = mix(from, to, 0.5);
        const Lattice& l = all_.lattice_;
        const Point p = l.origin + Point{l.step * (i_ + middle.x / n_), l.step * (j_ + middle.y / n_)};
        const double past = std::copysign(1.0, all_.offset_) * beyond(p, fronts_[0], middle - Point{n_ / 2.0, n_ / 2.0});
        const double half = distance(from, to) / 2;
        return past > 0 && (past >= half * h_ || half <= 1 || (clear(from, middle) && clear(middle, to)));
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
        const int right = std::max(a - a0, a1 - 1 - a), down = std::max(b - b0, b1 - 1 - b);
        if (d * d >= (right * right + down * down) * h_ * h_) { // of a single sample always
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
    bool alone_ = true;            // only its own fronts are known
    std::array<Fronts, 4> fronts_; // of the cell, and of those to its right, below, and below to its right
};

Undecided::Undecided(const Edge& edge, const Lattice& lattice, const Meetings& meetings, double offset, LevelBits& bits, const Work& work)
    : edge_(edge), lattice_(lattice), offset_(offset), parts_(int(std::ceil(lattice.step / spacing))), cells_(lattice.inside.size(), 0)
{
    decide(met(meetings, bits.near, work), work);
    correct(bits.within);
    for (const Cell& cell : decided_)
        if (!cell.fronts.empty() && (cell.crossed() || cell.told()))
            spots_[lattice_.index(cell.i, cell.j)] = cell.fronts;
    // Where the line does not reach, the lattice tells now.
    std::erase_if(decided_, [this](const Cell& cell) {
        if (!cell.crossed())
            cells_[word(cell.i, cell.j)] &= ~(std::uint64_t(1) << (cell.i & 63));
        return !cell.crossed();
    });
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
