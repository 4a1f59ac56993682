#include "outline/offset.h"

#include "outline/march.h"
#include "path/crossings.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <map>
#include <mutex>

namespace yokai {

namespace {

// All contours' points laid end to end, each knowing its neighbours.
struct Edge {
    std::vector<Point> points;
    std::vector<int> next, before;
    std::vector<unsigned char> corner;
    Rect box = Rect::nothing();
};

struct Nearest {
    int vertex = -1; // the nearer end of the nearest segment
    Point at;        // the nearest point of the edge
    double squared = std::numeric_limits<double>::infinity();
    bool onVertex = false;
};

template <class T> struct Freed {
    void operator()(T* p) const { std::free(p); }
};
// Zeroed memory that costs nothing where it is never touched.
template <class T> std::unique_ptr<T[], Freed<T>> untouched(std::size_t n)
{
    auto* p = static_cast<T*>(std::calloc(std::max<std::size_t>(n, 1), sizeof(T)));
    if (!p)
        throw std::bad_alloc();
    return std::unique_ptr<T[], Freed<T>>(p);
}

// Signed distances on a lattice of `step` pixels, to vertices only, within a band.
struct Lattice {
    struct Cell {
        int vertex;    // nearest edge vertex + 1; 0 beyond the band
        float squared; // squared distance to it, pixels
    };
    struct Stretch {
        int begin, end;
    };
    int width = 0, height = 0, words = 0;
    double step = 1;
    Point origin;
    std::unique_ptr<Cell[], Freed<Cell>> cells;
    std::vector<std::uint64_t> inside;          // one bit a sample
    std::vector<std::vector<Stretch>> bandRows; // where a row of tiles may hold distances

    static constexpr int tile = 8;
    Point at(int i, int j) const { return {origin.x + i * step, origin.y + j * step}; }
    std::size_t index(int i, int j) const { return std::size_t(j) * std::size_t(width) + std::size_t(i); }
    const std::uint64_t* insideRow(int j) const { return inside.data() + std::size_t(j) * std::size_t(words); }
    bool isInside(int i, int j) const { return (insideRow(j)[i >> 6] >> (i & 63)) & 1; }
    const std::vector<Stretch>& band(int j) const { return bandRows[std::size_t(j / tile)]; }
};

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

// `outwards` and `inwards`: how far distances are needed on either side.
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

// Nearest point of the edge, by walking along it from a nearby vertex.
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

class LineMaker {
public:
    LineMaker(const Edge& edge, const Lattice& lattice, double offset) : edge_(edge), lattice_(lattice), offset_(offset), radius_(std::abs(offset)) {}

    LevelLines make(double smallestArea, const Work& work) const
    {
        const Lattice& l = lattice_;
        const double level = offset_, infinite = std::numeric_limits<double>::infinity();
        const auto signedAt = [&](int i, int j) {
            if (i < 0 || j < 0 || i >= l.width || j >= l.height)
                return infinite;
            const Lattice::Cell& cell = l.cells[l.index(i, j)];
            const double d = cell.vertex ? std::sqrt(double(cell.squared)) : infinite;
            return l.isInside(i, j) ? -d : d;
        };
        const auto between = [&](double a, double b) {
            if (!std::isfinite(a) || !std::isfinite(b) || a == b)
                return 0.5;
            return std::clamp((level - a) / (b - a), 0.0, 1.0);
        };
        const float squaredLevel = float(level * level);
        const march::Loops loops = march::trace(
            l.width, l.height, work,
            [&](int j, std::uint64_t* words) {
                std::copy_n(l.insideRow(j), l.words, words);
                const Lattice::Cell* row = l.cells.get() + l.index(0, j);
                for (const auto [begin, end] : l.band(j))
                    for (int i = begin; i < end; ++i) {
                        const bool near = row[i].vertex != 0 && row[i].squared <= squaredLevel;
                        const std::uint64_t bit = std::uint64_t(near) << (i & 63);
                        if (level > 0)
                            words[i >> 6] |= bit;
                        else
                            words[i >> 6] &= ~bit;
                    }
            },
            [&](int i, int j) { return between(signedAt(i, j), signedAt(i + 1, j)); },
            [&](int i, int j) { return between(signedAt(i, j), signedAt(i, j + 1)); },
            [&](int i, int j) { return signedAt(i, j) + signedAt(i + 1, j) + signedAt(i, j + 1) + signedAt(i + 1, j + 1) < 4 * level; });
        // Loops first, then their points in parallel.
        std::vector<std::vector<Point>> rough;
        std::vector<unsigned char> seen(loops.points.size(), 0);
        for (int first : loops.rowCrossings) {
            if (seen[std::size_t(first)])
                continue;
            std::vector<Point> loop;
            for (int p = first; !seen[std::size_t(p)]; p = loops.next[std::size_t(p)]) {
                seen[std::size_t(p)] = 1;
                loop.push_back(l.origin + loops.points[std::size_t(p)] * l.step);
            }
            rough.push_back(std::move(loop));
        }
        LevelLines lines(rough.size());
        parallelSlices(int(rough.size()), 1, [&](int begin, int end) {
            for (int i = begin; i < end; ++i) {
                work.check();
                lines[std::size_t(i)] = refine(rough[std::size_t(i)]);
            }
        });
        std::erase_if(lines, [&](const LevelLine& line) { return line.points.size() < 3 || std::abs(signedArea(line.points)) < smallestArea; });
        return lines;
    }

private:
    struct Placed {
        Point at;
        Point normal; // away from the nearest edge point
        Nearest foot;
    };

