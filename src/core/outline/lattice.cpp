#include "outline/lattice.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

// Each crossing of a lattice row with the edge flips all samples to its right: the flips are
// noted first and then summed along the row, a word at a time.
void fillInside(Lattice& l, const Edge& edge, const Work& work)
{
    const double scale = 1 / l.step;
    for (const auto [first, end] : edge.ranges) {
        Point a = (edge.points[std::size_t(end) - 1] - l.origin) * scale;
        for (int k = first; k < end; ++k) {
            if ((k & 0xffff) == 0)
                work.check();
            const Point b = (edge.points[std::size_t(k)] - l.origin) * scale;
            const int ja = int(a.y), jb = int(b.y); // both inside the lattice, so above 0
            for (int j = std::min(ja, jb) + 1; j <= std::max(ja, jb); ++j) {
                const int i = int(std::ceil(a.x + (b.x - a.x) * (j - a.y) / (b.y - a.y)));
                l.inside[std::size_t(j) * std::size_t(l.words) + std::size_t(i >> 6)] ^= std::uint64_t(1) << (i & 63);
            }
            a = b;
        }
    }
    for (int j = 0; j < l.height; ++j) {
        if ((j & 255) == 0)
            work.check();
        std::uint64_t* row = l.inside.data() + std::size_t(j) * std::size_t(l.words);
        std::uint64_t carry = 0; // all bits of the samples before
        for (int w = 0; w < l.words; ++w) {
            std::uint64_t word = row[w];
            for (int shift = 1; shift < 64; shift *= 2)
                word ^= word << shift;
            row[w] = word ^ carry;
            carry = row[w] >> 63 ? ~std::uint64_t(0) : 0;
        }
    }
}

using Stretches = std::vector<std::vector<Lattice::Stretch>>;

// Which tiles hold a point of the edge.
class Tiles {
public:
    Tiles(const Lattice& l, const Edge& edge)
        : width_(l.width), across_((l.width + Lattice::tile - 1) / Lattice::tile), down_((l.height + Lattice::tile - 1) / Lattice::tile),
          marked_(std::size_t(across_) * std::size_t(down_), 0)
    {
        const double scale = 1 / (l.step * Lattice::tile);
        for (Point p : edge.points)
            marked_[std::size_t(int((p.y - l.origin.y) * scale)) * std::size_t(across_) + std::size_t(int((p.x - l.origin.x) * scale))] = 1;
    }

    // The tiles up to `grow` away from a marked one, as stretches of samples for each row of tiles.
    Stretches around(int grow) const
    {
        const auto row = [this](auto& tiles, int j) { return tiles.data() + std::size_t(j) * std::size_t(across_); };
        std::vector<std::uint8_t> wide(marked_.size(), 0), band(std::size_t(across_), 0);
        for (int j = 0; j < down_; ++j)
            for (int i = 0; i < across_; ++i)
                if (row(marked_, j)[i])
                    std::fill(row(wide, j) + std::max(0, i - grow), row(wide, j) + std::min(across_, i + grow + 1), std::uint8_t(1));
        Stretches out{std::size_t(down_)};
        for (int j = 0; j < down_; ++j) {
            std::fill(band.begin(), band.end(), std::uint8_t(0));
            for (int k = std::max(0, j - grow); k <= std::min(down_ - 1, j + grow); ++k)
                for (int i = 0; i < across_; ++i)
                    band[std::size_t(i)] |= row(wide, k)[i];
            for (int i = 0; i < across_; ++i)
                if (band[std::size_t(i)]) {
                    const int begin = i;
                    while (i < across_ && band[std::size_t(i)])
                        ++i;
                    // The outermost samples stay out, so that every one has neighbours.
                    out[std::size_t(j)].push_back({std::max(1, begin * Lattice::tile), std::min(width_ - 1, i * Lattice::tile)});
                }
        }
        return out;
    }

private:
    int width_, across_, down_;
    std::vector<std::uint8_t> marked_;
};

// One row of the lattice while it is made. Each sample keeps where its vertex lies, in
// lattice units: looking it up in the edge is what would take the time.
struct Row {
    float *x, *y, *squared;
    int* vertex;
};

