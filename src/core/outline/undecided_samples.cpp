#include "outline/undecided_samples.h"

#include <algorithm>
#include <bit>
#include <numbers>

namespace yokai {

Undecided::Samples::Samples(const Undecided& all, int i, int j) : all_(all), i_(i), j_(j), n_(all.parts_), h_(all.lattice_.step / n_) {}

void Undecided::Samples::take(Cell& cell, bool again)
{
    const auto fronts = [this](int i, int j) { return Fronts(all_.edge_, all_.lattice_, std::abs(all_.offset_), i, j); };
    fronts_[0] = fronts(i_, j_);
    if (const Fronts& own = fronts_[0]; !again && std::abs(own.beyond()) > all_.lattice_.step * std::numbers::sqrt2 / 2) {
        const bool farther = own.beyond() > 0;
        cell.rim = {std::uint8_t(all_.offset_ > 0 ? !farther || !own.outside() : farther && !own.outside())};
        return;
    }
    if (fronts_[0].count() > few)
        for (const Fronts::Front& front : fronts_[0])
            cell.fronts.push_back(front.vertex);
    const std::optional<View> view = viewed();
    if (const auto corners = view && !again ? cornersTell(*view) : std::nullopt) {
        cell.corners = *corners;
        return;
    }
    // Cells beside each other see the same few fronts, mostly. If not, or where there are many, of all
    // samples of their common side those are asked that the cell to the right and below sees.
    alone_ = !again && fronts_[0].count() <= few;
    for (int k = 1; k < 4 && !alone_; ++k)
        fronts_[std::size_t(k)] = fronts(i_ + (k & 1), j_ + (k >> 1));
    goRound(cell, alone_ ? view : std::nullopt);
    if (leavesNothingWithin(cell, view))
        return;
    cell.inner.resize(std::size_t(n_ - 1) * std::size_t(n_ - 1));
    fill(cell.inner, 1, 1, n_, n_);
}

// Nothing where the fronts are not seen from far enough to be nearly straight, or where they may
// have a spot between them that none has reached: only if they stand all round it. Of a
// stretch that the lattice takes for one there may be two places as near, and from elsewhere in
// the cell it is seen in another direction.
std::optional<Undecided::Samples::View> Undecided::Samples::viewed() const
{
    const double step = all_.lattice_.step, level = std::abs(all_.offset_);
    const std::span<const int> near = fronts_[0].near();
    const double turned = (pointsOfAStretch(step) + 2 * std::numbers::sqrt2 * step) / level;
    if (!seenFromFar() || near.size() > CellSide::most || (fronts_[0].count() > few && fronts_[0].open() < std::numbers::pi + turned))
        return std::nullopt;
    View out{{}, near.size()};
    for (int k = 0; k < 4; ++k)
        for (std::size_t f = 0; f < near.size(); ++f) {
            Nearest foot;
            walk(all_.edge_, corner(k), near[f], foot);
            if (!oneStretch(all_.edge_, step, near[f], foot.vertex)) // as of the inside of a circle about as wide as the distance
                return std::nullopt;
            out.past[std::size_t(k)][f] = std::sqrt(foot.squared) - level;
        }
    return out;
}

// Which corners lie within the line, where the fronts leave nothing between them that the corners
// do not show.
std::optional<std::array<std::uint8_t, 4>> Undecided::Samples::cornersTell(const View& view) const
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
        if (!view.side(k).asItsEnds(unevenness()))
            return std::nullopt;
    std::array<std::uint8_t, 4> within;
    for (std::size_t k = 0; k < 4; ++k)
        within[k] = all_.offset_ > 0 ? nearer(k) || !fronts_[0].outside() : !nearer(k) && !fronts_[0].outside();
    return within;
}

// The samples of the rim.
void Undecided::Samples::goRound(Cell& cell, const std::optional<View>& view) const
{
    cell.rim.resize(4 * std::size_t(n_));
    const auto put = [&](int k) -> std::uint8_t& { return cell.rim[std::size_t(k)]; };
    for (int corner = 0; corner < 4; ++corner) {
        const auto [a, b] = placeOnRim(corner * n_, n_);
        put(corner * n_) = beyond(a, b) <= 0;
    }
    for (int side = 0; side < 4; ++side) {
        const std::uint8_t from = put(side * n_), to = put((side + 1) % 4 * n_);
        if (view && view->side(std::size_t(side)).asItsEnds(unevenness())) {
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

// Whether the rim tells all. Fronts seen from far enough to be nearly straight leave no spot between
// them but where they stand all round it: else what is not crossed at the rim is crossed nowhere,
// and crossed at two sides, the line runs through.
bool Undecided::Samples::leavesNothingWithin(Cell& cell, const std::optional<View>& view) const
{
    if (!seenFromFar())
        return false;
    int crossings = 0, sides = 0;
    for (int k = 0; k < 4 * n_; ++k)
        if (cell.rim[std::size_t(k)] != cell.rim[std::size_t((k + 1) % (4 * n_))]) {
            ++crossings;
            sides |= 1 << (k / n_);
        }
    const bool far = crossings == 0 && cell.rim[0] == all_.farther(); // nor does a front come between from nowhere
    const bool plain = fronts_[0].count() <= few || view;
    const bool uncrossed = far || (plain && crossings == 0);
    if (uncrossed)
        cell.rim.resize(1);
    return uncrossed || (plain && crossings == 2 && std::popcount(unsigned(sides)) == 2);
}

// By whole numbers, so that neighbours mean the same sample's place to the last bit.
Point Undecided::Samples::place(int a, int b) const
{
    const Lattice& l = all_.lattice_;
    return l.origin + Point{l.step * (double(i_) * n_ + a) / n_, l.step * (double(j_) * n_ + b) / n_};
}

// How far sample (a, b) lies beyond the line, pixels; negative within it.
double Undecided::Samples::beyond(int a, int b) const
{
    const bool toTheRight = !alone_ && a == n_, below = !alone_ && b == n_;
    const Fronts& fronts = fronts_[std::size_t(2 * below + toTheRight)];
    const Point p = place(a, b);
    const double fromMiddle = h_ * norm({(toTheRight ? 0 : a) - n_ / 2.0, (below ? 0 : b) - n_ / 2.0});
    Nearest best;
    for (const Fronts::Front& front : fronts) {
        const double least = front.away - fromMiddle - 1e-6;
        if (least > 0 && least * least > best.squared)
            break;
        walk(all_.edge_, p, front.vertex, best);
    }
    // Where the edge itself is far, all of the cell lies on one side of it.
    const bool inside = !seenFromFar() && best.vertex >= 0 ? within(all_.edge_, p, best) : !fronts.outside();
    return (inside ? -1 : 1) * std::sqrt(best.squared) - all_.offset_;
}

// No distance changes faster than the place: one sample tells for all that are nearer to
// it than it is to the line.
template <class Beyond, class Put> void Undecided::Samples::between(int first, int last, Beyond at, Put put) const
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

void Undecided::Samples::fill(std::vector<std::uint8_t>& out, int a0, int b0, int a1, int b1) const
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

} // namespace yokai
