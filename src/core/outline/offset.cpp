#include "outline/offset.h"

#include "outline/lattice.h"
#include "outline/march.h"
#include "path/crossings.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>

namespace yokai {

namespace {

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
            const std::size_t at = l.index(i, j);
            const double d = l.vertex[at] ? std::sqrt(double(l.squared[at])) * l.step : infinite;
            return l.isInside(i, j) ? -d : d;
        };
        const auto between = [&](double a, double b) {
            if (!std::isfinite(a) || !std::isfinite(b) || a == b)
                return 0.5;
            return std::clamp((level - a) / (b - a), 0.0, 1.0);
        };
        const std::vector<std::uint64_t> within = withinLevel(work);
        const march::Loops loops = march::trace(
            l.width, l.height, work, [&](int j, std::uint64_t* words) { std::copy_n(within.data() + std::size_t(j) * std::size_t(l.words), l.words, words); },
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
    // Which samples lie within the line, one bit each, as Lattice::inside.
    std::vector<std::uint64_t> withinLevel(const Work& work) const
    {
        const Lattice& l = lattice_;
        std::vector<std::uint64_t> out = l.inside;
        const float squaredLevel = float(offset_ * offset_ / (l.step * l.step));
        parallelSlices(l.height, 32, [&](int first, int last) {
            std::vector<std::uint8_t> near(std::size_t(l.words) * 64);
            for (int j = first; j < last; ++j) {
                work.check();
                const float* squared = l.squared.get() + l.index(0, j);
                std::uint64_t* words = out.data() + std::size_t(j) * std::size_t(l.words);
                for (const auto [begin, end] : l.band(j)) {
                    const int from = begin & ~63, to = (end + 63) & ~63;
                    std::fill(near.begin() + from, near.begin() + to, std::uint8_t(0));
                    for (int i = begin; i < end; ++i)
                        near[std::size_t(i)] = squared[i] <= squaredLevel;
                    for (int i = from; i < to; i += 64) {
                        const std::uint64_t bits = march::packed(near.data() + i);
                        words[i >> 6] = offset_ > 0 ? words[i >> 6] | bits : words[i >> 6] & ~bits;
                    }
                }
            }
        });
        return out;
    }

    struct Placed {
        Point at;
        Point normal; // away from the nearest edge point
        Nearest foot;
    };

    // `contested`: other stretches of the edge lie about as near.
    Nearest nearest(Point p, int hintA, int hintB, bool& contested) const
    {
        contested = false;
        Nearest best;
        const Lattice& l = lattice_;
        const int i = std::clamp(int((p.x - l.origin.x) / l.step), 0, l.width - 2);
        const int j = std::clamp(int((p.y - l.origin.y) / l.step), 0, l.height - 2);
        int starts[6];
        double squared[6];
        int count = 0, nearestStart = -1;
        const auto consider = [&](int v) {
            if (v < 0)
                return;
            for (int k = 0; k < count; ++k)
                if (starts[k] == v)
                    return;
            const Point d = edge_.points[std::size_t(v)] - p;
            squared[count] = dot(d, d);
            starts[count] = v;
            if (nearestStart < 0 || squared[count] < squared[nearestStart])
                nearestStart = count;
            ++count;
        };
        consider(hintA);
        consider(hintB);
        for (const std::size_t at : {l.index(i, j), l.index(i + 1, j), l.index(i, j + 1), l.index(i + 1, j + 1)})
            consider(l.vertex[at] - 1);
        if (count == 0)
            return best;
        walk(edge_, p, starts[nearestStart], best);
        // A start a little along the edge walks to the same place, and so does the one a
        // walk has come by.
        const int same = 4 + int(2 * l.step);
        for (int k = 0; k < count; ++k)
            if (k != nearestStart && std::abs(starts[k] - starts[nearestStart]) > same && std::abs(starts[k] - best.vertex) > same) {
                walk(edge_, p, starts[k], best);
                contested = true;
            }
        return best;
    }

    // Moves a rough point to exactly the asked distance from its nearest edge point.
    bool place(Point rough, Placed& out, int hintA = -1, int hintB = -1) const
    {
        Point p = rough;
        for (int round = 0; round < 3; ++round) {
            bool contested = false;
            const Nearest foot = nearest(p, hintA, hintB, contested);
            if (foot.vertex < 0)
                return false;
            const double d = std::sqrt(foot.squared);
            Point n = d > 1e-9 ? (p - foot.at) * (1 / d) : out.normal;
            if (radius_ < 2) { // so near the edge a rough point may lie beyond it
                const Point along =
                    edge_.points[std::size_t(edge_.next[std::size_t(foot.vertex)])] - edge_.points[std::size_t(edge_.before[std::size_t(foot.vertex)])];
                const Point away = unit(Point{along.y, -along.x} * (offset_ > 0 ? 1.0 : -1.0));
                if (dot(n, away) < 0)
                    n = away;
            }
            const Point target = foot.at + n * radius_;
            out = {target, n, foot};
            // On the way to its nearest point of the edge nothing else comes nearer.
            if (std::abs(d - radius_) < 1e-4 * lattice_.step || (d > radius_ && !contested))
                break;
            p = target;
            hintA = foot.vertex;
        }
        return true;
    }

    // Whether the line turns by more between two of its points than an angle of this cosine.
    static bool turnsBeyond(const Placed& a, const Placed& b, double cosine) { return dot(a.normal, b.normal) < cosine; }

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
        bool contested = false;
        if (std::sqrt(nearest(x, fa.vertex, fb.vertex, contested).squared) < radius_ - 0.02)
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
        if (!turnsBeyond(a, b, std::cos(0.20)) || gap < 0.04)
            return;
        // Going on smoothly, or two fronts meeting? On a smooth stretch the chord bisects the two directions.
        const bool fine = gap < 0.35 || depth == 0;
        if (fine) {
            Point at;
            if (a.foot.vertex != b.foot.vertex && meet(a, b, at))
                push(line, at, turnsBeyond(a, b, std::cos(0.25)), -1);
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
        while (out.points.size() > 3 &&
               (turnsBack(out.points[out.points.size() - 2], out.points.back(), out.points[0]) || turnsBack(out.points.back(), out.points[0], out.points[1]))) {
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
            const Point in = line.points[i] - line.points[around(i + n - 1, n)], out = line.points[around(i + 1, n)] - line.points[i];
            if (dot(in, out) < std::cos(0.5) * norm(in) * norm(out))
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
    mutable std::map<int, std::shared_ptr<const Lattice>> lattices; // by step
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
            e.next.push_back(first + around(i + 1, n));
            e.before.push_back(first + around(i - 1, n));
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
                const std::size_t before = around(i + n - 1, n), after = around(i + 1, n);
                const Point in = unit(c.points[i] - c.points[before]), out = unit(c.points[after] - c.points[i]);
                // Neighbours may lie very close; two points away the direction is surer.
                const bool smooth = !line.corners[before] && !line.corners[i] && !line.corners[after];
                const Point along = smooth ? unit(c.points[around(i + 2, n)] - c.points[around(i + n - 2, n)]) : unit(in + out);
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
        const std::scoped_lock lock(parts_->mutex);
        auto& slot = parts_->lattices[power];
        // The coarsest step has no upper end; beyond its reach it is made again for the new distance.
        if (!slot || power == 6)
            slot = std::make_shared<const Lattice>(makeLattice(parts_->edge, step, far, work));
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