    Nearest nearest(Point p, int hintA = -1, int hintB = -1) const
    {
        Nearest best;
        const Lattice& l = lattice_;
        const int i = std::clamp(int((p.x - l.origin.x) / l.step), 0, l.width - 2);
        const int j = std::clamp(int((p.y - l.origin.y) / l.step), 0, l.height - 2);
        int tried[6];
        int count = 0;
        const auto consider = [&](int v) {
            if (v < 0)
                return;
            // A start a few vertices along the edge walks to the same place.
            for (int k = 0; k < count; ++k)
                if (std::abs(tried[k] - v) < 4)
                    return;
            tried[count++] = v;
            walk(edge_, p, v, best);
        };
        consider(hintA);
        consider(hintB);
        consider(l.cells[l.index(i, j)].vertex - 1);
        consider(l.cells[l.index(i + 1, j)].vertex - 1);
        consider(l.cells[l.index(i, j + 1)].vertex - 1);
        consider(l.cells[l.index(i + 1, j + 1)].vertex - 1);
        return best;
    }

    // Moves a rough point to exactly the asked distance from its nearest edge point.
    bool place(Point rough, Placed& out, int hintA = -1, int hintB = -1) const
    {
        Point p = rough;
        for (int round = 0; round < 3; ++round) {
            const Nearest foot = nearest(p, hintA, hintB);
            if (foot.vertex < 0)
                return false;
            const double d = std::sqrt(foot.squared);
            Point n = d > 1e-9 ? (p - foot.at) * (1 / d) : out.normal;
            const Point target = foot.at + n * radius_;
            out = {target, n, foot};
            if (distance(target, p) < 1e-4 * lattice_.step)
                break;
            p = target;
            hintA = foot.vertex;
        }
        return true;
    }

    static double turnBetween(const Placed& a, const Placed& b) { return std::acos(std::clamp(dot(a.normal, b.normal), -1.0, 1.0)); }

    // Where a point keeps the distance to two stretches of the edge at once.
    bool meet(const Placed& a, const Placed& b, Point& at) const
    {
        Point x = mix(a.at, b.at, 0.5);
        Nearest fa = a.foot, fb = b.foot;
        for (int round = 0; round < 8; ++round) {
            Nearest na, nb;
            walk(edge_, x, fa.vertex, na);
            walk(edge_, x, fb.vertex, nb);
            if (na.vertex == nb.vertex)
                return false;
            fa = na;
            fb = nb;
            const double da = std::sqrt(na.squared), db = std::sqrt(nb.squared);
            if (da < 1e-9 || db < 1e-9)
                return false;
            const Point ga = (x - na.at) * (1 / da), gb = (x - nb.at) * (1 / db);
            const double c = cross(ga, gb);
            if (std::abs(c) < 0.02)
                return false;
            const double ra = radius_ - da, rb = radius_ - db;
            const Point step{(ra * gb.y - rb * ga.y) / c, (rb * ga.x - ra * gb.x) / c};
            x = x + step;
            if (norm(step) < 1e-6)
                break;
        }
        if (distance(x, a.at) + distance(x, b.at) > 4 * distance(a.at, b.at) + 0.2)
            return false;
        // The meeting point must be on the line: nothing else may lie nearer.
        if (std::sqrt(nearest(x, fa.vertex, fb.vertex).squared) < radius_ - 0.02)
            return false;
        at = x;
        return true;
    }

