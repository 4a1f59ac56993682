#include "formats/program/program.h"

#include <cmath>

namespace yokai {

namespace {

constexpr double hpglFlatness = 0.01; // mm: under half a unit, and no more places than a line of 9600 baud brings in time

class HpglWriter {
public:
    explicit HpglWriter(const Machine& machine) : machine_(machine), toMachine_(machine.bed.toMachine())
    {
        out_.dialect = Dialect::Hpgl;
        out_.lines.emplace_back("IN;");
        out_.raise = {"PU;"};
    }
    std::string place(Point p) const
    {
        const Point at = toMachine_(p);
        return std::to_string(std::lround(at.x * hpglUnitsAMm)) + "," + std::to_string(std::lround(at.y * hpglUnitsAMm));
    }
    void say(const std::string& word, const std::string& what) { out_.lines.push_back(word + what + ";"); }
    void speed(Speed speed) { say("VS", std::to_string(std::lround(nearestSpeed(machine_, speed).mmPerSecond() / 10))); }
    // A line a place: a small buffer takes it, and it is known to a place how far it is done. What rounding leaves no length is left out, but
    // for a point.
    void along(const char* word, Point start, const Polyline& points)
    {
        std::string at = place(start);
        say("PU", at);
        bool moved = false;
        for (const Point& p : points) {
            const std::string next = place(p);
            if (next == at && (moved || &p != &points.back()))
                continue;
            say(word, next);
            at = next;
            moved = true;
        }
    }
    Program ended()
    {
        out_.lines.emplace_back("PU0,0;");
        out_.lines.emplace_back("SP0;");
        return std::move(out_);
    }
    Program& program() { return out_; }

private:
    const Machine& machine_;
    Affine toMachine_;
    Program out_;
};

} // namespace

Program hpglOf(const Plan& plan, Trial trial)
{
    requireOnBed(plan);
    HpglWriter to(plan.machine);
    int step = -1;
    for (const ToolRun& run : plan.runs) {
        if (trial == Trial::Faint && run.pass > 0) // it would go the same way
            continue;
        if (run.step != step) {
            const PlannedStep& begun = plan.steps[std::size_t(step = run.step)];
            to.say("SP", std::to_string(plan.machine.tool.pens[std::size_t(facts(begun.operation).process)]));
            to.speed(begun.settings.speed);
            to.say("FS", std::to_string(std::lround(std::min(begun.settings.force, plan.machine.tool.forceMost))));
        }
        if (!run.drawnIn.arcs.empty())
            to.along(trial == Trial::Faint ? "PU" : "PD", run.drawnIn.start, flatten(run.drawnIn, hpglFlatness));
        to.along(trial == Trial::Faint ? "PU" : "PD", run.track.start, flatten(run.track, hpglFlatness));
        to.program().done.push_back(to.program().lines.size());
        to.program().doneBy.push_back(run.doneBy);
    }
    to.program().seconds = plan.seconds;
    return to.ended();
}

Program runRoundHpgl(const Machine& machine, const Polyline& line, Speed speed)
{
    HpglWriter to(machine);
    to.speed(speed);
    if (!line.empty()) {
        Polyline closed(line.begin() + 1, line.end());
        closed.push_back(line.front());
        to.along("PU", line.front(), closed);
    }
    return to.ended();
}

Program programOf(const Plan& plan, Trial trial) { return plan.machine.dialect == Dialect::Hpgl ? hpglOf(plan, trial) : gcodeOf(plan, trial); }

Program runRound(const Machine& machine, const Polyline& line, Speed speed)
{
    return machine.dialect == Dialect::Hpgl ? runRoundHpgl(machine, line, speed) : runRoundGcode(machine, line, speed);
}

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
