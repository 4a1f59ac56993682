#include "machine/measure.h"

#include "machine/motion.h"

#include <algorithm>

namespace yokai {

namespace {

// The lines of one engraving in one go, as they are streamed: none of them begins or ends at rest. Where each is done is told by its share of the moves.
std::size_t measureEngraving(Plan& plan, std::size_t first, Point& at)
{
    const Machine& machine = plan.machine;
    const Scan* scan = plan.runs[first].scan.get();
    PlannedStep& step = plan.steps[std::size_t(plan.runs[first].step)];
    const double speed = step.settings.speed.mmPerSecond();
    std::vector<Move> moves;
    std::vector<std::size_t> ends; // of each run
    const auto go = [&](Point to, double fast) {
        if (const double way = distance(at, to); way > 0)
            moves.push_back({way, fast, unit(to - at), unit(to - at)});
        at = to;
    };
    std::size_t last = first;
    for (; last < plan.runs.size() && plan.runs[last].scan.get() == scan; ++last) {
        const ToolRun& run = plan.runs[last];
        const ScanLine& line = scan->lines[run.line];
        const Point along = unit(line.to - line.from);
        step.travel += distance(at, run.track.start);
        step.cut += lengthOf(run.track);
        go(run.track.start, machine.motion.topSpeed.mmPerSecond());
        go(line.from, speed);
        for (std::size_t k = line.first; k < line.first + line.count; ++k) {
            go(line.from + along * scan->stretches[k].from, speed);
            go(line.from + along * scan->stretches[k].to, speed);
        }
        go(run.track.end(), speed);
        ends.push_back(moves.size());
        plan.box.add(run.track.start);
        plan.box.add(run.track.end());
    }
    holdBack(moves, machine.motion);
    const double seconds = secondsOf(moves, machine.motion);
    double even = 0;
    std::vector<double> done;
    for (std::size_t k = 0, move = 0; k < ends.size(); ++k) {
        for (; move < ends[k]; ++move)
            even += moves[move].length / moves[move].speed;
        done.push_back(even);
    }
    for (std::size_t k = first; k < last; ++k)
        plan.runs[k].doneBy = plan.seconds + seconds * done[k - first] / std::max(1e-9, even);
    step.seconds += seconds;
    plan.seconds += seconds;
    return last;
}

} // namespace

void measure(Plan& plan, Point home, const Rect& bed)
{
    const Machine& machine = plan.machine;
    Point at = home;
    const auto travel = [&](Point to) {
        const Move move{distance(at, to), machine.motion.topSpeed.mmPerSecond(), unit(to - at), unit(to - at)};
        return std::pair(move.length, move.length > 0 ? secondsOf({&move, 1}, machine.motion) : 0.0);
    };
    for (std::size_t k = 0; k < plan.runs.size(); ++k) {
        ToolRun& run = plan.runs[k];
        if (run.scan) {
            k = measureEngraving(plan, k, at) - 1;
            continue;
        }
        PlannedStep& step = plan.steps[std::size_t(run.step)];
        double before = 0;
        if (!run.drawnIn.arcs.empty()) {
            const auto [way, seconds] = travel(run.drawnIn.start);
            step.travel += way;
            before = seconds + 2 * machine.motion.toolSeconds + secondsOf(movesOf(run.drawnIn, step.settings.speed.mmPerSecond()), machine.motion);
            at = run.drawnIn.end();
            for (const Point p : flatten(run.drawnIn, 0.1))
                plan.box.add(p);
        }
        const auto [way, seconds] = travel(run.track.start);
        step.travel += way;
        step.cut += lengthOf(run.track);
        const double cutting = before + seconds + 2 * machine.motion.toolSeconds + secondsOf(movesOf(run.track, step.settings.speed.mmPerSecond()), machine.motion);
        step.seconds += cutting;
        run.doneBy = plan.seconds += cutting;
        at = run.track.end();
        for (const Point p : flatten(run.track, 0.1))
            plan.box.add(p);
    }
    plan.seconds += travel(home).second;
    const double width = bed.x1, depth = bed.y1;
    if (plan.runs.empty())
        return;
    const double past[] = {-plan.box.x0, plan.box.x1 - width, -plan.box.y0, plan.box.y1 - depth};
    for (const double p : past)
        plan.beyondBed = std::max(plan.beyondBed, p);
    if (plan.beyondBed > 0)
        for (const ToolRun& run : plan.runs)
            for (const Point p : flatten(run.track, 0.1))
                if (std::max({-p.x, p.x - width, -p.y, p.y - depth}) > plan.beyondBed - 0.01)
                    plan.beyondAt = p;
}

} // namespace yokai