    void push(LevelLine& line, Point p, bool corner, int source) const
    {
        if (!line.points.empty() && distance(line.points.back(), p) < 0.02) {
            if (corner) {
                line.points.back() = p;
                line.corners.back() = 1;
            }
            return;
        }
        line.points.push_back(p);
        line.corners.push_back(corner);
        line.source.push_back(source);
    }

    void between(LevelLine& line, const Placed& a, const Placed& b, int depth) const
    {
        const double gap = distance(a.at, b.at);
        const double turn = turnBetween(a, b);
        if (turn < 0.20 || gap < 0.04)
            return;
        // Going on smoothly, or two fronts meeting? On a smooth stretch the chord bisects the two directions.
        const bool fine = gap < 0.35 || depth == 0;
        if (fine) {
            Point at;
            if (turn > 0.12 && a.foot.vertex != b.foot.vertex && meet(a, b, at))
                push(line, at, turn > 0.25, -1);
            return;
        }
        Placed m;
        m.normal = unit(a.normal + b.normal);
        if (!place(mix(a.at, b.at, 0.5), m, a.foot.vertex, b.foot.vertex))
            return;
        // A point thrown outside the pair belongs to another stretch.
        if (distance(m.at, a.at) > 1.5 * gap || distance(m.at, b.at) > 1.5 * gap)
            return;
        between(line, a, m, depth - 1);
        push(line, m.at, false, sourceOf(m));
        between(line, m, b, depth - 1);
    }

    int sourceOf(const Placed& p) const { return p.foot.onVertex && edge_.corner[std::size_t(p.foot.vertex)] ? p.foot.vertex : -1; }

    // Where two fronts run almost along each other, the line would dart into the slit
    // between them and back: no tool can follow that, and nothing is gained by it.
    static void removeSpikes(LevelLine& line)
    {
        LevelLine out;
        const auto turnsBack = [](Point a, Point b, Point c) {
            const Point in = b - a, on = c - b;
            return dot(in, on) < -0.93 * norm(in) * norm(on);
        };
        const auto append = [&](std::size_t i) {
            while (out.points.size() >= 2 && turnsBack(out.points[out.points.size() - 2], out.points.back(), line.points[i])) {
                out.points.pop_back();
                out.corners.pop_back();
                out.source.pop_back();
                out.corners.back() = 1;
            }
            out.points.push_back(line.points[i]);
            out.corners.push_back(line.corners[i]);
            out.source.push_back(line.source[i]);
        };
        for (std::size_t i = 0; i < line.points.size(); ++i)
            append(i);
        while (out.points.size() > 3 && (turnsBack(out.points[out.points.size() - 2], out.points.back(), out.points[0]) ||
                                         turnsBack(out.points.back(), out.points[0], out.points[1]))) {
            out.points.pop_back();
            out.corners.pop_back();
            out.source.pop_back();
        }
        line = std::move(out);
    }

    LevelLine refine(const std::vector<Point>& rough) const
    {
        LevelLine line;
        std::vector<Placed> placed;
        placed.reserve(rough.size());
        for (Point p : rough) {
            Placed out;
            out.normal = {1, 0};
            if (place(p, out) && distance(out.at, p) < 2.5 * lattice_.step)
                if (placed.empty() || distance(placed.back().at, out.at) > 0.15 * lattice_.step)
                    placed.push_back(out);
        }
        if (placed.size() < 3)
            return line;
        line.points.reserve(placed.size() * 5 / 4);
        for (std::size_t i = 0; i < placed.size(); ++i) {
            push(line, placed[i].at, false, sourceOf(placed[i]));
            between(line, placed[i], placed[i + 1 == placed.size() ? 0 : i + 1], 10);
        }
        removeSpikes(line);
        // In narrow places a refined point may fall behind its neighbour.
        if (!selfCrossings(line.points, 1).empty()) {
            cutLoops(line.points, line.corners);
            line.source.assign(line.points.size(), -1);
        }
        // Points were set wherever the line bends; where it still turns at one, that is a corner.
        const std::size_t n = line.points.size();
        for (std::size_t i = 0; i < n; ++i) {
            const Point in = line.points[i] - line.points[(i + n - 1) % n], out = line.points[(i + 1) % n] - line.points[i];
            if (std::atan2(std::abs(cross(in, out)), dot(in, out)) > 0.5)
                line.corners[i] = 1;
        }
        return line;
    }

