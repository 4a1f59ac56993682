#include "outline/contour.h"

#include "outline/march.h"

#include <algorithm>
#include <cmath>
#include <cstring>

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
            constexpr int atLeastHalf = 7; // the bit
            int i = 0;
            for (; i + 64 <= width; i += 64)
                to[i / 64] = march::packed(row + i, atLeastHalf);
            std::uint8_t rest[64] = {};
            std::copy(row + i, row + width, rest);
            if (i < width)
                to[i / 64] = march::packed(rest, atLeastHalf);
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
        constexpr double tooAslant = 0.3;  // of the edge's direction across the step: the law says little there
        constexpr double partly = 1000;    // a sample's weight from which it is a part of the edge itself
        constexpr double disagree = 0.3;   // of a step, between what two such samples say
        constexpr double offLinear = 0.25; // of a step: the most that a straight edge lies off linear interpolation
        if (along <= tooAslant * n || onBorder(i, j, dx, dy))
            return linear;
        const double a = c_.at(i, j), b = c_.at(i + dx, j + dy);
        const double g = along / n, s = std::abs(dx ? direction.x : direction.y) / n, side = a > b ? 1.0 : -1.0;
        // From either sample; a sample that is only partly covered knows better.
        const double ta = -edgeDistance(g, s, a / 255) / g * side, tb = 1 - edgeDistance(g, s, b / 255) / g * side;
        const double wa = a * (255 - a) + 1, wb = b * (255 - b) + 1;
        const double t = (ta * wa + tb * wb) / (wa + wb);
        // A soft or ragged edge is not the edge of a straight shape: there the two disagree.
        if ((wa > partly && wb > partly && std::abs(ta - tb) > disagree) || std::abs(t - linear) > offLinear)
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
        const Point p = linear[std::size_t(k)], direction = linear[std::size_t(around(k + 2, n))] - linear[std::size_t(around(k - 2, n))];
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
        [&](int i, int j) { return crossing.value(i, j) + crossing.value(i + 1, j) + crossing.value(i, j + 1) + crossing.value(i + 1, j + 1) > 4 * half; },
        [](int, int) { return false; });

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

} // namespace yokai