struct Candidate {
    float x, y, squared;
    int vertex;
};

// Both whole: picking member by member is what lets several samples go at once.
inline Candidate nearer(const Candidate& a, const Candidate& b)
{
    const bool other = b.squared < a.squared;
    return {other ? b.x : a.x, other ? b.y : a.y, other ? b.squared : a.squared, other ? b.vertex : a.vertex};
}

// The wider registers of newer processors halve the time. Which ones there are is asked as the
// program is loaded, before the thread sanitizer is ready.
#ifdef __SANITIZE_THREAD__
#define YOKAI_WIDE
#else
#define YOKAI_WIDE __attribute__((target_clones("avx2", "default")))
#endif

// Offers each sample of a row what the three nearest of a neighbouring row have.
YOKAI_WIDE void offerRow(float* __restrict x, float* __restrict y, float* __restrict squared, int* __restrict vertex, const float* __restrict fx,
                         const float* __restrict fy, const int* __restrict fv, int count, float i0, float j)
{
    for (int i = 0; i < count; ++i) {
        const float at = i0 + float(i);
        const Candidate left{fx[i - 1], fy[i - 1], (at - fx[i - 1]) * (at - fx[i - 1]) + (j - fy[i - 1]) * (j - fy[i - 1]), fv[i - 1]};
        const Candidate middle{fx[i], fy[i], (at - fx[i]) * (at - fx[i]) + (j - fy[i]) * (j - fy[i]), fv[i]};
        const Candidate right{fx[i + 1], fy[i + 1], (at - fx[i + 1]) * (at - fx[i + 1]) + (j - fy[i + 1]) * (j - fy[i + 1]), fv[i + 1]};
        const Candidate best = nearer(nearer(nearer({x[i], y[i], squared[i], vertex[i]}, left), middle), right);
        x[i] = best.x;
        y[i] = best.y;
        squared[i] = best.squared;
        vertex[i] = best.vertex;
    }
}

// Hands vertices on along a row, from left to right and back.
void offerAlong(const Row& row, int begin, int end, float j)
{
    const auto pass = [&](int from, int to, int step) {
        float x = row.x[from], y = row.y[from], dy2 = (j - y) * (j - y);
        int vertex = row.vertex[from];
        for (int i = from + step; i != to; i += step) {
            const float dx = float(i) - x, d = dx * dx + dy2;
            if (d < row.squared[i]) {
                row.squared[i] = d;
                row.x[i] = x;
                row.y[i] = y;
                row.vertex[i] = vertex;
            } else {
                x = row.x[i];
                y = row.y[i];
                dy2 = (j - y) * (j - y);
                vertex = row.vertex[i];
            }
        }
    };
    pass(begin, end, 1);
    pass(end - 1, begin - 1, -1);
}

// Vector propagation in two sweeps: down the rows, then up them and along each. Its known
// small errors do not matter: placing a point walks on along the edge.
class Sweeps {
public:
    Sweeps(Lattice& lattice, const Edge& edge, const Stretches& readable)
        : l_(lattice), edge_(edge), readable_(readable), x_(untouched<float>(lattice.count(), false)), y_(untouched<float>(lattice.count(), false))
    {}

    // Rows first..last - 1 as if there were no others.
    void run(int first, int last, const Work& work)
    {
        clear(first, last, work);
        seed(first, last, work);
        for (int j = first + 1; j < last; ++j)
            down(j, work);
        along(last - 1);
        for (int j = last - 2; j >= first; --j)
            up(j, work);
    }

    void down(int j, const Work& work)
    {
        offer(j, j - 1);
        if ((j & 7) == 0)
            work.check();
    }
    void up(int j, const Work& work)
    {
        offer(j, j + 1);
        along(j);
        if ((j & 31) == 0)
            work.check();
    }
    void along(int j)
    {
        for (const auto [begin, end] : l_.band(j))
            offerAlong(row(j), begin, end, float(j));
    }

private:
    void offer(int j, int other)
    {
        const Row to = row(j), from = row(other);
        for (const auto [begin, end] : l_.band(j))
            offerRow(to.x + begin, to.y + begin, to.squared + begin, to.vertex + begin, from.x + begin, from.y + begin, from.vertex + begin, end - begin,
                     float(begin), float(j));
    }
    Row row(int j) const
    {
        const std::size_t at = l_.index(0, j);
        return {x_.get() + at, y_.get() + at, l_.squared.get() + at, l_.vertex.get() + at};
    }

