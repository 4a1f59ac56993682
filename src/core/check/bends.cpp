#include "check/bends.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

namespace yokai {

namespace {

constexpr double machineStep = 0.002;                  // mm: what no tool shows
constexpr double sharp = 10 * std::numbers::pi / 180; // radians at one node; less is a join of two curves

// A place of the path with how the path bends from there to the next.
struct Bend {
    Point at;
    double along = 0;  // mm from the path's start
    double turn = 0;   // radians, inside positive
    double length = 0; // mm over which it turns so; 0 at a node
    double radius = 0; // the least of it
    bool tight = false;
};

// Places to a curve: more where it turns more.
int placesOf(Point from, const Segment& s)
{
    constexpr double apart = 5 * std::numbers::pi / 180; // radians from one to the next
    constexpr int least = 4, most = 64;
    const Point a = s.c1 - from, b = s.c2 - s.c1, c = s.end - s.c2;
    const auto angle = [](Point p, Point q) { return std::abs(std::atan2(cross(p, q), dot(p, q))); };
    return std::clamp(int(std::ceil((angle(a, b) + angle(b, c)) / apart)), least, most);
}

double angleBetween(Point in, Point out) { return std::atan2(cross(in, out), dot(in, out)); }

// The turn at the end of segment k. A small one between short segments is a part of a bend drawn in
// straight lines, and as wide as they are long.
Bend bendAt(const Path& path, std::size_t k, Point from, double along, double side, double toolRadius)
{
    const Segment &s = path.segments[k], &next = path.segments[(k + 1) % path.segments.size()];
    const double turn = side * angleBetween(tangentOn(from, s, 1), tangentOn(s.end, next, 0));
    if (turn <= 0)
        return {s.end, along, 0, 0, 1e9, false};
    if (turn > sharp)
        return {s.end, along, turn, 0, 0, true};
    const double before = distance(from, s.end), after = distance(s.end, next.end);
    const double radius = (before + after) / 2 / turn;
    return {s.end, along, turn, ((s.line ? before : 0) + (next.line ? after : 0)) / 2, radius, radius < toolRadius};
}

// `side`: -1 for inside bends of a part's outline, 1 for the others.
std::vector<Bend> bendsOf(const Path& path, double side, double toolRadius)
{
    std::vector<Bend> out;
    const std::size_t n = path.segments.size();
    Point from = path.start;
    double along = 0;
    for (std::size_t k = 0; k < n; ++k) {
        const Segment& s = path.segments[k];
        const int places = s.line ? 0 : placesOf(from, s);
        for (int i = 0; i < places; ++i) {
            const double t0 = double(i) / places, t1 = double(i + 1) / places, middle = (t0 + t1) / 2;
            const double length = distance(pointOn(from, s, t0), pointOn(from, s, t1));
            double tightest = 0; // curvature
            for (const double t : {t0, middle, t1})
                tightest = std::max(tightest, side * curvatureOn(from, s, t));
            const double turn = side * angleBetween(tangentOn(from, s, t0), tangentOn(from, s, t1));
            out.push_back({pointOn(from, s, middle), along, std::max(0.0, turn), length, tightest > 0 ? 1 / tightest : 1e9, tightest * toolRadius > 1});
            along += length;
        }
        if (s.line)
            along += distance(from, s.end);
        if (path.closed || k + 1 < n)
            out.push_back(bendAt(path, k, from, along, side, toolRadius));
        from = s.end;
    }
    return out;
}

// How much of a stretch the tool would leave standing: its own arc stays that far from the tip of
// one of the stretch's turn and mean radius.
double leftStanding(double turn, double length, double toolRadius)
{
    constexpr double most = 0.95 * std::numbers::pi; // beyond, the tip runs off to infinity
    const double mean = turn > 0 ? length / turn : toolRadius;
    return std::max(0.0, toolRadius - mean) * (1 / std::cos(std::min(turn, most) / 2) - 1);
}

// The fault of a stretch of bends, of which the first and last are tight.
void judge(std::span<const Bend> stretch, double toolRadius, Faults& out)
{
    double turn = 0, length = 0, left = 0;
    const Bend* tightest = &stretch.front();
    for (const Bend& bend : stretch) {
        if (!bend.tight)
            continue;
        turn += bend.turn;
        length += bend.length;
        if (bend.radius == 0)
            left = std::max(left, leftStanding(bend.turn, 0, toolRadius));
        if (bend.radius < tightest->radius || (bend.radius == tightest->radius && bend.turn > tightest->turn))
            tightest = &bend;
    }
    if (std::max(left, leftStanding(turn, length, toolRadius)) > machineStep)
        out.push_back({tightest->at, tightest->radius});
}

// Begins a closed path's bends where a stretch of tight ones does, so that none is cut in two.
void beginAtAStretch(std::vector<Bend>& bends, double whole, double toolRadius)
{
    const auto last = std::find_if(bends.rbegin(), bends.rend(), [](const Bend& b) { return b.tight; });
    if (last == bends.rend())
        return;
    double end = last->along + last->length - whole; // of the tight one before
    for (std::size_t k = 0; k < bends.size(); ++k) {
        if (!bends[k].tight)
            continue;
        if (bends[k].along - end >= toolRadius) {
            for (std::size_t b = 0; b < k; ++b)
                bends[b].along += whole;
            std::rotate(bends.begin(), bends.begin() + std::ptrdiff_t(k), bends.end());
            return;
        }
        end = bends[k].along + bends[k].length;
    }
}

void addFaults(const Path& path, double side, double toolRadius, Faults& out)
{
    std::vector<Bend> bends = bendsOf(path, side, toolRadius);
    if (path.closed)
        beginAtAStretch(bends, length(path), toolRadius);
    for (std::size_t k = 0; k < bends.size(); ++k) {
        if (!bends[k].tight)
            continue;
        // Tight bends nearer to each other than the tool is wide are one stretch.
        std::size_t last = k;
        for (std::size_t next = k + 1; next < bends.size() && bends[next].along - (bends[last].along + bends[last].length) < toolRadius; ++next)
            if (bends[next].tight)
                last = next;
        judge(std::span(bends).subspan(k, last - k + 1), toolRadius, out);
        k = last;
    }
}

} // namespace

Faults tightBends(const Path& given, double toolRadius)
{
    const Path path = withoutPoints(given);
    Faults out;
    addFaults(path, -1, toolRadius, out);
    if (!path.closed)
        addFaults(path, 1, toolRadius, out);
    return out;
}

} // namespace yokai
