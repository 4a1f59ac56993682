#include "outline/fronts.h"

#include <algorithm>
#include <numbers>

namespace yokai {

Fronts::Fronts(const Edge& edge, const Lattice& l, double radius, int i, int j) : outside_(!l.isInside(i, j))
{
    std::array<int, most> starts{};
    int count = 0;
    for (int b = std::max(0, j - 1); b <= std::min(l.height - 1, j + 2); ++b)
        for (int a = std::max(0, i - 1); a <= std::min(l.width - 1, i + 2); ++a) {
            const int v = l.vertex[l.index(a, b)] - 1;
            if (v >= 0 && std::none_of(starts.begin(), starts.begin() + count, [&](int k) { return oneStretch(edge, l.step, k, v); }))
                starts[std::size_t(count++)] = v;
        }
    const Point middle = l.at(i, j) + Point{l.step / 2, l.step / 2};
    const double half = l.step * std::numbers::sqrt2 / 2, reaches = radius + half;
    // Of the fronts nearest to a corner of a cell that the line passes none is farther from the middle.
    const double near = reaches + 2 * half;
    Nearest all;
    for (int k = 0; k < count; ++k) {
        Nearest here;
        walk(edge, middle, starts[std::size_t(k)], here);
        if (here.squared < all.squared)
            all = here;
        // Farther ones reach the line nowhere in the cell.
        if (here.squared < reaches * reaches) {
            // Sorted by distance, so that those too far for a place need no walk.
            const double away = std::sqrt(here.squared);
            add({here.vertex, away});
            constexpr int farther = 2; // than the samples round the cell see along a straight edge
            // Far along the edge from there, as in the middle of a round opening, it may be a front of
            // its own, seen from elsewhere in the cell.
            if (!oneStretch(edge, farther * l.step, starts[std::size_t(k)], here.vertex))
                add({starts[std::size_t(k)], away});
        }
        const auto same = [&](int v) { return oneStretch(edge, l.step, v, here.vertex); };
        if (here.squared < near * near && std::none_of(apart_.begin(), apart_.begin() + apartCount_, same)) {
            apart_[std::size_t(apartCount_++)] = here.vertex;
            if (here.squared < reaches * reaches)
                angles_[std::size_t(angleCount_++)] = std::atan2(here.at.y - middle.y, here.at.x - middle.x);
        }
    }
    if (all.vertex >= 0) {
        beyond_ = std::sqrt(all.squared) - radius;
        outside_ = !within(edge, middle, all);
    }
}

void Fronts::add(Front front)
{
    int at = count_++;
    for (; at > 0 && fronts_[std::size_t(at) - 1].away > front.away; --at)
        fronts_[std::size_t(at)] = fronts_[std::size_t(at) - 1];
    fronts_[std::size_t(at)] = front;
}

double Fronts::open() const
{
    std::array<double, most> sorted = angles_;
    std::sort(sorted.begin(), sorted.begin() + angleCount_);
    double widest = angleCount_ == 0 ? 2 * std::numbers::pi : sorted[0] + 2 * std::numbers::pi - sorted[std::size_t(angleCount_) - 1];
    for (int k = 1; k < angleCount_; ++k)
        widest = std::max(widest, sorted[std::size_t(k)] - sorted[std::size_t(k) - 1]);
    return widest;
}

bool frontsMeet(const Edge& edge, const Lattice& l, double alike, int i, int j)
{
    const int* above = l.vertex.get() + l.index(i, j);
    const int* below = above + l.width;
    const int v[] = {above[0], above[1], below[0], below[1]}; // corner k: bit 0 to the right, bit 1 below
    const int first = std::min(std::min(v[0], v[1]), std::min(v[2], v[3])), last = std::max(std::max(v[0], v[1]), std::max(v[2], v[3]));
    if (first > 0 && oneStretch(edge, l.step, first - 1, last - 1)) // as in most cells
        return false;
    const auto apart = [&](int a, int b) {
        if (v[a] == 0 || v[b] == 0 || oneStretch(edge, l.step, v[a] - 1, v[b] - 1))
            return false;
        const Point na = l.at(i + (a & 1), j + (a >> 1)) - edge.points[std::size_t(v[a]) - 1];
        const Point nb = l.at(i + (b & 1), j + (b >> 1)) - edge.points[std::size_t(v[b]) - 1];
        return dot(na, nb) < alike * std::sqrt(dot(na, na) * dot(nb, nb));
    };
    for (int a = 0; a < 4; ++a)
        for (int b = a + 1; b < 4; ++b)
            if (apart(a, b))
                return true;
    return false;
}

std::size_t CellSide::nearestAt(double t) const
{
    std::size_t best = 0;
    for (std::size_t f = 1; f < count; ++f)
        if (at(f, t) < at(best, t))
            best = f;
    return best;
}

double CellSide::peak() const
{
    double highest = std::max(leastAt(0), leastAt(1));
    for (std::size_t f = 0; f < count; ++f)
        for (std::size_t g = 0; g < f; ++g) {
            const double before = from[f] - from[g], after = to[f] - to[g];
            if ((before < 0) != (after < 0))
                highest = std::max(highest, leastAt(before / (before - after)));
        }
    return highest;
}

bool CellSide::asItsEnds(double unevenness) const
{
    const double p = leastAt(0), q = leastAt(1);
    if (p > 0 && q > 0) // no front comes near between
        return true;
    if (p <= 0 && q <= 0)
        return peak() < -unevenness;
    const std::size_t crossed = nearestAt(p <= 0 ? 0 : 1);
    constexpr double clear = 0.1;
    const double crossing = p / (p - q);
    return nearestAt(p <= 0 ? std::min(1.0, crossing + clear) : std::max(0.0, crossing - clear)) == crossed &&
           (nearestAt(p <= 0 ? 1 : 0) == crossed || peak() > unevenness);
}

} // namespace yokai
