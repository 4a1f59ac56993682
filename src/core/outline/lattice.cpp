#include "outline/lattice.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

void fillInside(Lattice& l, const Edge& edge)
{
    // Crossings of each lattice row with the edge, then parity along the row.
    std::vector<std::vector<float>> rows(std::size_t(l.height));
    for (std::size_t k = 0; k < edge.points.size(); ++k) {
        Point a = edge.points[k], b = edge.points[std::size_t(edge.next[k])];
        if (a.y > b.y)
            std::swap(a, b);
        // Rows with a.y < y <= b.y.
        const int j0 = std::max(0, int(std::floor((a.y - l.origin.y) / l.step)) + 1);
        const int j1 = std::min(l.height - 1, int(std::floor((b.y - l.origin.y) / l.step)));
        for (int j = j0; j <= j1; ++j) {
            const double y = l.origin.y + j * l.step;
            rows[std::size_t(j)].push_back(float((a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y) - l.origin.x) / l.step));
        }
    }
    for (int j = 0; j < l.height; ++j) {
        auto& xs = rows[std::size_t(j)];
        std::sort(xs.begin(), xs.end());
        std::uint64_t* row = l.inside.data() + std::size_t(j) * std::size_t(l.words);
        for (std::size_t k = 0; k + 1 < xs.size(); k += 2) {
            const int i0 = std::max(0, int(std::ceil(xs[k]))), i1 = std::min(l.width, int(std::ceil(xs[k + 1])));
            for (int i = i0; i < i1;) {
                if ((i & 63) == 0 && i + 64 <= i1) {
                    row[i >> 6] = ~std::uint64_t(0);
                    i += 64;
                } else {
                    row[i >> 6] |= std::uint64_t(1) << (i & 63);
                    ++i;
                }
            }
        }
    }
}

// Which tiles lie within `reach` pixels of the edge, as stretches of samples.
void markBand(Lattice& l, const Edge& edge, double reach)
{
    const int tw = (l.width + Lattice::tile - 1) / Lattice::tile, th = (l.height + Lattice::tile - 1) / Lattice::tile;
    const int grow = int(std::ceil(reach / (l.step * Lattice::tile)));
    std::vector<std::uint8_t> tiles(std::size_t(tw) * std::size_t(th), 0), wide(tiles.size(), 0);
    for (Point p : edge.points) {
        const int i = int((p.x - l.origin.x) / l.step) / Lattice::tile, j = int((p.y - l.origin.y) / l.step) / Lattice::tile;
        tiles[std::size_t(j) * std::size_t(tw) + std::size_t(i)] = 1;
    }
    for (int j = 0; j < th; ++j)
        for (int i = 0; i < tw; ++i)
            if (tiles[std::size_t(j) * std::size_t(tw) + std::size_t(i)])
                for (int k = std::max(0, i - grow); k <= std::min(tw - 1, i + grow); ++k)
                    wide[std::size_t(j) * std::size_t(tw) + std::size_t(k)] = 1;
    l.bandRows.resize(std::size_t(th));
    std::vector<std::uint8_t> row(std::size_t(tw), 0);
    for (int j = 0; j < th; ++j) {
        std::fill(row.begin(), row.end(), std::uint8_t(0));
        for (int k = std::max(0, j - grow); k <= std::min(th - 1, j + grow); ++k)
            for (int i = 0; i < tw; ++i)
                row[std::size_t(i)] |= wide[std::size_t(k) * std::size_t(tw) + std::size_t(i)];
        for (int i = 0; i < tw; ++i)
            if (row[std::size_t(i)]) {
                const int begin = i;
                while (i < tw && row[std::size_t(i)])
                    ++i;
                l.bandRows[std::size_t(j)].push_back({begin * Lattice::tile, std::min(l.width, i * Lattice::tile)});
            }
    }
}

// Rows of the lattice while it is made. Each sample keeps where its vertex is: looking it
// up in the edge is what would take the time.
class Slab {
public:
    Slab(const Lattice& lattice, const Edge& edge, int from, int to)
        : l_(lattice), edge_(edge), from_(from), to_(to), cells_(untouched<Sample>(std::size_t(lattice.width) * std::size_t(to - from)))
    {}

    // On a coarse lattice some of the vertices do: placing a point walks on to the nearest.
    void seed()
    {
        const int stride = std::max(1, int(l_.step / 2));
        for (int v = 1; v <= int(edge_.points.size()); v += stride) {
            const Point p = (edge_.points[std::size_t(v) - 1] - l_.origin) * (1 / l_.step);
            const int i = int(p.x), j = int(p.y);
            for (int y = j; y <= j + 1; ++y)
                if (y >= from_ && y < to_)
                    for (int x = i; x <= i + 1; ++x)
                        offer(row(y)[x], x, y, {float(p.x), float(p.y), 0, v});
        }
    }

    // A sweep down and one up, each row left to right and back (vector propagation
    // over the four neighbours); a vertex is handed on only within the band. Its
    // known small errors do not matter: placing a point walks on along the edge.
    void sweep(float outLimit, float inLimit, const Work& work)
    {
        const float scale = 1 / float(l_.step * l_.step);
        outLimit_ = outLimit * scale;
        inLimit_ = inLimit * scale;
        for (int j = from_; j < to_; ++j)
            sweepRow(j, j > from_ ? row(j - 1) : nullptr, work);
        for (int j = to_ - 1; j >= from_; --j)
            sweepRow(j, j + 1 < to_ ? row(j + 1) : nullptr, work);
    }

