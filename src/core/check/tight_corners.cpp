// Inside corners and curves tighter than the tool.
#include "check/bends.h"
#include "check/checks.h"

namespace yokai {

namespace {

struct BendsIn {
    static constexpr const char* step = "bends";
    static constexpr const char* time = "check";
    using Out = Faults;
    PathSet path;
    double toolRadius = 0;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("path", self.path);
        visit("tool_radius", self.toolRadius);
    }
    std::shared_ptr<const Faults> make(Run&) const { return std::make_shared<const Faults>(tightBends(path[0], toolRadius)); }
};

} // namespace

void checkTightCorners(const CheckGround& ground, Findings& found)
{
    const double limit = ground.job.check.toolRadius.mm();
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        std::vector<BendsIn> bends;
        for (const PathSet& path : singly(line.paths))
            bends.push_back({path, limit});
        for (const Made<Faults>& faults : ground.run.all(bends))
            for (const Fault& fault : *faults)
                found.push_back({"tight-corner", Severity::Warning, piece.id, line.id, fault.at, fault.value, limit});
    });
}

} // namespace yokai
