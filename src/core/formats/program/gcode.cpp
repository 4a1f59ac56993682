#include "formats/program/program.h"

#include "base/length.h"

#include <cmath>
#include <utility>

namespace yokai {

namespace {

class GcodeWriter {
public:
    explicit GcodeWriter(const Machine& machine, Trial trial)
        : machine_(machine), trial_(trial), toMachine_(machine.bed.toMachine()), mirrors_(toMachine_.det() < 0)
    {
        for (const char* line : {machine_.inches ? "G20" : "G21", "G17", "G90"})
            out_.lines.emplace_back(line);
        raise();
        out_.raise = raisingOf(machine);
    }
    Program program(const Plan& plan)
    {
        int step = -1;
        for (const ToolRun& run : plan.runs) {
            if (trial_ == Trial::Faint && run.pass > 0) // it would go the same way
                continue;
            if (run.step != step)
                begin(plan.steps[std::size_t(step = run.step)]);
            if (run.scan && trial_ == Trial::Faint)
                frame(*run.scan, plan.steps[std::size_t(step)].settings);
            else if (run.scan)
                engrave(run, plan.steps[std::size_t(step)].settings);
            else {
                if (!run.drawnIn.arcs.empty())
                    write(run.drawnIn, plan.steps[std::size_t(step)].settings);
                write(run.track, plan.steps[std::size_t(step)].settings);
            }
            out_.done.push_back(out_.lines.size());
            out_.doneBy.push_back(run.doneBy);
        }
        out_.seconds = plan.seconds;
        if (trial_ == Trial::No)
            out_.lines.emplace_back("M9");
        end();
        return std::move(out_);
    }
    Program round(const Polyline& line, Speed speed)
    {
        for (const Point p : line)
            out_.lines.push_back("G1" + words(placeOf(p)) + feed(speed));
        if (!line.empty())
            out_.lines.push_back("G1" + words(placeOf(line.front())));
        end();
        return std::move(out_);
    }

private:
    void end()
    {
        if (std::exchange(scanning_, false))
            raise();
        const Place home = placeOf(machine_.bed.home());
        out_.lines.push_back("G0" + words(home));
        out_.lines.emplace_back("M2");
    }
    struct Place {
        std::string x, y;
        bool operator==(const Place&) const = default;
    };
    int decimals() const { return machine_.inches ? 5 : 4; }
    double inUnits(double mm) const { return machine_.inches ? mm / 25.4 : mm; }
    std::string figure(double mm) const { return plainNumber(inUnits(mm), decimals()); }
    Place placeOf(Point p) const
    {
        const Point at = toMachine_(p);
        return {figure(at.x), figure(at.y)};
    }
    static std::string words(const Place& p) { return " X" + p.x + " Y" + p.y; }
    bool byHeight() const { return machine_.tool.by == ToolBy::Height; }
    void raise() { out_.lines.push_back(byHeight() ? "G0 Z" + figure(machine_.tool.up.mm()) : "M5"); }

    // What all of an operation has: its name, air, and where the beam's focus lies.
    void begin(const PlannedStep& step)
    {
        if (std::exchange(scanning_, false))
            raise();
        out_.lines.push_back(std::string("(") + facts(step.operation).name + ")");
        if (trial_ == Trial::No)
            out_.lines.emplace_back(step.settings.air ? "M8" : "M9");
        if (machine_.kind == MachineKind::Laser && !byHeight() && (step.settings.focus != Length() || focused_)) {
            out_.lines.push_back("G0 Z" + figure(step.settings.focus.mm()));
            focused_ = true;
        }
    }

    std::string lowered(const ProcessSettings& settings) const
    {
        if (byHeight())
            return "G1 Z" + figure(machine_.tool.down.mm()) + feed(settings.speed);
        const ToolSpec& tool = machine_.tool;
        const double power = trial_ == Trial::Faint ? std::min(faintPower, settings.power) : settings.power;
        const double share = machine_.kind == MachineKind::Laser ? power / 100 : std::min(1.0, settings.force / tool.forceMost);
        return (tool.powerFollowsSpeed ? "M4 S" : "M3 S") + powerWord(share);
    }
    // A thousandth of full power is told, whatever figure full power is.
    std::string powerWord(double share) const
    {
        const double most = machine_.tool.powerMost;
        return plainNumber(std::min(share, 1.0) * most, int(std::max(0.0, std::ceil(3 - std::log10(most)))));
    }
    std::string feed(Speed speed) const
    {
        return " F" + plainNumber(speed.in(machine_.inches ? SpeedUnit::InchPerMinute : SpeedUnit::MmPerMinute), machine_.inches ? 2 : 1);
    }
    // Of a trial: a blade would mark, a beam that is lowered by height would burn.
    bool staysUp() const { return trial_ == Trial::Faint && (byHeight() || machine_.kind != MachineKind::Laser); }

