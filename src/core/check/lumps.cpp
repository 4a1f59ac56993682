// Stretches that bend to and fro faster than the tool follows.
#include "check/lumps.h"

#include "check/path_step.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yokai {

namespace {

// A stretch that bends to one side.
struct Bow {
    Polyline points;
    double turn = 0; // radians, signed
    double length = 0;
    bool sharp = false; // holds a corner: what is meant, no lump

    Point top() const
    {
        const Point from = points.front(), chord = points.back() - from;
        return *std::max_element(points.begin(), points.end(),
                                 [&](Point a, Point b) { return std::abs(cross(chord, a - from)) < std::abs(cross(chord, b - from)); });
    }
    // How far it bows out from its chord.
    double depth() const { return std::abs(cross(unit(points.back() - points.front()), top() - points.front())); }
};

std::vector<Bow> bowsOf(const Path& path)
{
    constexpr double corner = 30 * std::numbers::pi / 180, straight = 1e-3; // radians
    constexpr int steps = 8;                                               // of a curve
    std::vector<Bow> out;
    Point from = path.start, before = path.start;
    Point tangent = path.segments.empty() ? Point{} : tangentOn(from, path.segments[0], 0);
    const auto go = [&](Point to, Point direction, double length) {
        const double turn = std::atan2(cross(tangent, direction), dot(tangent, direction));
        const bool other = !out.empty() && std::abs(turn) > straight && std::abs(out.back().turn) > straight && (turn > 0) != (out.back().turn > 0);
        if (out.empty() || other || std::abs(turn) > corner)
            out.push_back({{before}, 0, 0, std::abs(turn) > corner});
        Bow& bow = out.back();
        bow.points.push_back(to);
        bow.turn += turn;
        bow.length += length;
        tangent = direction;
        before = to;
    };
    for (const Segment& s : path.segments) {
        if (s.line)
            go(s.end, tangentOn(from, s, 1), distance(from, s.end));
        else
            for (int i = 1; i <= steps; ++i) {
                const double t = double(i) / steps;
                const Point at = pointOn(from, s, t);
                go(at, tangentOn(from, s, t), distance(before, at));
            }
        from = s.end;
    }
    return out;
}

struct Lumps {
    static constexpr const char* name = "lumps";
    static Faults find(const Path& path, double toolRadius) { return lumps(path, toolRadius); }
};

} // namespace

Faults lumps(const Path& path, double toolRadius)
{
    constexpr double shortBow = 4;                             // tool radii
    constexpr double clearTurn = 10 * std::numbers::pi / 180; // radians
    constexpr double clearSwing = 0.02;                       // mm
    constexpr std::size_t least = 3;                          // bows
    const std::vector<Bow> bows = bowsOf(withoutPoints(path));
    Faults out;
    for (std::size_t k = 0; k < bows.size();) {
        std::size_t end = k;
        double swing = 0;
        const Bow* widest = nullptr;
        for (; end < bows.size(); ++end) {
            const Bow& bow = bows[end];
            if (bow.sharp || bow.length > shortBow * toolRadius || std::abs(bow.turn) < clearTurn)
                break;
            const double here = bow.depth() + (end > k ? bows[end - 1].depth() : 0);
            if (here >= swing) {
                swing = here;
                widest = &bow;
            }
        }
        if (end - k >= least && swing > clearSwing)
            out.push_back({widest->top(), swing});
        k = std::max(end, k + 1);
    }
    return out;
}

void checkLumps(const CheckGround& ground, Findings& found)
{
    eachPathFault<Lumps>(ground, ground.job.check.toolRadius.mm(), [&](const PieceResult& piece, const CutLine& line, const Fault& fault) {
        found.push_back({"lumpy", Severity::Warning, piece.id, line.id, fault.at, fault.value, 0});
    });
}

} // namespace yokai
