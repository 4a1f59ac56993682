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

    const auto offer = [&](Lattice::Cell& cell, int i, int j, int v) {
        const Point p = edge.points[std::size_t(v) - 1];
        const double dx = l.origin.x + i * step - p.x, dy = l.origin.y + j * step - p.y;
        const float d = float(dx * dx + dy * dy);
        if (cell.vertex == 0 || d < cell.squared)
            cell = {v, d};
    };
    // On a coarse lattice some of the vertices do: placing a point walks on to the nearest.
    const int stride = std::max(1, int(step / 2));
    for (int v = 1; v <= int(edge.points.size()); v += stride) {
        const Point p = edge.points[std::size_t(v) - 1];
        const int i = int((p.x - l.origin.x) / step), j = int((p.y - l.origin.y) / step);
        offer(l.cells[l.index(i, j)], i, j, v);
        offer(l.cells[l.index(i + 1, j)], i + 1, j, v);
        offer(l.cells[l.index(i, j + 1)], i, j + 1, v);
        offer(l.cells[l.index(i + 1, j + 1)], i + 1, j + 1, v);
    }
    // A sweep down and one up, each row left to right and back (vector propagation
    // over the four neighbours); a vertex is handed on only within the band. Its
    // known small errors do not matter: placing a point walks on along the edge.
    const float outLimit = float(outwards * outwards), inLimit = float(inwards * inwards);
    const auto take = [&](Lattice::Cell& cell, const Lattice::Cell& from, int i, int j) {
        if (from.vertex == 0 || from.vertex == cell.vertex || from.squared > (l.isInside(i, j) ? inLimit : outLimit))
            return;
        offer(cell, i, j, from.vertex);
    };
    const auto sweepRow = [&](int j, int fromRow) {
        Lattice::Cell* row = l.cells.get() + l.index(0, j);
        const Lattice::Cell* other = fromRow >= 0 && fromRow < l.height ? l.cells.get() + l.index(0, fromRow) : nullptr;
        for (const auto [begin, end] : l.band(j)) {
            for (int i = begin; i < end; ++i) {
                if (other)
                    take(row[i], other[i], i, j);
                if (i > begin)
                    take(row[i], row[i - 1], i, j);
            }
            for (int i = end - 2; i >= begin; --i)
                take(row[i], row[i + 1], i, j);
        }
        if ((j & 31) == 0)
            work.check();
    };
    for (int j = 0; j < l.height; ++j)
        sweepRow(j, j - 1);
    for (int j = l.height - 1; j >= 0; --j)
        sweepRow(j, j + 1);
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