    void write(const Track& track, const ProcessSettings& settings)
    {
        out_.lines.push_back("G0" + words(placeOf(track.start)));
        if (!staysUp())
            out_.lines.push_back(lowered(settings));
        std::string rate = feed(settings.speed);
        Place at = placeOf(track.start);
        const auto go = [&](const char* word, Point to, const std::string& middle) {
            // What rounding leaves no length would be a whole turn, were it an arc.
            const Place next = placeOf(to);
            if (next == at)
                return;
            out_.lines.push_back(word + words(next) + middle + std::exchange(rate, std::string()));
            at = next;
        };
        track.each([&](Point from, const Arc& arc) {
            if (arc.bulge == 0 || isStraight(from, arc))
                return go("G1", arc.end, {});
            if (!machine_.arcs) {
                Polyline points;
                flatten(from, arc, machine_.tolerance.mm() / 2, points);
                for (const Point p : points)
                    go("G1", p, {});
                return;
            }
            const Point centre = toMachine_(centreOf(from, arc)), begin = toMachine_(from);
            go((arc.bulge > 0) != mirrors_ ? "G3" : "G2", arc.end, " I" + figure(centre.x - begin.x) + " J" + figure(centre.y - begin.y));
        });
        if (!staysUp())
            raise();
    }
    // Of a trial: once round all that would be burnt.
    void frame(const Scan& scan, const ProcessSettings& settings)
    {
        if (std::exchange(framed_, &scan) == &scan)
            return;
        Rect box = Rect::nothing();
        for (const ScanLine& line : scan.lines) {
            box.add(line.from);
            box.add(line.to);
        }
        if (scan.lines.empty())
            return;
        out_.lines.push_back("G0" + words(placeOf({box.x0, box.y0})));
        if (!staysUp())
            out_.lines.push_back(lowered(settings));
        std::string rate = feed(settings.speed);
        for (const Point p : {Point{box.x1, box.y0}, {box.x1, box.y1}, {box.x0, box.y1}, {box.x0, box.y0}})
            out_.lines.push_back("G1" + words(placeOf(p)) + std::exchange(rate, std::string()));
        if (!staysUp())
            raise();
    }
    // There and past the ends without power, and on each stretch with its own: the words that the beam is on and off are said once for all lines.
    void engrave(const ToolRun& run, const ProcessSettings& settings)
    {
        if (!std::exchange(scanning_, true))
            out_.lines.emplace_back(machine_.tool.powerFollowsSpeed ? "M4 S0" : "M3 S0");
        const ScanLine& line = run.scan->lines[run.line];
        const Point along = unit(line.to - line.from);
        // The way there says that nothing burns: a line with no overscan ends while it burns.
        out_.lines.push_back("G0" + words(placeOf(run.track.start)) + " S0");
        std::string rate = feed(settings.speed);
        Place at = placeOf(run.track.start);
        const auto go = [&](Point to, const std::string& s) {
            const Place next = placeOf(to);
            if (next == at)
                return;
            // Only what changes is said: thousands of stretches a second must go through a line.
            out_.lines.push_back("G1" + (next.x == at.x ? std::string() : " X" + next.x) + (next.y == at.y ? std::string() : " Y" + next.y) + " S" + s +
                                 std::exchange(rate, std::string()));
            at = next;
        };
        float done = 0;
        go(line.from, "0");
        for (std::size_t k = line.first; k < line.first + line.count; ++k) {
            const Stretch& stretch = run.scan->stretches[k];
            if (stretch.from > done)
                go(line.from + along * stretch.from, "0");
            go(line.from + along * stretch.to, powerWord(settings.power / 100 * stretch.power));
            done = stretch.to;
        }
        go(run.track.end(), "0");
    }
    // So flat, or so short, that rounded figures would say less of it as an arc than as a line.
    static bool isStraight(Point from, const Arc& arc)
    {
        constexpr double flat = 2e-4, longest = 1e4; // mm
        return std::abs(arc.bulge) * distance(from, arc.end) / 2 < flat || radiusOf(from, arc) > longest;
    }

    const Machine& machine_;
    Trial trial_;
    Affine toMachine_;
    bool mirrors_, focused_ = false, scanning_ = false;
    const Scan* framed_ = nullptr; // gone round last
    Program out_;
};

} // namespace

std::vector<std::string> raisingOf(const Machine& machine)
{
    if (machine.dialect == Dialect::Hpgl)
        return {"PU;"};
    if (machine.tool.by == ToolBy::Spindle)
        return {"M5"};
    const double up = machine.tool.up.mm();
    return {machine.inches ? "G20" : "G21", "G90", "G0 Z" + plainNumber(machine.inches ? up / 25.4 : up, machine.inches ? 5 : 4)};
}

Program gcodeOf(const Plan& plan, Trial trial)
{
    requireOnBed(plan);
    return GcodeWriter(plan.machine, trial).program(plan);
}

Program runRoundGcode(const Machine& machine, const Polyline& line, Speed speed) { return GcodeWriter(machine, Trial::No).round(line, speed); }

Bytes writeGcode(const Drawing& d, Content, const Work& work)
{
    Plan plan = planOf(d.cuts, d.width, d.height, d.plan, {}, work, d.engravings);
    if (d.alone && plan.bedIsSheet)
        plan.beyondBed = 0; // the frame of a picture is no bed
    return textOf(gcodeOf(plan));
}

} // namespace yokai
