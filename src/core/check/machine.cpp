// What the machine and the material that were chosen do to the job: a kerf that swallows paths, a material that must not be burnt.
#include "check/path_step.h"
#include "machine/hazard.h"
#include "machine/kerf.h"

namespace yokai {

namespace {

// Of one path: outside what it encloses the beam goes beside an outline, inside it beside an opening.
struct KerfLosses {
    static constexpr const char* name = "kerf-losses";
    static Faults find(const Path& path, double kerf)
    {
        constexpr double tolerance = 0.005; // mm, as paths are moved aside
        const bool opening = signedArea(path) < 0;
        Faults out;
        for (const KerfLoss& lost : lostBeside(path, opening ? -kerf / 2 : kerf / 2, tolerance))
            out.push_back({lost.at, lost.width});
        return out;
    }
};

} // namespace

void checkKerf(const CheckGround& ground, Findings& found)
{
    const auto& machine = ground.job.cut.plan.machine;
    if (!machine || machine->tool.kerf <= Length())
        return;
    const double kerf = machine->tool.kerf.mm();
    eachPathFault<KerfLosses>(ground, kerf, [&](const PieceResult& piece, const CutLine& line, const Fault& fault) {
        found.push_back({"kerf-loss", Severity::Error, piece.id, line.id, fault.at, fault.value, kerf});
    });
}

void checkMaterial(const CheckGround& ground, Findings& found)
{
    const PlanSpec& plan = ground.job.cut.plan;
    if (auto why = hazardOf(plan.machine, plan.material))
        found.push_back({"material-hazard", Severity::Error, {}, {}, {}, 0, 0, std::move(why)});
}

} // namespace yokai
