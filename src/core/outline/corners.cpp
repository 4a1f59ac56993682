#include "outline/contour.h"

#include "path/crossings.h"
#include "path/parabola.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <optional>

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
    constexpr double aboutAsWell = 1.15, noise = 0.01; // px
    if (const auto line = fit.line())
        if (const auto [lineWorst, lineRms] = judge(*line); lineWorst < straight && lineRms < aboutAsWell * rms + noise)
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
        constexpr double close = 0.05, longest = 18, shorter = 12; // px; the nearest few are tried before
        for (const double length : {longest, shorter})
            if (const Side side = sideOf(p, i, step, gap, gap + length, close); side.ok && side.misfit < close)
                return side;
    }
    return nearest;
}

double bendBetween(const Side& in, const Side& out) { return std::atan2(cross(in.direction, out.direction), dot(in.direction, out.direction)); }

constexpr double leastTurn = 0.40;        // radians, 23 degrees: less is a bend, not a corner
constexpr double suspectTurn = 0.0606;    // 1 - cos of 20 degrees: less within a few points is not looked at
constexpr double mostMisfit = 0.16;       // px: a side that strays more is no side of a corner
constexpr double noiseOfSmoothing = 0.14; // px more, where the edge was smoothed
constexpr double firstLook = 6.9;         // px of either side that must be there at all
constexpr int leastPoints = 24;           // of a contour that can have corners

// Of an acute corner both sides share pixels near the tip: so many times the tangent of half its bend,
// px. What is gained by looking farther out must be worth it, and there is an end.
constexpr double pixelsShared = 1.5, worthIt = 0.4, farthestSide = 9;

// Where nothing of the tip's own pixels is left, along either side.
double gapBeside(double softness)
{
    constexpr double ownPixels = 1.6, smoothedOver = 2.2; // px; and of the softness
    return std::max(ownPixels, smoothedOver * softness);
}

struct Tip {
    int i; // the point it takes the place of
    Point at;
    double blunted; // along either side
};

// Cheap screen: how much does the direction turn within a few points? As 1 - cos.
std::vector<double> turnsOf(const Polyline& p)
{
    const int n = int(p.size());
    std::vector<double> turn(p.size(), 0);
    const auto at = [&](int i) { return p[std::size_t(around(i, n))]; };
    for (int i = 0; i < n; ++i) {
        const Point before = at(i - 1) - at(i - 5), after = at(i + 5) - at(i + 1);
        const double along = dot(before, after), both = dot(before, before) * dot(after, after);
        constexpr double straightOn = 0.88; // squared cosine of 20 degrees
        if (along < 0 || along * along < straightOn * both)
            turn[std::size_t(i)] = 1 - along / std::sqrt(std::max(1e-12, both));
    }
    return turn;
}

// Of neighbours that turn alike the first.
bool turnsMost(const std::vector<double>& turn, int i)
{
    for (int k = -4; k <= 4; ++k) {
        const double other = turn[std::size_t(around(i + k, int(turn.size())))];
        if (other > turn[std::size_t(i)] || (other == turn[std::size_t(i)] && k < 0))
            return false;
    }
    return true;
}

// How near the contour comes to a place, about its point i.
double nearestTo(const Polyline& p, int i, Point to)
{
    const int n = int(p.size());
    double least = std::numeric_limits<double>::infinity();
    for (int k = i - 6; k < i + 6; ++k) {
        const Point a = p[std::size_t(around(k, n))], d = p[std::size_t(around(k + 1, n))] - a;
        least = std::min(least, distance(to, a + d * std::clamp(dot(to - a, d) / std::max(1e-12, dot(d, d)), 0.0, 1.0)));
    }
    return least;
}

