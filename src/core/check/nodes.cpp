// Lines with more nodes than their tolerance needs: a blade stutters at them.
#include "check/checks.h"
#include "check/faults.h"
#include "path/fit.h"

#include <algorithm>

namespace yokai {

namespace {

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
    static constexpr double apart = 0.2; // mm: of a smooth path few points stand for what lies between them
    std::shared_ptr<const Needed> make(Run&) const { return std::make_shared<const Needed>(Needed{refitted(path[0], tolerance, apart).nodes()}); }
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
