#include "machine/plan.h"

#include "base/length.h"
#include "machine/crowded.h"
#include "machine/cutting_order.h"
#include "machine/entries.h"
#include "machine/kerf.h"
#include "machine/measure.h"
#include "machine/sequence.h"
#include "machine/waste.h"
#include "path/cut.h"

#include <opencv2/imgproc.hpp>

#include <numbers>
#include <utility>

namespace yokai {

namespace {

constexpr double kerfTolerance = 0.005; // mm
constexpr double inLine = 5;           // times its offset: after so long a way a blade lies in its heading, to under a degree

// A line as it is to be cut, all that is known before the order is.
struct Task {
    int item = 0, step = 0; // no item: an engraving
    bool wasteInside = false;
    Paths paths;                     // one closed one, or open ones in their order
    std::vector<std::size_t> starts; // nodes of a closed one; else which of the open ones comes first
    std::shared_ptr<const Scan> scan = nullptr;
    int copy = 0;         // of an engraving
    double overscan = 0;
};

// What stays uncut is as long as was asked: a beam takes half its kerf from either end of it.
Breaks besideKerf(const Breaks& breaks, double kerf)
{
    constexpr double shortest = 0.01; // mm: a dash no longer than the beam is wide
    Breaks out = breaks;
    if (out.gap > 0) {
        out.gap += kerf;
        out.cut = out.cut > 0 ? std::max(shortest, out.cut - kerf) : 0;
    }
    return out;
}

// Where the breaks of a line lie on it once it was moved aside: as near as may be.
Breaks movedBreaks(const Breaks& breaks, const Path& before, const Path& after)
{
    Breaks out = breaks;
    out.middles.clear();
    for (const double way : breaks.middles)
        if (const auto place = nearestPlace({after}, along(before, {0, 0, before.start}, way).at))
            out.middles.push_back(wayTo(after, *place));
    std::sort(out.middles.begin(), out.middles.end());
    return out;
}

class Planner {
public:
    Planner(const CutItems& items, double width, double height, const PlanSpec& spec, const OntoPrint& ontoPrint, const Work& work,
            std::span<const EngraveItem> engravings)
        : items_(items), width_(width), height_(height), spec_(spec), ontoPrint_(ontoPrint), work_(work), engravings_(engravings),
          order_(items, engravings, spec.operations, spec.byOperation, work)
    {
        if (spec.machine) {
            plan_.machine = *spec.machine;
            home_ = plan_.machine.bed.home();
        } else
            plan_.machine.tolerance = 5_um;
    }
    Plan made()
    {
        findSteps();
        findTasks();
        for (const EngraveItem& item : engravings_)
            addEngraving(item);
        const std::vector<Visit> visits = sequenceOf(stops(), home_, home_, work_);
        for (const Visit& v : visits) {
            work_.check();
            addRuns(tasks_[std::size_t(v.stop)], std::size_t(v.entry));
        }
        plan_.bedIsSheet = !spec_.machine;
        measure(plan_, home_, bedRect());
        return std::move(plan_);
    }

private:
    void findSteps();
    void findTasks();
    // From the sheet, y down, to where the print has it on the bed.
    Path onBed(const Path& path) const;
    Point onBed(Point sheet) const;
    Rect bedRect() const { return {0, 0, spec_.machine ? plan_.machine.bed.width.mm() : width_, spec_.machine ? plan_.machine.bed.depth.mm() : height_}; }
    // How far an overscan may go on: no farther than the bed does.
    double roomOnBed(Point from, Point along, double wanted) const;
    bool isBlade() const { return spec_.machine && plan_.machine.kind == MachineKind::Cutter; }
    void addTask(int item);
    void align(const Track& track);
    void addEngraving(const EngraveItem& item);
    void engrave(const Task& task);
    std::vector<Stop> stops() const;
    void addRuns(const Task& task, std::size_t entry);
    void addRun(const Task& task, Track track);

