// Lines with more nodes than their tolerance needs: a blade stutters at them.
#include "check/checks.h"
#include "check/faults.h"
#include "path/fit.h"

#include <algorithm>
#include <numbers>

namespace yokai {

namespace {

std::size_t neededNodes(const Path& path, double tolerance)
{
    // Of a smooth path few points stand for what lies between them.
    constexpr double flat = 0.5, apart = 80; // tolerances
    constexpr double sharpTurn = 10 * std::numbers::pi / 180, kink = 2 * std::numbers::pi / 180; // by itself; where a corner is meant
    Polyline points;
    std::vector<unsigned char> corners;
    const std::size_t n = path.segments.size();
    Point from = path.start;
    for (std::size_t k = 0; k < n; ++k) {
        const Segment& s = path.segments[k];
        Path alone;
        alone.start = from;
        alone.closed = false;
        alone.segments = {s};
        const Polyline dense = flatten(alone, flat * tolerance);
        for (std::size_t i = 1; i < dense.size(); ++i) {
            constexpr int mostParts = 200; // of a long straight line
            const int parts = std::clamp(int(std::ceil(distance(dense[i - 1], dense[i]) / (apart * tolerance))), 1, mostParts);
            for (int part = 1; part <= parts; ++part) {
                points.push_back(mix(dense[i - 1], dense[i], double(part) / parts));
                corners.push_back(0);
            }
        }
        const double turn = turnAt(path, k);
        corners.back() = turn > sharpTurn || (path.corners[k] && turn > kink);
        from = s.end;
    }
    return fitClosed(points, corners, tolerance).nodes();
}

struct Needed {
    std::size_t nodes = 0;
};
void owned(const Needed& needed, Owns& out) { out.push_back({&needed, sizeof needed}); }

struct NeededIn {
    static constexpr const char* step = "needed nodes";
    static constexpr const char* time = "check";
    using Out = Needed;
    PathSet path;
    double tolerance = 0;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("path", self.path);
        visit("tolerance", self.tolerance);
    }
    std::shared_ptr<const Needed> make(Run&) const { return std::make_shared<const Needed>(Needed{neededNodes(path[0], tolerance)}); }
};

} // namespace

void checkNodes(const CheckGround& ground, Findings& found)
{
    // What a fit by other places would do without, too.
    constexpr double share = 0.25;
    constexpr double few = 3;
    // The line may stray from its edge by the tolerance to follow it with few nodes; what follows the line must not stray as much again.
    constexpr double closer = 0.25;
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        double tooMany = 0, atMost = 0;
        Point at;
        std::vector<NeededIn> ins;
        for (const PathSet& path : singly(line.paths))
            if (path[0].closed && path[0].nodes() > std::size_t(few))
                ins.push_back({path, closer * line.tolerance});
        const auto needs = ground.run.all(ins);
        for (std::size_t k = 0; k < ins.size(); ++k) {
            const Path& path = ins[k].path[0];
            const double needed = double(needs[k]->nodes), over = double(path.nodes()) - needed;
            if (over <= std::max(few, share * needed))
                continue;
            tooMany += over;
            if (over > atMost) {
                atMost = over;
                at = path.start;
            }
        }
        if (tooMany > 0)
            found.push_back({"needless-nodes", Severity::Note, piece.id, line.id, at, tooMany, 0});
    });
}

} // namespace yokai
