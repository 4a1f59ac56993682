#include "formats/program/program.h"

#include "base/length.h"

namespace yokai {

namespace {

class GcodeWriter {
public:
    explicit GcodeWriter(const Plan& plan) : plan_(plan), machine_(plan.machine), toMachine_(plan.machine.bed.toMachine()), mirrors_(toMachine_.det() < 0) {}
    Program program()
    {
        for (const char* line : {machine_.inches ? "G20" : "G21", "G17", "G90"})
            out_.lines.emplace_back(line);
        raise();
        int step = -1;
        for (const ToolRun& run : plan_.runs) {
            if (run.step != step)
                begin(plan_.steps[std::size_t(step = run.step)]);
            write(run, plan_.steps[std::size_t(step)].settings);
            out_.done.push_back(out_.lines.size());
        }
        out_.lines.emplace_back("M9");
        const Place home = placeOf({});
        out_.lines.push_back("G0" + words(home));
        out_.lines.emplace_back("M2");
        return std::move(out_);
    }

private:
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
        out_.lines.push_back(std::string("(") + facts(step.operation).name + ")");
        out_.lines.emplace_back(step.settings.air ? "M8" : "M9");
        if (machine_.kind == MachineKind::Laser && !byHeight() && (step.settings.focus != Length() || focused_)) {
            out_.lines.push_back("G0 Z" + figure(step.settings.focus.mm()));
            focused_ = true;
        }
    }

    std::string lowered(const ProcessSettings& settings) const
    {
        if (byHeight())
            return "G1 Z" + figure(machine_.tool.down.mm()) + feed(settings);
        const ToolSpec& tool = machine_.tool;
        const double share = machine_.kind == MachineKind::Laser ? settings.power / 100 : std::min(1.0, settings.force / tool.forceMost);
        return (tool.powerFollowsSpeed ? "M4 S" : "M3 S") + plainNumber(std::round(share * tool.powerMost), 0);
    }
    std::string feed(const ProcessSettings& settings) const
    {
        return " F" +
               plainNumber(machine_.inches ? settings.speed.in(SpeedUnit::InchPerMinute) : settings.speed.in(SpeedUnit::MmPerMinute), machine_.inches ? 2 : 1);
    }

    void write(const ToolRun& run, const ProcessSettings& settings)
    {
        out_.lines.push_back("G0" + words(placeOf(run.track.start)));
        out_.lines.push_back(lowered(settings));
        std::string rate = feed(settings);
        Place at = placeOf(run.track.start);
        const auto go = [&](const char* word, Point to, const std::string& middle) {
            // What rounding leaves no length would be a whole turn, were it an arc.
            const Place next = placeOf(to);
            if (next == at)
                return;
            out_.lines.push_back(word + words(next) + middle + std::exchange(rate, std::string()));
            at = next;
        };
        run.track.each([&](Point from, const Arc& arc) {
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
        raise();
    }
    // So flat, or so short, that rounded figures would say less of it as an arc than as a line.
    static bool isStraight(Point from, const Arc& arc)
    {
        constexpr double flat = 2e-4, longest = 1e4; // mm
        return std::abs(arc.bulge) * distance(from, arc.end) / 2 < flat || radiusOf(from, arc) > longest;
    }

    const Plan& plan_;
    const Machine& machine_;
    Affine toMachine_;
    bool mirrors_, focused_ = false;
    Program out_;
};

} // namespace

Program gcodeOf(const Plan& plan) { return GcodeWriter(plan).program(); }

Bytes writeGcode(const Drawing& d, Content, const Work& work) { return textOf(gcodeOf(planOf(d.cuts, d.width, d.height, d.plan, {}, work))); }

} // namespace yokai