    const CutItems& items_;
    double width_, height_;
    const PlanSpec& spec_;
    const OntoPrint& ontoPrint_;
    const Work& work_;
    std::span<const EngraveItem> engravings_;
    Plan plan_;
    Point home_; // of the machine; of none, the sheet's near left corner
    std::vector<int> stepOf_;       // an item each; -1: not cut
    CuttingOrder order_;
    std::vector<Task> tasks_;
    Crowded crowded_;
    Point heading_{1, 0}; // of a blade that trails
    Track drawnIn_;       // of the next run
    bool down_ = false;   // whether it has been in the material yet, so that the heading is known
};

void Planner::findSteps()
{
    std::vector<int> place(spec_.operations.size(), -1); // of a step among those that are done
    for (std::size_t k = 0; k < spec_.operations.size(); ++k) {
        const OperationStep& step = spec_.operations[k];
        if (!step.on || step.guide)
            continue;
        place[k] = int(plan_.steps.size());
        const Process process = facts(step.operation).process;
        ProcessSettings settings = step.settings ? *step.settings : spec_.material ? spec_.material->of(process) : ProcessSettings{};
        if (spec_.machine && step.settings)
            requireSpeed(plan_.machine, settings.speed, step.name.empty() ? facts(step.operation).title : step.name);
        // A material is of no machine: on a slower one it is worked as fast as that goes.
        settings.speed = spec_.machine ? nearestSpeed(plan_.machine, settings.speed) : settings.speed;
        plan_.steps.push_back({step.operation, step.name, settings, int(k)});
    }
    for (int i = 0; i < int(items_.size()); ++i) {
        const int operation = order_.operationOf(i);
        stepOf_.push_back(operation < 0 ? -1 : place[std::size_t(operation)]);
    }
}

void Planner::findTasks()
{
    for (int i = 0; i < int(items_.size()); ++i)
        if (stepOf_[std::size_t(i)] >= 0 && !items_[std::size_t(i)].path.segments.empty()) {
            work_.check();
            addTask(i);
        }
    for (const Task& task : tasks_)
        for (const Path& path : task.paths)
            crowded_.add(task.item, path);
    for (const Task& task : tasks_)
        if (stepOf_[std::size_t(task.item)] >= 0)
            ++plan_.steps[std::size_t(task.step)].paths;
}

Path Planner::onBed(const Path& path) const
{
    const Path up = transformed(path, {1, 0, 0, -1, 0, height_});
    return ontoPrint_ ? ontoPrint_(up) : transformed(up, Affine::move(spec_.sheetX.mm(), spec_.sheetY.mm()));
}

Point Planner::onBed(Point sheet) const
{
    Path at;
    at.closed = false;
    at.start = sheet;
    at.lineTo(sheet + Point{1e-3, 0}); // one that goes somewhere
    return onBed(at).start;
}

void Planner::addTask(int index)
{
    const CutItem& item = items_[std::size_t(index)];
    const ToolSpec& tool = plan_.machine.tool;
    const double kerf = plan_.machine.tool.kerf.mm(), half = kerf / 2;
    if (kerf > 0)
        for (const KerfLoss& lost : lostBeside(item.path, item.opening ? -half : half, kerfTolerance))
            plan_.lost.push_back({index, onBed(lost.at), lost.width});
    for (const Path& moved : movedAside(item.path, item.opening ? -half : half, kerfTolerance, work_)) {
        Task task{index, stepOf_[std::size_t(index)], item.opening, {}, {}};
        Path line = onBed(moved);
        const Breaks breaks = besideKerf(item.breaks.middles.empty() || half == 0 ? item.breaks : movedBreaks(item.breaks, item.path, moved), kerf);
        if (line.closed && spec_.way != Way::AsDrawn && (signedArea(line) > 0) != (spec_.way == Way::Counter))
            line = reversed(line);
        // Dashes and bridges are counted along the line as it was drawn.
        if (breaks.gap > 0) {
            for (const Path& piece : broken(moved, breaks))
                task.paths.push_back(onBed(piece));
        } else
            task.paths = {line};
        if (task.paths.size() == 1 && task.paths.front().closed) {
            Entries entries = isBlade() ? smoothEntries(task.paths.front(), std::max(tool.overcut.mm(), inLine * tool.bladeOffset.mm())) : cornerEntries(task.paths.front());
            task.paths.front() = std::move(entries.path);
            task.starts = std::move(entries.starts);
        } else
            for (std::size_t k = 0; k < std::max<std::size_t>(task.paths.size(), 1); ++k)
                task.starts.push_back(k);
        if (!task.paths.empty())
            tasks_.push_back(std::move(task));
    }
}

// Over the whole of what is burnt alike: as its corners are moved onto the print.
void Planner::addEngraving(const EngraveItem& item)
{
    const auto step = std::find_if(plan_.steps.begin(), plan_.steps.end(), [](const PlannedStep& s) { return s.operation == Operation::Engrave; });
    if (step == plan_.steps.end() || item.of->box.empty())
        return;
    if (!spec_.machine)
        plan_.machine.kind = MachineKind::Laser;
    if (!canEngrave(plan_.machine))
        throw Error(ErrorKind::Usage, "'{}' cannot engrave: that takes a laser that is told its power in G-code; choose another machine, or leave the engraving out",
                    plan_.machine.name);
    const Affine toBed = nearestAffine(item.of->box, [&](Point p) { return onBed(item.toSheet(p)); });
    Task task{ToolRun::noItem, int(step - plan_.steps.begin()), false, {}, {}};
    task.scan = std::make_shared<const Scan>(scanOf(*item.of, toBed, 1 / step->settings.linesPerMm, work_));
    task.copy = item.copy;
    task.overscan = item.of->spec.overscan.mm();
    if (task.scan->lines.empty())
        return;
    step->paths += int(task.scan->lines.size());
    tasks_.push_back(std::move(task));
}

double Planner::roomOnBed(Point from, Point along, double wanted) const
{
    const Rect bed = bedRect();
    double room = wanted;
    const auto within = [&room](double at, double way, double least, double most) {
        if (way != 0)
            room = std::min(room, ((way > 0 ? most : least) - at) / way);
    };
    within(from.x, along.x, bed.x0, bed.x1);
    within(from.y, along.y, bed.y0, bed.y1);
    return std::max(0.0, room);
}

void Planner::engrave(const Task& task)
{
    for (int pass = 0; pass < plan_.steps[std::size_t(task.step)].settings.passes; ++pass)
        for (std::size_t k = 0; k < task.scan->lines.size(); ++k) {
            const ScanLine& line = task.scan->lines[k];
            const Point way = unit(line.to - line.from);
            const Point before = way * -roomOnBed(line.from, way * -1, task.overscan), after = way * roomOnBed(line.to, way, task.overscan);
            plan_.runs.push_back({task.step, ToolRun::noItem, pass, Track{line.from + before, {{line.to + after, 0}}}, task.scan, k, 0.0});
        }
}

std::vector<Stop> Planner::stops() const
{
    std::vector<Stop> out;
    for (const Task& task : tasks_) {
        const CuttingPlace place = task.scan ? order_.placeOfEngraving(task.copy, plan_.steps[std::size_t(task.step)].at) : order_.placeOf(task.item);
        Stop stop;
        stop.rank = place.rank;
        stop.block = place.block;
        stop.tier = place.tier;
        if (task.scan)
            stop.entries = {{task.scan->lines.front().from, task.scan->lines.back().to}};
        else if (task.paths.size() == 1 && !task.paths.front().closed) {
            const Path& path = task.paths.front();
            stop.entries = {{path.start, path.segments.back().end}, {path.segments.back().end, path.start}};
        } else if (task.paths.size() == 1) {
            for (const std::size_t k : task.starts) {
                const Point at = task.paths.front().segments[k].end;
                stop.entries.push_back({at, at});
            }
        } else {
            // In a ring: the last of them is the one before the first.
            for (std::size_t k = 0; k < task.paths.size(); ++k)
                stop.entries.push_back({task.paths[k].start, task.paths[around(k + task.paths.size() - 1, task.paths.size())].segments.back().end});
            if (!items_[std::size_t(task.item)].path.closed)
                stop.entries.resize(1);
        }
        out.push_back(std::move(stop));
    }
    return out;
}

void Planner::addRuns(const Task& task, std::size_t entry)
{
    if (task.scan)
        return engrave(task);
    const ToolSpec& tool = plan_.machine.tool;
    const double tolerance = plan_.machine.tolerance.mm();
    const bool whole = task.paths.size() == 1 && task.paths.front().closed;
    if (!whole) {
        const std::size_t count = task.paths.size();
        for (std::size_t k = 0; k < count; ++k) {
            const Path& path = task.paths[count == 1 ? 0 : around(entry + k, count)];
            Track track = trackOf(count == 1 && entry == 1 ? reversed(path) : path, tolerance);
            align(track);
            addRun(task, std::move(track));
        }
        return;
    }
    const Path path = begunAfter(task.paths.front(), task.starts[entry]);
    const Track round = trackOf(path, tolerance);
    Track track = round;
    if (isBlade()) {
        // In and out along the line itself: nothing is cut but the line.
        overcut(track, round, (tool.overcut > 0_mm ? tool.overcut : tool.leadOut).mm());
        align(track);
        leadInAlong(track, round, std::max(tool.leadIn.mm(), tool.bladeOffset > 0_mm && !down_ ? inLine * tool.bladeOffset.mm() : 0.0));
    } else {
        const Polyline outline = flatten(path, 0.002);
        const bool wasteLeft = (signedArea(path) > 0) == task.wasteInside;
        if (tool.leadIn > 0_mm || tool.leadOut > 0_mm)
            addLeads(track, tool.leadIn.mm(), tool.overcut > 0_mm ? 0 : tool.leadOut.mm(), wasteLeft,
                     [&](Point p) { return contains(outline, p) == task.wasteInside && crowded_.clear(p, task.item); });
        overcut(track, round, tool.overcut.mm());
    }
    addRun(task, std::move(track));
}

// Where a blade points that was never down, nobody knows: it is drawn into its heading in the waste, if there is any.
void Planner::align(const Track& track)
{
    const double offset = plan_.machine.tool.bladeOffset.mm();
    if (!isBlade() || offset <= 0 || down_ || track.arcs.empty())
        return;
    Paths pieces;
    for (const CutItem& item : items_)
        if (item.path.closed && !item.path.segments.empty())
            pieces.push_back(onBed(item.path));
    const Polyline sheet = flatten(onBed(polygonPath(Polyline{{0, 0}, {width_, 0}, {width_, height_}, {0, height_}})), 0.1);
    const Waste waste(pieces, crowded_, sheet, bedRect());
    heading_ = tangentOn(track.start, track.arcs.front(), 0);
    if (auto found = waste.alignment(track.start, heading_, inLine * offset)) {
        drawnIn_ = std::move(*found);
        down_ = true;
    }
}

void Planner::addRun(const Task& task, Track track)
{
    const ToolSpec& tool = plan_.machine.tool;
    const int passes = plan_.steps[std::size_t(task.step)].settings.passes;
    if (track.arcs.empty())
        return;
    const double offset = tool.bladeOffset.mm();
    if (offset > 0 && !down_) {
        // As it comes to lie on its way.
        heading_ = tangentOn(track.start, track.arcs.front(), 0);
        down_ = true;
    }
    for (int pass = 0; pass < passes; ++pass) {
        plan_.runs.push_back({task.step, task.item, pass, ahead(track, offset, tool.swivelFrom, heading_)});
        plan_.runs.back().drawnIn = std::exchange(drawnIn_, {});
    }
}

} // namespace

std::vector<OperationStep> usualOperations()
{
    std::vector<OperationStep> out;
    for (const OperationFacts& o : operationTable)
        out.push_back({o.operation, {}, {}});
    return out;
}

Plan planOf(const CutItems& items, double sheetWidth, double sheetHeight, const PlanSpec& spec, const OntoPrint& ontoPrint, const Work& work, std::span<const EngraveItem> engravings)
{
    return Planner(items, sheetWidth, sheetHeight, spec, ontoPrint, work, engravings).made();
}

void requireOnBed(const Plan& plan)
{
    if (!leavesBed(plan))
        return;
    const std::string far = plainNumber(plan.beyondBed, 2), x = plainNumber(plan.beyondAt.x, 1), y = plainNumber(plan.beyondAt.y, 1);
    if (plan.bedIsSheet)
        throw Error(ErrorKind::Reach, "the cut reaches {} mm past the sheet, at X {} Y {}; lay it farther in, take a larger sheet, or choose the machine", far, x, y);
    throw Error(ErrorKind::Reach, "the cut reaches {} mm past the machine's bed, at X {} Y {}; lay the sheet farther in, or take a larger machine", far, x, y);
}

bool canEngrave(const Machine& machine) { return machine.kind == MachineKind::Laser && machine.dialect == Dialect::Gcode && machine.tool.by == ToolBy::Spindle; }

Polyline outsideOf(const Plan& plan)
{
    constexpr double near = 0.2; // mm: for the eye
    std::vector<cv::Point2f> all;
    for (const ToolRun& run : plan.runs)
        for (const Point p : flatten(run.track, near))
            all.emplace_back(float(p.x), float(p.y));
    std::vector<cv::Point2f> hull, few;
    if (!all.empty()) {
        cv::convexHull(all, hull);
        cv::approxPolyDP(hull, few, near, true);
    }
    Polyline out;
    for (const cv::Point2f& p : few)
        out.push_back({p.x, p.y});
    return out;
}

std::vector<Polyline> cutsOf(const Plan& plan, double step)
{
    std::vector<Polyline> out;
    Point heading{1, 0};
    const double offset = plan.machine.tool.bladeOffset.mm();
    for (const ToolRun& run : plan.runs) {
        if (run.scan) {
            out.emplace_back();
            continue;
        }
        if (out.empty() && !run.track.arcs.empty())
            heading = tangentOn(run.track.start, run.track.arcs.front(), 0);
        out.push_back(trailing(run.track, offset, step, heading));
    }
    return out;
}

} // namespace yokai
