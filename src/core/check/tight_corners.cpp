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
        for (const PathSet& path : singly(line.paths))
            for (const Fault& fault : *ground.run(BendsIn{path, limit}))
                found.push_back({"tight-corner", Severity::Warning, piece.id, line.id, fault.at, fault.value, limit});
    });
}

} // namespace yokai
