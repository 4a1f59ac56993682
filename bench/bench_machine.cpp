// A machine's program for 5 000 paths: circles and squares of many sizes strewn over a large bed, planned for a blade that trails and for a
// beam, and written as G-code and HPGL. Beside the route between them the textbook's (tests/support/textbook_route.h) on the same
// stops. `travel`: mm with the tool up.

#include "formats/program/program.h"
#include "machine/library.h"
#include "machine/plan.h"
#include "machine/route.h"
#include "path/arcs.h"
#include "textbook_route.h"

#include <benchmark/benchmark.h>

#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr int paths = 5000;
constexpr double width = 880, height = 580; // mm

CutItems items()
{
    std::mt19937 random(4);
    CutItems out;
    for (int k = 0; k < paths; ++k) {
        const Point at{6 + double(random() % 86'800) / 100, 6 + double(random() % 56'800) / 100};
        const double r = 1 + double(random() % 300) / 100;
        CutItem item;
        item.copy = k;
        item.path = k % 2 ? pathOf({at.x + r, at.y}, {{{at.x - r, at.y}, 1}, {{at.x + r, at.y}, 1}}, true)
                          : polygonPath(Polyline{{at.x - r, at.y - r}, {at.x + r, at.y - r}, {at.x + r, at.y + r}, {at.x - r, at.y + r}});
        out.push_back(std::move(item));
    }
    return out;
}

std::vector<Point> stops()
{
    std::mt19937 random(5);
    std::vector<Point> out;
    for (int k = 0; k < paths; ++k)
        out.push_back({double(random() % 88'000) / 100, double(random() % 58'000) / 100});
    return out;
}

void plan(benchmark::State& state, int sample)
{
    const CutItems all = items();
    PlanSpec spec;
    spec.machine = sampleMachines()[std::size_t(sample)];
    spec.machine->bed.width = Length::mm(900);
    spec.machine->bed.depth = Length::mm(600);
    spec.material = sampleMaterials()[0];
    std::size_t lines = 0;
    double travel = 0;
    for (auto _ : state) {
        const Plan made = planOf(all, width, height, spec);
        travel = 0;
        for (const PlannedStep& step : made.steps)
            travel += step.travel;
        lines = programOf(made).lines.size();
    }
    state.counters["lines"] = double(lines);
    state.counters["travel"] = travel;
}

void ours(benchmark::State& state)
{
    const std::vector<Point> at = stops();
    std::vector<int> order;
    for (auto _ : state)
        order = shortRoute(at, {}, {});
    state.counters["travel"] = lengthOfRoute(at, order);
}

void textbook(benchmark::State& state)
{
    const std::vector<Point> at = stops();
    std::vector<int> order;
    for (auto _ : state)
        order = textbookRoute(at);
    state.counters["travel"] = lengthOfRoute(at, order);
}

} // namespace

BENCHMARK_CAPTURE(plan, blade_gcode, 0)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(plan, blade_hpgl, 1)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(plan, beam_gcode, 2)->Unit(benchmark::kMillisecond);
BENCHMARK(ours)->Unit(benchmark::kMillisecond);
BENCHMARK(textbook)->Unit(benchmark::kMillisecond)->Iterations(1);
BENCHMARK_MAIN();