// The corner at point i, where its two sides meet that were fitted away from it; none if it is round.
std::optional<Tip> tipAt(const Polyline& p, int i, double softness)
{
    const double gap = gapBeside(softness);
    Side in = sideOf(p, i, -1, gap, gap + firstLook), out = sideOf(p, i, +1, gap, gap + firstLook);
    const double most = softness > 0 ? mostMisfit + noiseOfSmoothing : mostMisfit;
    if (!in.ok || !out.ok || in.misfit > most || out.misfit > most || std::abs(bendBetween(in, out)) < leastTurn / 2)
        return std::nullopt;
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
    } else if (const double shared = pixelsShared * std::tan(std::abs(bend) / 2); shared > gap + worthIt) {
        const double farther = std::min(shared, farthestSide);
        const Side a = sideOf(p, i, -1, farther, farther + farthestSide), b = sideOf(p, i, +1, farther, farther + farthestSide);
        if (a.ok && b.ok && a.misfit < straightMisfit && b.misfit < straightMisfit) {
            in = a;
            out = b;
            bend = bendBetween(in, out);
        }
    }
    if (std::abs(bend) < leastTurn)
        return std::nullopt;
    const double c = cross(in.direction, out.direction), farthestTip = 4 + 2 * softness;
    Point tip = p[std::size_t(i)];
    constexpr double meets = 0.05; // of the sides' directions; else they run on into each other and meet nowhere
    if (std::abs(c) > meets)
        tip = in.at + in.direction * (cross(out.at - in.at, out.direction) / c);
    if (distance(tip, p[std::size_t(i)]) > farthestTip)
        return std::nullopt;
    // A true corner is cut by the chord between two crossings, by up to 0.64 pixels for a right
    // angle (the most in 6 000 drawn at random, of 30 to 155 degrees, put to that scale), and by
    // any smoothing; what lies farther from the tip than that was round.
    const double wedge = std::tan((std::numbers::pi - std::abs(bend)) / 2);
    constexpr double cutOff = 0.66, smoothedOff = 0.9, noise = 0.06; // px; of the softness; px
    if (nearestTo(p, i, tip) > (cutOff + smoothedOff * softness) / std::max(1e-6, wedge) + noise)
        return std::nullopt;
    return Tip{i, tip, blunted};
}

struct Sharpened {
    Polyline points;
    std::vector<unsigned char> corners;
};

// The blunted stretch round each tip gives way to the tip itself.
Sharpened withTips(const Polyline& p, const std::vector<Tip>& tips)
{
    const int n = int(p.size());
    std::vector<unsigned char> drop(p.size(), 0);
    for (const Tip& tip : tips)
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
    Sharpened out;
    out.points.reserve(p.size());
    // Points stay close together, so that the nearest of them is near the nearest of the line.
    const auto append = [&](Point to, bool corner) {
        constexpr double spacing = 1.4, longestGap = 1.5 * spacing; // px
        if (!out.points.empty())
            for (const Point from = out.points.back(); distance(out.points.back(), to) > longestGap;) {
                out.points.push_back(out.points.back() + unit(to - from) * spacing);
                out.corners.push_back(0);
            }
        out.points.push_back(to);
        out.corners.push_back(corner);
    };
    std::size_t k = 0;
    for (int i = 0; i < n; ++i) {
        if (k < tips.size() && tips[k].i == i)
            append(tips[k++].at, true);
        else if (!drop[std::size_t(i)])
            append(p[std::size_t(i)], false);
    }
    append(Point(out.points.front()), false); // the way back to the start
    out.points.pop_back();
    out.corners.pop_back();
    return out;
}

// Tips of two corners close together, or far from where the contour was, may overshoot each other.
bool mayOvershoot(const Polyline& p, const std::vector<Tip>& tips)
{
    for (std::size_t a = 0; a < tips.size(); ++a) {
        constexpr double far = 1.5, close = 12; // px
        if (distance(tips[a].at, p[std::size_t(tips[a].i)]) > far)
            return true;
        for (std::size_t b = 0; b < a; ++b)
            if (distance(tips[a].at, tips[b].at) < close)
                return true;
    }
    return false;
}

void sharpen(Contour& contour, double softness)
{
    Polyline& p = contour.points;
    contour.corners.assign(p.size(), 0);
    if (int(p.size()) < leastPoints)
        return;
    const std::vector<double> turn = turnsOf(p);
    std::vector<Tip> tips;
    for (int i = 0; i < int(p.size()); ++i)
        if (turn[std::size_t(i)] >= suspectTurn && turnsMost(turn, i))
            if (const auto tip = tipAt(p, i, softness))
                tips.push_back(*tip);
    if (tips.empty())
        return;
    Sharpened sharpened = withTips(p, tips);
    // Such a contour stays as it was.
    if ((softness > 0 || mayOvershoot(p, tips)) && !selfCrossings(sharpened.points, 1).empty())
        return;
    p = std::move(sharpened.points);
    contour.corners = std::move(sharpened.corners);
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
