#include "outline/refine.h"

#include "path/crossings.h"

#include <algorithm>
#include <cmath>

namespace yokai {

Placer::Placer(const Edge& edge, const Lattice& lattice, const Spots& spots, double offset)
    : edge_(edge), lattice_(lattice), spots_(spots), offset_(offset), radius_(std::abs(offset))
{}

Placer::Cell Placer::cellOf(Point p) const
{
    const Point q = (p - lattice_.origin) * (1 / lattice_.step);
    return {std::clamp(int(q.x), 0, lattice_.width - 2), std::clamp(int(q.y), 0, lattice_.height - 2)};
}

// A point of the one stretch of the edge that all corners of a cell and the hints have as their
// nearest; -1 where there are more.
int Placer::oneStretchRound(Cell cell, int hintA, int hintB) const
{
    const int* above = lattice_.vertex.get() + lattice_.index(cell.i, cell.j);
    const int* below = above + lattice_.width;
    int first = std::min(std::min(above[0], above[1]), std::min(below[0], below[1])) - 1;
    int last = std::max(std::max(above[0], above[1]), std::max(below[0], below[1])) - 1;
    for (const int hint : {hintA, hintB})
        if (hint >= 0) {
            first = std::min(first, hint);
            last = std::max(last, hint);
        }
    return first >= 0 && oneStretch(edge_, lattice_.step, first, last) ? (first + last) / 2 : -1;
}

// `contested`: other stretches of the edge lie about as near.
Nearest Placer::nearest(Point p, int hintA, int hintB, bool& contested) const
{
    contested = false;
    Nearest best;
    const Lattice& l = lattice_;
    const auto [i, j] = cellOf(p);
    if (const int one = oneStretchRound({i, j}, hintA, hintB); one >= 0) {
        walk(edge_, p, one, best);
        return best;
    }
    constexpr int most = 22; // two hints, four corners, and what fronts may meet in a cell
    int starts[most];
    double squared[most];
    int count = 0, nearestStart = -1;
    const auto consider = [&](int v) {
        if (v < 0 || count == most)
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
    // A start a little along the edge walks to the same place, and so does one that a walk has come to.
    const int first = starts[nearestStart];
    int met[most] = {best.vertex};
    int meetings = 1, walked = 0;
    const auto walkOn = [&] {
        for (; walked < count; ++walked) {
            const int start = starts[walked];
            const auto same = [&](int v) { return oneStretch(edge_, l.step, start, v); };
            if (same(first) || std::any_of(met, met + meetings, same))
                continue;
            Nearest other;
            walk(edge_, p, start, other);
            met[meetings++] = other.vertex;
            if (other.squared < best.squared)
                best = other;
        }
    };
    walkOn();
    contested = meetings > 1;
    if (contested)
        if (const auto spot = spots_.find(l.index(i, j)); spot != spots_.end()) {
            for (const int v : spot->second)
                consider(v);
            walkOn();
        }
    return best;
}

bool Placer::place(Point rough, Placed& out, int hintA, int hintB) const
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
            const Point along = edge_.points[std::size_t(edge_.next(foot.vertex))] - edge_.points[std::size_t(edge_.before(foot.vertex))];
            const Point away = unit(Point{along.y, -along.x} * (offset_ > 0 ? 1.0 : -1.0));
            if (dot(n, away) < 0)
                n = away;
        }
        const Point target = foot.at + n * radius_;
        out = {target, n, foot};
        // On the way to its nearest point of the edge nothing else comes nearer, and in the same cell
        // nothing else would be looked at.
        if (std::abs(d - radius_) < 1e-4 * lattice_.step || (d > radius_ && (!contested || cellOf(p) == cellOf(target))))
            break;
        p = target;
        hintA = foot.vertex;
    }
    return true;
}

bool Placer::meet(const Placed& a, const Placed& b, Point& at) const
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
        constexpr double alongEachOther = 0.02; // radians between two fronts
        if (std::abs(c) < alongEachOther)
            return false;
        const double ra = radius_ - da, rb = radius_ - db;
        const Point step{(ra * gb.y - rb * ga.y) / c, (rb * ga.x - ra * gb.x) / c};
        x = x + step;
        if (norm(step) < 1e-6)
            break;
    }
    constexpr double farAway = 4, least = 0.2; // times their distance, and px more
    if (distance(x, a.at) + distance(x, b.at) > farAway * distance(a.at, b.at) + least)
        return false;
    // The meeting point must be on the line: nothing else may lie nearer.
    bool contested = false;
    constexpr double nearer = 0.02; // px
    if (std::sqrt(nearest(x, fa.vertex, fb.vertex, contested).squared) < radius_ - nearer)
        return false;
    at = x;
    return true;
}

int Placer::sourceOf(const Placed& p) const { return p.foot.other < 0 && edge_.corner[std::size_t(p.foot.vertex)] ? p.foot.vertex : -1; }

