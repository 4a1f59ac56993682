#include "outline/contour.h"

#include "path/crossings.h"
#include "path/parabola.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace yokai {

namespace {

// A quadratic in arc length through the points that lie from `gap` to `reach`
// pixels before (step -1) or after (step +1) point i, run on to the corner.
struct Side {
    Point at;                   // where the side arrives
    Point direction;            // its direction there, pointing along the contour
    double misfit = 0, rms = 0; // of the points, at most and on average
    bool ok = false;
};

constexpr double straightMisfit = 0.09;

Side sideOf(const Polyline& p, int i, int step, double gap, double reach, double straight = straightMisfit)
{
    const int n = int(p.size());
    double arc = 0;
    ParabolaFit fit;
    struct Sample {
        double s;
        Point q;
    };
    constexpr int most = 192;
    Sample samples[most];
    int count = 0;
    int k = i;
    while (count < most) {
        const int next = around(k + step, n);
        arc += distance(p[std::size_t(k)], p[std::size_t(next)]);
        k = next;
        if (arc > reach || k == i)
            break;
        if (arc < gap)
            continue;
        samples[count++] = {arc, p[std::size_t(k)] - p[std::size_t(i)]};
        fit.add(arc, samples[count - 1].q);
    }
    Side side;
    const auto parabola = fit.parabola();
    if (count < 5 || !parabola)
        return side;
    const auto take = [&](const Parabola& found, double worst, double rms) {
        side = {found.c0 + p[std::size_t(i)], unit(found.c1) * (step > 0 ? 1.0 : -1.0), worst, rms, true};
    };
    const auto judge = [&](const Parabola& found) {
        double worst = 0, sum = 0;
        for (int j = 0; j < count; ++j) {
            const Point off = found(samples[j].s) - samples[j].q;
            worst = std::max(worst, dot(off, off));
            sum += dot(off, off);
        }
        return std::pair(std::sqrt(worst), std::sqrt(sum / count));
    };
    const auto [worst, rms] = judge(*parabola);
    take(*parabola, worst, rms);
    // A side that a line follows about as well is run on as a line: a bend that is only noise
    // would throw the tip off.
    if (const auto line = fit.line())
        if (const auto [lineWorst, lineRms] = judge(*line); lineWorst < straight && lineRms < 1.15 * rms + 0.01)
            take(*line, lineWorst, lineRms);
    return side;
}

// The longest stretch that a line or a bend follows closely tells best where the side
// arrives; where noise or the shape leaves none, the nearest few pixels have to do.
Side clearestSide(const Polyline& p, int i, int step, double gap, double softness, const Side& nearest)
{
    if (softness > 0) {
        // Of stairs that were smoothed, waves are left that only a long stretch averages out.
        constexpr double waves = 0.75, usualWaves = 0.36;
        Side longest = nearest;
        for (const double length : {18.0, 26.0, 40.0, 60.0, 90.0, 130.0}) {
            const Side side = sideOf(p, i, step, gap, gap + length, waves);
            if (!side.ok || side.misfit > waves || side.rms > usualWaves)
                return longest;
            longest = side;
        }
        return longest;
    } else {
        constexpr double close = 0.05;
        for (const double length : {18.0, 12.0})
            if (const Side side = sideOf(p, i, step, gap, gap + length, close); side.ok && side.misfit < close)
                return side;
    }
    return nearest;
}

double bendBetween(const Side& in, const Side& out) { return std::atan2(cross(in.direction, out.direction), dot(in.direction, out.direction)); }

void sharpen(Contour& contour, double softness)
{
    constexpr double leastTurn = 0.40 /* radians, 23 degrees */, mostMisfit = 0.16;
    const double gap = std::max(1.6, 2.2 * softness), farthestTip = 4 + 2 * softness;
    Polyline& p = contour.points;
    const int n = int(p.size());
    contour.corners.assign(std::size_t(n), 0);
    if (n < 24)
        return;
    // Cheap screen: how much does the direction turn within a few points? As 1 - cos.
    std::vector<double> turn(std::size_t(n), 0);
    const auto at = [&](int i) { return p[std::size_t(around(i, n))]; };
    for (int i = 0; i < n; ++i) {
        const Point before = at(i - 1) - at(i - 5), after = at(i + 5) - at(i + 1);
        const double along = dot(before, after), both = dot(before, before) * dot(after, after);
        if (along < 0 || along * along < 0.88 * both) // 20 degrees
            turn[std::size_t(i)] = 1 - along / std::sqrt(std::max(1e-12, both));
    }
    struct Tip {
        int i;
        Point at;
        double blunted; // along either side
    };
    std::vector<Tip> tips;
    for (int i = 0; i < n; ++i) {
        const double t = turn[std::size_t(i)];
        if (t < 0.0606) // 20 degrees
            continue;
        bool largest = true;
        for (int k = -4; k <= 4 && largest; ++k) {
            const double other = turn[std::size_t(around(i + k, n))];
            if (other > t || (other == t && k < 0))
                largest = false;
        }
        if (!largest)
            continue;
        Side in = sideOf(p, i, -1, gap, gap + 6.9), out = sideOf(p, i, +1, gap, gap + 6.9);
        const double most = softness > 0 ? mostMisfit + 0.14 : mostMisfit; // noise that smoothing left
        if (!in.ok || !out.ok || in.misfit > most || out.misfit > most || std::abs(bendBetween(in, out)) < leastTurn / 2)
            continue;
        in = clearestSide(p, i, -1, gap, softness, in);
        out = clearestSide(p, i, +1, gap, softness, out);
        double bend = bendBetween(in, out), blunted = gap;
        // Where the two sides of an acute corner share pixels, or were smoothed into each
        // other, neither tells where it is.
        if (softness > 0) {
            blunted = std::min(std::max(gap, gap * std::tan(std::abs(bend) / 2)), 10 + 4 * softness);
            in = clearestSide(p, i, -1, blunted, softness, in);
            out = clearestSide(p, i, +1, blunted, softness, out);
            bend = bendBetween(in, out);
        } else if (const double shared = 1.5 * std::tan(std::abs(bend) / 2); shared > gap + 0.4) {
            const double farther = std::min(shared, 9.0);
            const Side a = sideOf(p, i, -1, farther, farther + 9), b = sideOf(p, i, +1, farther, farther + 9);
            if (a.ok && b.ok && a.misfit < straightMisfit && b.misfit < straightMisfit) {
                in = a;
                out = b;
                bend = bendBetween(in, out);
            }
        }
        if (std::abs(bend) < leastTurn)
            continue;
        const double c = cross(in.direction, out.direction);
        Point tip = p[std::size_t(i)];
        if (std::abs(c) > 0.05) {
            const double along = cross(out.at - in.at, out.direction) / c;
            tip = in.at + in.direction * along;
        }
        if (distance(tip, p[std::size_t(i)]) > farthestTip)
            continue;
        // A true corner is cut by the chord between two crossings, by up to 0.64 pixels for a right
        // angle (the most in 6 000 drawn at random, of 30 to 155 degrees, put to that scale), and by
        // any smoothing; what lies farther from the tip than that was round.
        double cut = std::numeric_limits<double>::infinity();
        for (int k = i - 6; k < i + 6; ++k) {
            const Point a = at(k), d = at(k + 1) - a;
            cut = std::min(cut, distance(tip, a + d * std::clamp(dot(tip - a, d) / std::max(1e-12, dot(d, d)), 0.0, 1.0)));
        }
        const double wedge = std::tan((std::numbers::pi - std::abs(bend)) / 2);
        if (cut > (0.66 + 0.9 * softness) / std::max(1e-6, wedge) + 0.06)
            continue;
        tips.push_back({i, tip, blunted});
    }
    if (tips.empty())
        return;
    // The blunted stretch round each tip gives way to the tip itself.
    std::vector<unsigned char> drop(std::size_t(n), 0);
    for (const Tip& tip : tips) {
        for (const int step : {-1, 1}) {
            double arc = 0;
            for (int k = tip.i; arc < tip.blunted;) {
                const int next = around(k + step, n);
                arc += distance(p[std::size_t(k)], p[std::size_t(next)]);
                if (arc < tip.blunted)
                    drop[std::size_t(next)] = 1;
                k = next;
            }
        }
    }
    Polyline kept;
    std::vector<unsigned char> corners;
    kept.reserve(p.size());
    // Points stay close together, so that the nearest of them is near the nearest of the line.
    const auto append = [&](Point to, bool corner) {
        constexpr double spacing = 1.4;
        if (!kept.empty())
            for (const Point from = kept.back(); distance(kept.back(), to) > 1.5 * spacing;) {
                kept.push_back(kept.back() + unit(to - from) * spacing);
                corners.push_back(0);
            }
        kept.push_back(to);
        corners.push_back(corner);
    };
    std::size_t k = 0;
    for (int i = 0; i < n; ++i) {
        if (k < tips.size() && tips[k].i == i)
            append(tips[k++].at, true);
        else if (!drop[std::size_t(i)])
            append(p[std::size_t(i)], false);
    }
    const Point first = kept.front();
    append(first, false); // the way back to the start
    kept.pop_back();
    corners.pop_back();
    // Tips of two corners close together may overshoot each other; such a contour stays as it was.
    bool crowded = softness > 0;
    for (std::size_t a = 0; a < tips.size() && !crowded; ++a) {
        crowded = distance(tips[a].at, p[std::size_t(tips[a].i)]) > 1.5;
        for (std::size_t b = 0; b < a && !crowded; ++b)
            crowded = distance(tips[a].at, tips[b].at) < 12;
    }
    if (crowded && !selfCrossings(kept, 1).empty()) {
        contour.corners.assign(p.size(), 0);
        return;
    }
    p = std::move(kept);
    contour.corners = std::move(corners);
    contour.area = signedArea(p);
}

} // namespace

