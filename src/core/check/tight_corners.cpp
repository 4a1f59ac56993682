// Inside corners and curves tighter than the tool.
#include "check/bends.h"
#include "check/path_step.h"

namespace yokai {

namespace {

struct TightBends {
    static constexpr const char* name = "bends";
    static Faults find(const Path& path, double toolRadius) { return tightBends(path, toolRadius); }
};

} // namespace

void checkTightCorners(const CheckGround& ground, Findings& found)
{
    const double limit = ground.job.check.toolRadius.mm();
    eachPathFault<TightBends>(ground, limit, [&](const PieceResult& piece, const CutLine& line, const Fault& fault) {
        found.push_back({"tight-corner", Severity::Warning, piece.id, line.id, fault.at, fault.value, limit});
    });
}

} // namespace yokai
