#include "outline/contour.h"

#include "outline/march.h"
#include "path/crossings.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <numbers>

namespace yokai {

namespace {

constexpr double half = 127.5;

// Which samples are at least half covered, one bit each, row after row.
std::vector<std::uint64_t> packRows(const Gray8& coverage, int words, const Work& work)
{
    const int width = coverage.width();
    std::vector<std::uint64_t> out(std::size_t(words) * std::size_t(coverage.height()), 0);
    parallelSlices(coverage.height(), 64, [&](int first, int last) {
        for (int j = first; j < last; ++j) {
            if ((j & 63) == 0)
                work.check();
            const std::uint8_t* row = coverage.row(j);
            std::uint64_t* to = out.data() + std::size_t(j) * std::size_t(words);
            std::uint8_t bytes[64];
            for (int i = 0; i < width; i += 64) {
                const int n = std::min(64, width - i);
                if (n < 64)
                    std::fill(bytes, bytes + 64, std::uint8_t(0));
                for (int k = 0; k < n; ++k)
                    bytes[k] = row[i + k] >> 7;
                to[i / 64] = march::packed(bytes);
            }
        }
    });
    return out;
}

// How far a straight edge lies from the centre of a pixel it covers by `c`, when
// its normal is (gx, gy) (both >= 0, unit length); positive when the centre is
// outside. After Gustavson and Strand, "Anti-aliased Euclidean distance
// transform", Pattern Recognition Letters 32 (2011).
double edgeDistance(double gx, double gy, double c)
{
    if (gx < gy)
        std::swap(gx, gy);
    const double corner = 0.5 * gy / gx;
    if (c < corner)
        return 0.5 * (gx + gy) - std::sqrt(2 * gx * gy * c);
    if (c < 1 - corner)
        return (0.5 - c) * gx;
    return -0.5 * (gx + gy) + std::sqrt(2 * gx * gy * (1 - c));
}

// Where the edge crosses between a sample and its neighbour to the right (dx 1) or below (dy 1).
class Crossing {
public:
    explicit Crossing(const Gray8& coverage) : c_(coverage), w_(coverage.width()), h_(coverage.height()) {}

    int value(int i, int j) const { return i >= 0 && j >= 0 && i < w_ && j < h_ ? c_.at(i, j) : 0; }
    // At the picture's border the outside begins at the pixel's edge, half a pixel from its centre.
    bool onBorder(int i, int j, int dx, int dy) const { return i < 0 || j < 0 || i + dx >= w_ || j + dy >= h_; }

    double linear(int i, int j, int dx, int dy) const
    {
        if (onBorder(i, j, dx, dy))
            return 0.5;
        const double a = c_.at(i, j), b = c_.at(i + dx, j + dy);
        return (half - a) / (b - a);
    }

