#include "formats/program/program.h"

#include <cmath>

namespace yokai {

namespace {

constexpr double hpglUnitsAMm = 40;
constexpr double hpglFlatness = 0.004; // mm, well under a unit

} // namespace

Program hpglOf(const Plan& plan)
{
    const Affine toMachine = plan.machine.bed.toMachine();
    const auto place = [&](Point p) {
        const Point at = toMachine(p);
        return std::to_string(std::lround(at.x * hpglUnitsAMm)) + "," + std::to_string(std::lround(at.y * hpglUnitsAMm));
    };
    Program out;
    out.lines.emplace_back("IN;");
    int step = -1;
    for (const ToolRun& run : plan.runs) {
        if (run.step != step) {
            const PlannedStep& begun = plan.steps[std::size_t(step = run.step)];
            out.lines.push_back("SP" + std::to_string(plan.machine.tool.pens[std::size_t(facts(begun.operation).process)]) + ";");
            out.lines.push_back("VS" + std::to_string(std::max(1L, std::lround(begun.settings.speed.mmPerSecond() / 10))) + ";");
            out.lines.push_back("FS" + std::to_string(std::lround(begun.settings.force)) + ";");
        }
        std::string at = place(run.track.start);
        out.lines.push_back("PU" + at + ";");
        const Polyline points = flatten(run.track, hpglFlatness);
        // A line a few places long, so that a plotter's small buffer takes it.
        constexpr std::size_t mostChars = 60;
        std::string line;
        for (const Point p : points) {
            const std::string next = place(p);
            if (next == at && !(line.empty() && &p == &points.back()))
                continue;
            if (line.size() + next.size() > mostChars) {
                out.lines.push_back(line + ";");
                line.clear();
            }
            line += (line.empty() ? "PD" : ",") + next;
            at = next;
        }
        if (!line.empty())
            out.lines.push_back(line + ";");
        out.done.push_back(out.lines.size());
        out.doneBy.push_back(run.doneBy);
    }
    out.seconds = plan.seconds;
    out.lines.emplace_back("PU0,0;");
    out.lines.emplace_back("SP0;");
    return out;
}

Program programOf(const Plan& plan) { return plan.machine.dialect == Dialect::Hpgl ? hpglOf(plan) : gcodeOf(plan); }

Bytes textOf(const Program& program)
{
    Bytes out;
    for (const std::string& line : program.lines) {
        out.insert(out.end(), line.begin(), line.end());
        out.push_back('\n');
    }
    return out;
}

} // namespace yokai
