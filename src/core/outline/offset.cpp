#include "outline/offset.h"

#include "outline/level.h"
#include "outline/refine.h"
#include "path/crossings.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>

namespace yokai {

struct DistanceField::Parts {
    Contours contours;
    Edge edge;
    mutable std::mutex mutex;
    struct Prepared {
        explicit Prepared(Lattice made) : lattice(std::move(made)), meetings(lattice) {}
        Lattice lattice;
        Meetings meetings;
    };
    mutable std::map<int, std::shared_ptr<const Prepared>> lattices; // by step
};

DistanceField::DistanceField(Contours contours) : parts_(std::make_unique<Parts>())
{
    parts_->edge = Edge(contours);
    parts_->contours = std::move(contours);
}

DistanceField::~DistanceField() = default;

const Contours& DistanceField::contours() const { return parts_->contours; }

namespace {

constexpr double besideTheEdge = 0.5; // pixels

// Within half a pixel the line is the edge itself, each point moved along the edge's own
// direction there: to its nearest edge point it would have none worth the name.
LevelLines shifted(const Contours& contours, double offset, double smallestArea)
{
    LevelLines lines;
    int base = 0;
    for (const Contour& c : contours) {
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
        if (offset != 0 && !selfCrossings(line.points, 1).empty()) {
            cutLoops(line.points, line.corners);
            line.source.assign(line.points.size(), -1);
        }
        base += int(n);
        if (std::abs(c.area) >= smallestArea && line.points.size() >= 3)
            lines.push_back(std::move(line));
    }
    return lines;
}

} // namespace

LevelLines DistanceField::at(double offset, double smallestArea, const Work& work) const
{
    LevelLines lines;
    if (parts_->edge.points.empty())
        return lines;
    const double radius = std::abs(offset);
    if (radius < besideTheEdge)
        return shifted(parts_->contours, offset, smallestArea);
    // A lattice of step s serves distances up to 8 s: its cells are small beside the line's bends.
    constexpr int coarsest = 6;
    constexpr double finest = 5, stepsToServe = 8;
    int power = radius < finest ? 0 : 1;
    while (radius >= stepsToServe * (1 << power) && power < coarsest)
        ++power;
    const double step = 1 << power;
    const double reach = 8 * step + 3 * step;
    const double far = std::max(radius + 3 * step, reach);
    std::shared_ptr<const Parts::Prepared> prepared;
    {
        const std::scoped_lock lock(parts_->mutex);
        auto& slot = parts_->lattices[power];
        // The coarsest step has no upper end; beyond its reach it is made again for the new distance.
        if (!slot || power == 6)
            slot = std::make_shared<const Parts::Prepared>(makeLattice(parts_->edge, step, far, work));
        prepared = slot;
    }
    const Level level = levelOf(parts_->edge, prepared->lattice, prepared->meetings, offset, work);
    const Placer placer(parts_->edge, prepared->lattice, level.spots, offset);
    lines.resize(level.loops.size());
    parallelSlices(int(level.loops.size()), 1, [&](int begin, int end) {
        for (int i = begin; i < end; ++i) {
            work.check();
            lines[std::size_t(i)] = refined(level.loops[std::size_t(i)], placer);
        }
    });
    std::erase_if(lines, [&](const LevelLine& line) { return line.points.size() < 3 || std::abs(signedArea(line.points)) < smallestArea; });
    return lines;
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