    void store(Lattice& lattice, int first, int last) const
    {
        const float scale = float(l_.step * l_.step);
        for (int j = first; j < last; ++j) {
            const Sample* from = cells_.get() + std::size_t(j - from_) * std::size_t(l_.width);
            Lattice::Cell* to = lattice.cells.get() + lattice.index(0, j);
            for (const auto [begin, end] : lattice.band(j))
                for (int i = begin; i < end; ++i)
                    to[i] = {from[i].vertex, from[i].squared * scale};
        }
    }

private:
    struct Sample {
        float x, y; // of its vertex, in lattice units, as the rest here
        float squared;
        int vertex; // + 1; 0: none yet
    };
    Sample* row(int j) { return cells_.get() + std::size_t(j - from_) * std::size_t(l_.width); }

    static void offer(Sample& cell, int i, int j, const Sample& from)
    {
        const float dx = float(i) - from.x, dy = float(j) - from.y, d = dx * dx + dy * dy;
        if (cell.vertex == 0 || d < cell.squared)
            cell = {from.x, from.y, d, from.vertex};
    }

    void sweepRow(int j, const Sample* other, const Work& work)
    {
        Sample* cells = row(j);
        const std::uint64_t* inside = l_.insideRow(j);
        const auto take = [&](Sample& cell, const Sample& from, int i) {
            if (from.vertex == 0 || from.vertex == cell.vertex || from.squared > ((inside[i >> 6] >> (i & 63)) & 1 ? inLimit_ : outLimit_))
                return;
            offer(cell, i, j, from);
        };
        for (const auto [begin, end] : l_.band(j)) {
            for (int i = begin; i < end; ++i) {
                if (other)
                    take(cells[i], other[i], i);
                if (i > begin)
                    take(cells[i], cells[i - 1], i);
            }
            for (int i = end - 2; i >= begin; --i)
                take(cells[i], cells[i + 1], i);
        }
        if ((j & 31) == 0)
            work.check();
    }

    const Lattice& l_;
    const Edge& edge_;
    int from_, to_;
    float outLimit_ = 0, inLimit_ = 0;
    std::unique_ptr<Sample[], Freed<Sample>> cells_;
};

} // namespace

Lattice makeLattice(const Edge& edge, double step, double outwards, double inwards, const Work& work)
{
    Lattice l;
    l.step = step;
    const Rect box = edge.box.grown(outwards + 3 * step);
    l.origin = {std::floor(box.x0), std::floor(box.y0)};
    l.width = int(std::ceil((box.x1 - l.origin.x) / step)) + 2;
    l.height = int(std::ceil((box.y1 - l.origin.y) / step)) + 2;
    l.words = (l.width + 63) / 64;
    l.cells = untouched<Lattice::Cell>(std::size_t(l.width) * std::size_t(l.height));
    l.inside.assign(std::size_t(l.words) * std::size_t(l.height), 0);
    fillInside(l, edge);
    markBand(l, edge, std::max(outwards, inwards));
    work.check();

    // In slabs of rows side by side. A vertex is handed on no farther than the band reaches,
    // so a slab with that much more on either side knows all that its own rows can learn.
    const int margin = int(std::ceil(std::max(outwards, inwards) / step)) + 2, slabs = l.height > 8 * margin ? 2 : 1;
    const float outLimit = float(outwards * outwards), inLimit = float(inwards * inwards);
    parallelSlices(slabs, 1, [&](int begin, int end) {
        for (int k = begin; k < end; ++k) {
            const int first = l.height * k / slabs, last = l.height * (k + 1) / slabs;
            Slab slab(l, edge, std::max(0, first - margin), std::min(l.height, last + margin));
            slab.seed();
            slab.sweep(outLimit, inLimit, work);
            slab.store(l, first, last);
        }
    });
    return l;
}

void walk(const Edge& edge, Point p, int start, Nearest& best)
{
    const auto squaredTo = [&](int v) {
        const Point d = edge.points[std::size_t(v)] - p;
        return dot(d, d);
    };
    int v = start;
    double d = squaredTo(v);
    for (const bool forward : {true, false}) {
        int k = v, misses = 0;
        while (misses < 3) {
            k = forward ? edge.next[std::size_t(k)] : edge.before[std::size_t(k)];
            if (k == start)
                break;
            const double dk = squaredTo(k);
            if (dk < d) {
                d = dk;
                v = k;
                misses = 0;
            } else {
                ++misses;
            }
        }
    }
    // The nearest point lies on one of the two segments at v, or is v.
    const Point a = edge.points[std::size_t(v)];
    if (d < best.squared)
        best = {v, a, d, true};
    for (const int k : {edge.next[std::size_t(v)], edge.before[std::size_t(v)]}) {
        const Point dir = edge.points[std::size_t(k)] - a;
        const double t = dot(p - a, dir) / std::max(1e-30, dot(dir, dir));
        if (t <= 0 || t >= 1)
            continue;
        const Point q = a + dir * t;
        const double dq = dot(p - q, p - q);
        if (dq < best.squared)
            best = {v, q, dq, false};
    }
}

} // namespace yokai