    // Nothing is near yet, in all that the sweeps read.
    void clear(int first, int last, const Work& work)
    {
        constexpr float nowhere = 1e18f, never = 1e30f;
        for (int j = first; j < last; ++j) {
            if ((j & 31) == 0)
                work.check();
            const Row r = row(j);
            for (const auto [begin, end] : readable_[std::size_t(j / Lattice::tile)]) {
                std::fill(r.x + begin - 1, r.x + end + 1, nowhere);
                std::fill(r.squared + begin, r.squared + end, never);
            }
        }
    }

    // On a coarse lattice some of the vertices do, and all tips: placing a point walks on to
    // the nearest.
    void seed(int first, int last, const Work& work)
    {
        const int stride = std::max(1, int(l_.step / 2));
        const double scale = 1 / l_.step;
        for (int v = 1; v <= int(edge_.points.size()); ++v) {
            if ((v & 0x3fff) == 0)
                work.check();
            if ((v - 1) % stride != 0 && !edge_.corner[std::size_t(v) - 1])
                continue;
            const Point p = (edge_.points[std::size_t(v) - 1] - l_.origin) * scale;
            const int i = int(p.x), j = int(p.y);
            for (int b = std::max(first, j); b <= std::min(last - 1, j + 1); ++b) {
                const Row r = row(b);
                for (int a = i; a <= i + 1; ++a) {
                    const float x = float(p.x), y = float(p.y), dx = float(a) - x, dy = float(b) - y, d = dx * dx + dy * dy;
                    if (d < r.squared[a]) {
                        r.squared[a] = d;
                        r.x[a] = x;
                        r.y[a] = y;
                        r.vertex[a] = v;
                    }
                }
            }
        }
    }

    Lattice& l_;
    const Edge& edge_;
    const Stretches& readable_;
    Untouched<float> x_, y_;
};

} // namespace

Lattice makeLattice(const Edge& edge, double step, double reach, const Work& work)
{
    Lattice l;
    l.step = step;
    const Rect box = edge.box.grown(reach + 3 * step);
    l.origin = {std::floor(box.x0), std::floor(box.y0)};
    l.width = int(std::ceil((box.x1 - l.origin.x) / step)) + 2;
    l.height = int(std::ceil((box.y1 - l.origin.y) / step)) + 2;
    l.words = (l.width + 63) / 64;
    l.vertex = untouched<int>(l.count(), true);
    l.squared = untouched<float>(l.count(), false);
    l.inside.assign(std::size_t(l.words) * std::size_t(l.height), 0);
    const int grow = int(std::ceil(reach / (step * Lattice::tile)));
    Stretches readable;
    parallelSlices(2, 1, [&](int begin, int end) {
        for (int k = begin; k < end; ++k)
            if (k == 0) {
                fillInside(l, edge, work);
            } else {
                const Tiles tiles(l, edge);
                l.bandRows = tiles.around(grow);
                readable = tiles.around(grow + 1);
            }
    });
    work.check();

    // Two halves side by side; then each learns from the other as far as the band reaches.
    Sweeps sweeps(l, edge, readable);
    const int middle = l.height / 2, margin = int(std::ceil(reach / step)) + 2;
    parallelSlices(2, 1, [&](int begin, int end) {
        for (int k = begin; k < end; ++k)
            sweeps.run(k == 0 ? 0 : middle, k == 0 ? middle : l.height, work);
    });
    for (int j = middle - 1; j >= std::max(0, middle - margin); --j)
        sweeps.up(j, work);
    for (int j = middle; j < std::min(l.height, middle + margin); ++j) {
        sweeps.down(j, work);
        sweeps.along(j);
    }
    return l;
}

} // namespace yokai