    const Edge& edge_;
    const Lattice& lattice_;
    double offset_, radius_;
};

} // namespace

struct DistanceField::Parts {
    Contours contours;
    Edge edge;
    mutable std::mutex mutex;
    // By step and the band's reach on either side.
    mutable std::map<std::pair<int, bool>, std::shared_ptr<const Lattice>> lattices;
};

DistanceField::DistanceField(Contours contours) : parts_(std::make_unique<Parts>())
{
    Edge& e = parts_->edge;
    std::size_t total = 0;
    for (const Contour& c : contours)
        total += c.points.size();
    e.points.reserve(total);
    e.next.reserve(total);
    e.before.reserve(total);
    e.corner.reserve(total);
    for (const Contour& c : contours) {
        const int first = int(e.points.size()), n = int(c.points.size());
        for (int i = 0; i < n; ++i) {
            e.points.push_back(c.points[std::size_t(i)]);
            e.next.push_back(first + (i + 1) % n);
            e.before.push_back(first + (i + n - 1) % n);
            e.corner.push_back(c.corners.empty() ? 0 : c.corners[std::size_t(i)]);
            e.box.add(c.points[std::size_t(i)]);
        }
    }
    parts_->contours = std::move(contours);
}

DistanceField::~DistanceField() = default;

const Contours& DistanceField::contours() const { return parts_->contours; }

LevelLines DistanceField::at(double offset, double smallestArea, const Work& work) const
{
    LevelLines lines;
    if (parts_->edge.points.empty())
        return lines;
    const double radius = std::abs(offset);
    // Within half a pixel the line is the edge itself, each point moved along the edge's own
    // direction there: to its nearest edge point it would have none worth the name.
    if (radius < 0.5) {
        int base = 0;
        for (const Contour& c : parts_->contours) {
            const std::size_t n = c.points.size();
            LevelLine line{c.points, c.corners, std::vector<int>(n, -1)};
            if (line.corners.empty())
                line.corners.assign(n, 0);
            for (std::size_t i = 0; i < n; ++i) {
                const Point in = unit(c.points[i] - c.points[(i + n - 1) % n]), out = unit(c.points[(i + 1) % n] - c.points[i]);
                const Point along = unit(in + out);
                // A true corner's tip moves farther, so that its sides keep the distance.
                const double reach = line.corners[i] ? std::min(4.0, 1 / std::max(0.25, dot(along, in))) : 1;
                line.points[i] = c.points[i] + Point{along.y, -along.x} * (offset * reach);
                if (line.corners[i])
                    line.source[i] = base + int(i);
            }
            if (radius > 0 && !selfCrossings(line.points, 1).empty()) {
                cutLoops(line.points, line.corners);
                line.source.assign(line.points.size(), -1);
            }
            base += int(n);
            if (std::abs(c.area) >= smallestArea && line.points.size() >= 3)
                lines.push_back(std::move(line));
        }
        return lines;
    }
    // A lattice of step s serves distances up to 8 s: its cells are small beside the line's bends.
    int power = radius < 5 ? 0 : 1;
    while (radius >= 8.0 * (1 << power) && power < 6)
        ++power;
    const double step = 1 << power;
    const double reach = 8 * step + 3 * step;
    const double far = std::max(radius + 3 * step, reach);
    std::shared_ptr<const Lattice> lattice;
    {
        const std::pair key{power, offset > 0};
        const std::scoped_lock lock(parts_->mutex);
        auto& slot = parts_->lattices[key];
        // The coarsest step has no upper end; beyond its reach it is made again for the new distance.
        if (!slot || power == 6)
            slot = std::make_shared<const Lattice>(makeLattice(parts_->edge, step, offset > 0 ? far : 3 * step, offset > 0 ? 3 * step : far, work));
        lattice = slot;
    }
    return LineMaker(parts_->edge, *lattice, offset).make(smallestArea, work);
}

double signedDistance(const Contours& contours, Point p)
{
    double best = std::numeric_limits<double>::infinity();
    bool inside = false;
    for (const Contour& c : contours) {
        inside ^= contains(c.points, p);
        for (std::size_t i = 0; i < c.points.size(); ++i) {
            const Point a = c.points[i], d = c.points[i + 1 == c.points.size() ? 0 : i + 1] - a;
            const double t = std::clamp(dot(p - a, d) / std::max(1e-300, dot(d, d)), 0.0, 1.0);
            best = std::min(best, distance(p, a + d * t));
        }
    }
    return inside ? -best : best;
}

} // namespace yokai