void sharpenCorners(Contours& contours, double softness, const Work& work)
{
    parallelSlices(int(contours.size()), 1, [&](int begin, int end) {
        for (int i = begin; i < end; ++i) {
            work.check();
            sharpen(contours[std::size_t(i)], softness);
        }
    });
}

double roughnessOf(const Contours& contours, double top, double bottom)
{
    constexpr int half = 5;
    std::size_t total = 0;
    for (const Contour& c : contours)
        total += c.points.size();
    const std::size_t stride = std::max<std::size_t>(3, total / 2000);
    std::vector<double> strays;
    std::size_t count = 0;
    for (const Contour& c : contours) {
        const int n = int(c.points.size());
        if (n < 160)
            continue; // of letters and crumbs it is the shape itself that no parabola follows
        for (int i = 0; i < n; ++i) {
            if (++count % stride != 0)
                continue;
            const auto at = [&](int k) { return c.points[std::size_t(around(i + k, n))]; };
            const double y0 = std::min({at(-half).y, at(0).y, at(half).y}), y1 = std::max({at(-half).y, at(0).y, at(half).y});
            if (y0 < top || y1 > bottom)
                continue;
            double s[2 * half + 1] = {};
            for (int k = -half + 1; k <= half; ++k)
                s[k + half] = s[k + half - 1] + distance(at(k - 1), at(k));
            ParabolaFit fit;
            for (int k = -half; k <= half; ++k)
                fit.add(s[k + half] - s[half], at(k) - at(0));
            const auto parabola = fit.parabola();
            if (!parabola)
                continue;
            double sum = 0;
            for (int k = -half; k <= half; ++k) {
                const Point off = (*parabola)(s[k + half] - s[half]) - (at(k) - at(0));
                sum += dot(off, off);
            }
            strays.push_back(std::sqrt(sum / (2 * half + 1)));
        }
    }
    if (strays.empty())
        return 0;
    const auto middle = strays.begin() + std::ptrdiff_t(strays.size() / 2);
    std::nth_element(strays.begin(), middle, strays.end());
    return *middle;
}

} // namespace yokai