    // By the area law of a straight edge that runs along `direction`.
    double exact(int i, int j, int dx, int dy, Point direction, double linear) const
    {
        const double n = norm(direction), along = std::abs(dx ? direction.y : direction.x);
        if (along <= 0.3 * n || onBorder(i, j, dx, dy))
            return linear;
        const double a = c_.at(i, j), b = c_.at(i + dx, j + dy);
        const double g = along / n, s = std::abs(dx ? direction.x : direction.y) / n, side = a > b ? 1.0 : -1.0;
        // From either sample; a sample that is only partly covered knows better.
        const double ta = -edgeDistance(g, s, a / 255) / g * side, tb = 1 - edgeDistance(g, s, b / 255) / g * side;
        const double wa = a * (255 - a) + 1, wb = b * (255 - b) + 1;
        const double t = (ta * wa + tb * wb) / (wa + wb);
        // A soft or ragged edge is not the edge of a straight shape: there the two disagree.
        if ((wa > 1000 && wb > 1000 && std::abs(ta - tb) > 0.3) || std::abs(t - linear) > 0.25)
            return linear;
        return std::clamp(t, 0.0, 1.0);
    }

private:
    const Gray8& c_;
    int w_, h_;
};

// Puts the points of a contour, given by linear interpolation, where they belong. The edge's
// direction at each is that from the second point before it to the second after it, which
// tells it far better than the samples round the crossing do.
void place(const Crossing& crossing, std::span<const Point> linear, int begin, int end, Point* to)
{
    const int n = int(linear.size());
    for (int k = begin; k < end; ++k) {
        const Point p = linear[std::size_t(k)], direction = linear[std::size_t((k + 2) % n)] - linear[std::size_t((k + n - 2) % n)];
        const double i = std::floor(p.x), j = std::floor(p.y);
        Point placed = p;
        if (p.x != i)
            placed.x = i + crossing.exact(int(i), int(j), 1, 0, direction, p.x - i);
        else
            placed.y = j + crossing.exact(int(i), int(j), 0, 1, direction, p.y - j);
        to[k] = placed + Point{0.5, 0.5};
    }
}

} // namespace

Contours traceEdge(const Gray8& coverage, const Work& work)
{
    const int w = coverage.width(), h = coverage.height(), words = (w + 63) / 64;
    const Crossing crossing(coverage);
    const std::vector<std::uint64_t> covered = packRows(coverage, words, work);
    const march::Loops loops = march::trace(
        w, h, work, [&](int j, std::uint64_t* to) { std::copy_n(covered.data() + std::size_t(j) * std::size_t(words), words, to); },
        [&](int i, int j) { return crossing.linear(i, j, 1, 0); }, [&](int i, int j) { return crossing.linear(i, j, 0, 1); },
        [&](int i, int j) { return crossing.value(i, j) + crossing.value(i + 1, j) + crossing.value(i, j + 1) + crossing.value(i + 1, j + 1) > 4 * half; });

    // The contours' points laid end to end, so that they can be shared out evenly.
    std::vector<Point> linear;
    linear.reserve(loops.points.size());
    std::vector<int> first, owner(loops.points.size(), -1);
    for (const int start : loops.rowCrossings) {
        if (owner[std::size_t(start)] >= 0)
            continue;
        const int id = int(first.size());
        first.push_back(int(linear.size()));
        int p = start;
        do {
            owner[std::size_t(p)] = id;
            linear.push_back(loops.points[std::size_t(p)]);
            p = loops.next[std::size_t(p)];
        } while (p != start);
        if ((id & 1023) == 0)
            work.check();
    }
    Contours contours(first.size());
    first.push_back(int(linear.size()));
    for (std::size_t c = 0; c < contours.size(); ++c)
        contours[c].points.resize(std::size_t(first[c + 1] - first[c]));
    parallelSlices(int(linear.size()), 4096, [&](int begin, int end) {
        for (auto c = std::size_t(std::upper_bound(first.begin(), first.end(), begin) - first.begin() - 1); begin < end; ++c) {
            work.check();
            const int from = first[c], to = std::min(end, first[c + 1]);
            place(crossing, std::span(linear).subspan(std::size_t(from), contours[c].points.size()), begin - from, to - from, contours[c].points.data());
            begin = to;
        }
    });
    for (Contour& contour : contours)
        contour.area = signedArea(contour.points);
    // What lies left of a contour's first crossing on its top row tells what it lies in:
    // the region there is the same one that lies right of the crossing before.
    std::vector<unsigned char> placed(contours.size(), 0);
    for (int j = 0; j < h; ++j)
        for (int k = loops.rowStart[std::size_t(j)]; k < loops.rowStart[std::size_t(j) + 1]; ++k) {
            const int c = owner[std::size_t(loops.rowCrossings[std::size_t(k)])];
            if (placed[std::size_t(c)])
                continue;
            placed[std::size_t(c)] = 1;
            if (k == loops.rowStart[std::size_t(j)])
                continue;
            const int before = owner[std::size_t(loops.rowCrossings[std::size_t(k) - 1])];
            const bool sameKind = contours[std::size_t(before)].opening() == contours[std::size_t(c)].opening();
            contours[std::size_t(c)].parent = sameKind ? contours[std::size_t(before)].parent : before;
        }
    return contours;
}

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
    double s0 = 0, s1 = 0, s2 = 0, s3 = 0, s4 = 0, arc = 0;
    Point m0, m1, m2;
    struct Sample {
        double s;
        Point q;
    };
    constexpr int most = 192;
    Sample samples[most];
    int count = 0;
    int k = i;
    while (count < most) {
        const int next = ((k + step) % n + n) % n;
        arc += distance(p[std::size_t(k)], p[std::size_t(next)]);
        k = next;
        if (arc > reach || k == i)
            break;
        if (arc < gap)
            continue;
        samples[count++] = {arc, p[std::size_t(k)] - p[std::size_t(i)]};
    }
    Side side;
    if (count < 5)
        return side;
    for (int j = 0; j < count; ++j) {
        const auto [s, q] = samples[j];
        s0 += 1;
        s1 += s;
        s2 += s * s;
        s3 += s * s * s;
        s4 += s * s * s * s;
        m0 = m0 + q;
        m1 = m1 + q * s;
        m2 = m2 + q * (s * s);
    }
    const double det = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s3 * s2) + s2 * (s1 * s3 - s2 * s2);
    if (std::abs(det) < 1e-9)
        return side;
    const Point c0 = (m0 * (s2 * s4 - s3 * s3) - m1 * (s1 * s4 - s3 * s2) + m2 * (s1 * s3 - s2 * s2)) * (1 / det);
    const Point c1 = (m0 * -(s1 * s4 - s2 * s3) + m1 * (s0 * s4 - s2 * s2) - m2 * (s0 * s3 - s1 * s2)) * (1 / det);
    const Point c2 = (m0 * (s1 * s3 - s2 * s2) - m1 * (s0 * s3 - s1 * s2) + m2 * (s0 * s2 - s1 * s1)) * (1 / det);
    const auto judge = [&](auto fit, double& worst, double& rms) {
        worst = rms = 0;
        for (int j = 0; j < count; ++j) {
            const Point off = fit(samples[j].s) - samples[j].q;
            worst = std::max(worst, dot(off, off));
            rms += dot(off, off);
        }
        worst = std::sqrt(worst);
        rms = std::sqrt(rms / count);
    };
    judge([&](double s) { return c0 + c1 * s + c2 * (s * s); }, side.misfit, side.rms);
    side.at = c0 + p[std::size_t(i)];
    side.direction = unit(c1) * (step > 0 ? 1.0 : -1.0);
    side.ok = true;
    // A side that a line follows about as well is run on as a line: a bend that is only noise
    // would throw the tip off.
    const double lineDet = s0 * s2 - s1 * s1;
    if (lineDet > 1e-9) {
        const Point l0 = (m0 * s2 - m1 * s1) * (1 / lineDet), l1 = (m1 * s0 - m0 * s1) * (1 / lineDet);
        double worst = 0, rms = 0;
        judge([&](double s) { return l0 + l1 * s; }, worst, rms);
        if (worst < straight && rms < 1.15 * side.rms + 0.01) {
            side.at = l0 + p[std::size_t(i)];
            side.direction = unit(l1) * (step > 0 ? 1.0 : -1.0);
            side.misfit = worst;
            side.rms = rms;
        }
    }
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
    const auto at = [&](int i) { return p[std::size_t(((i % n) + n) % n)]; };
    for (int i = 0; i < n; ++i) {
        const Point before = at(i - 1) - at(i - 5), after = at(i + 5) - at(i + 1);
        turn[std::size_t(i)] = 1 - dot(before, after) / std::sqrt(std::max(1e-12, dot(before, before) * dot(after, after)));
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
            const double other = turn[std::size_t(((i + k) % n + n) % n)];
            if (other > t || (other == t && k < 0))
                largest = false;
        }
        if (!largest)
            continue;
        Side in = sideOf(p, i, -1, gap, gap + 6.9), out = sideOf(p, i, +1, gap, gap + 6.9);
        if (!in.ok || !out.ok || in.misfit > mostMisfit || out.misfit > mostMisfit || std::abs(bendBetween(in, out)) < leastTurn / 2)
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
                const int next = ((k + step) % n + n) % n;
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

} // namespace yokai
