// The points that curves are fitted through, and which way they head. Private to the fit.
#pragma once

#include "path/parabola.h"

#include <algorithm>
#include <span>
#include <vector>

namespace yokai {

// The points of a closed run, addressed without end, and the arc length at each.
class PointRun {
public:
    PointRun(std::span<const Point> points, std::span<const unsigned char> corners, std::span<const unsigned char> closeness = {})
        : points_(points), corners_(corners), closeness_(closeness), n_(int(points.size()))
    {
        arc_.resize(std::size_t(n_) + 1);
        for (int i = 0; i < n_; ++i)
            arc_[std::size_t(i) + 1] = arc_[std::size_t(i)] + distance(at(i), at(i + 1));
    }
    int size() const { return n_; }
    Point at(int i) const { return points_[wrapped(i)]; }
    bool corner(int i) const { return !corners_.empty() && corners_[wrapped(i)]; }
    // How closely the curve has to follow here: 0 as asked .. 3 exactly.
    int closeness(int i) const { return closeness_.empty() ? 0 : closeness_[wrapped(i)]; }
    bool even() const { return closeness_.empty(); }
    double arc(int i) const
    {
        double turns = 0;
        for (; i >= n_; i -= n_)
            turns += arc_.back();
        return arc_[std::size_t(i)] + turns;
    }

private:
    // Never more than a few turns, where subtracting is far quicker than dividing.
    std::size_t wrapped(int i) const
    {
        while (i >= n_)
            i -= n_;
        return std::size_t(i);
    }
    std::span<const Point> points_;
    std::span<const unsigned char> corners_, closeness_;
    std::vector<double> arc_;
    int n_;
};

// Direction at point i from a quadratic through its neighbours on [lo, hi],
// fitted over the arc length; the window shrinks until the quadratic really
// follows the points.
inline Point tangentAt(const PointRun& run, int i, int lo, int hi, double tolerance)
{
    const double origin = run.arc(i);
    for (double window = 80 * tolerance;; window /= 2) {
        int a = i, b = i;
        while (a > lo && i - a < 40 && origin - run.arc(a - 1) <= window)
            --a;
        while (b < hi && b - i < 40 && run.arc(b + 1) - origin <= window)
            ++b;
        // Away from the ends the window is even on both sides, which cancels the bend.
        if (lo + 1 < i && i < hi - 1) {
            a = std::min(a, i - 1);
            b = std::max(b, i + 1);
        }
        const bool last = b - a < 4;
        if (last) {
            const int p = std::max(lo, i - 1), q = std::min(hi, i + 1);
            if (b - a < 2)
                return unit(run.at(q) - run.at(p));
        }
        ParabolaFit sums; // over the arc length from point i
        const double scale = 1 / std::max(1e-12, run.arc(b) - run.arc(a));
        for (int k = a; k <= b; ++k)
            sums.add((run.arc(k) - origin) * scale, run.at(k) - run.at(i));
        const auto parabola = sums.parabola(1e-12);
        if (!parabola)
            return unit(run.at(std::min(hi, i + 1)) - run.at(std::max(lo, i - 1)));
        double worst = 0;
        for (int k = a; k <= b; ++k)
            worst = std::max(worst, norm((*parabola)((run.arc(k) - origin) * scale) - (run.at(k) - run.at(i))));
        constexpr double close = 0.6; // of the tolerance: a tangent must be better than the curve
        if (worst > tolerance * close && !last)
            continue;
        return unit(parabola->c1);
    }
}

} // namespace yokai