namespace {

// Whether the line turns by more between two of its points than an angle of this cosine.
bool turnsBeyond(const Placer::Placed& a, const Placer::Placed& b, double cosine) { return dot(a.normal, b.normal) < cosine; }

void push(LevelLine& line, Point p, bool corner, int source)
{
    constexpr double same = 0.02; // px
    if (!line.points.empty() && distance(line.points.back(), p) < same) {
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

void between(LevelLine& line, const Placer& placer, const Placer::Placed& a, const Placer::Placed& b, int depth)
{
    const double gap = distance(a.at, b.at);
    constexpr double smooth = 0.20, corner = 0.25;                   // radians
    constexpr double leastGap = 0.04, fineGap = 0.35, outside = 1.5; // px, px, and of the gap
    if (!turnsBeyond(a, b, std::cos(smooth)) || gap < leastGap)
        return;
    // Going on smoothly, or two fronts meeting? On a smooth stretch the chord bisects the two directions.
    const bool fine = gap < fineGap || depth == 0;
    if (fine) {
        Point at;
        if (a.foot.vertex != b.foot.vertex && placer.meet(a, b, at))
            push(line, at, turnsBeyond(a, b, std::cos(corner)), -1);
        return;
    }
    Placer::Placed m;
    m.normal = unit(a.normal + b.normal);
    if (!placer.place(mix(a.at, b.at, 0.5), m, a.foot.vertex, b.foot.vertex))
        return;
    // A point thrown outside the pair belongs to another stretch.
    if (distance(m.at, a.at) > outside * gap || distance(m.at, b.at) > outside * gap)
        return;
    between(line, placer, a, m, depth - 1);
    push(line, m.at, false, placer.sourceOf(m));
    between(line, placer, m, b, depth - 1);
}

} // namespace

// Where two fronts run almost along each other, the line would dart into the slit
// between them and back: no tool can follow that, and nothing is gained by it.
void removeSpikes(LevelLine& line)
{
    LevelLine out;
    const auto turnsBack = [](Point a, Point b, Point c) {
        const Point in = b - a, on = c - b;
        constexpr double back = -0.93; // the cosine of 158 degrees
        return dot(in, on) < back * norm(in) * norm(on);
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
    // At the seam the point that the line turns back at is the last or the first one.
    std::size_t first = 0;
    const auto at = [&](std::size_t i) { return out.points[i]; };
    for (std::size_t last = out.points.size(); last - first > 3;) {
        if (turnsBack(at(last - 2), at(last - 1), at(first)))
            --last;
        else if (turnsBack(at(last - 1), at(first), at(first + 1)))
            ++first;
        else
            break;
        out.points.resize(last);
        out.corners.resize(last);
        out.source.resize(last);
    }
    const auto leaveOut = [first](auto& values) { values.erase(values.begin(), values.begin() + std::ptrdiff_t(first)); };
    leaveOut(out.points);
    leaveOut(out.corners);
    leaveOut(out.source);
    line = std::move(out);
}

namespace {

// A line may be as long as all others together: its points are placed in runs of so many, side by
// side, wherever it is cut the same on every machine.
constexpr int run = 1024;
int runs(std::size_t points) { return int((points + run - 1) / run); }

// Each rough point in its place, but for those that lead nowhere or say nothing more.
std::vector<Placer::Placed> placedOf(const Polyline& rough, const Placer& placer)
{
    const double step = placer.step();
    struct Try {
        Placer::Placed to{{}, {1, 0}, {}};
        bool good = false;
    };
    constexpr double lost = 2.5; // steps that a point may be moved: farther, it is of another stretch
    std::vector<Try> tries(rough.size());
    parallelSlices(runs(rough.size()), 1, [&](int begin, int end) {
        for (std::size_t i = std::size_t(begin) * run; i < std::min(rough.size(), std::size_t(end) * run); ++i)
            tries[i].good = placer.place(rough[i], tries[i].to) && distance(tries[i].to.at, rough[i]) < lost * step;
    });
    // Points that lie close together say nothing more, but in small loops and on the two sides
    // of a narrow gap.
    constexpr double pointsOfASmallLoop = 40;
    constexpr double usual = 0.15, bend = 0.8; // of a step apart; radians that say more
    const double apart = std::min(usual * step, length(rough) / pointsOfASmallLoop);
    std::vector<Placer::Placed> placed;
    placed.reserve(rough.size());
    const auto saysMore = [&](const Placer::Placed& a, const Placer::Placed& b) { return distance(a.at, b.at) > apart || turnsBeyond(a, b, std::cos(bend)); };
    for (const Try& t : tries)
        if (t.good && (placed.empty() || saysMore(placed.back(), t.to)))
            placed.push_back(t.to);
    while (placed.size() > 1 && !saysMore(placed.back(), placed.front()))
        placed.pop_back();
    return placed;
}

// The line through them, with more points where it turns.
LevelLine joined(const std::vector<Placer::Placed>& placed, const Placer& placer)
{
    constexpr int deepest = 10; // halvings of what lies between two of them
    std::vector<LevelLine> pieces(std::size_t(runs(placed.size())));
    parallelSlices(int(pieces.size()), 1, [&](int begin, int end) {
        for (int k = begin; k < end; ++k)
            for (std::size_t i = std::size_t(k) * run; i < std::min(placed.size(), std::size_t(k + 1) * run); ++i) {
                push(pieces[std::size_t(k)], placed[i].at, false, placer.sourceOf(placed[i]));
                between(pieces[std::size_t(k)], placer, placed[i], placed[i + 1 == placed.size() ? 0 : i + 1], deepest);
            }
    });
    LevelLine line = std::move(pieces.front());
    for (std::size_t k = 1; k < pieces.size(); ++k) {
        const LevelLine& next = pieces[k];
        line.points.insert(line.points.end(), next.points.begin(), next.points.end());
        line.corners.insert(line.corners.end(), next.corners.begin(), next.corners.end());
        line.source.insert(line.source.end(), next.source.begin(), next.source.end());
    }
    return line;
}

} // namespace

LevelLine refined(const Polyline& rough, const Placer& placer)
{
    const std::vector<Placer::Placed> placed = placedOf(rough, placer);
    if (placed.size() < 3)
        return {};
    LevelLine line = joined(placed, placer);
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

} // namespace yokai
