// The findings of a sheet-sized picture with 200 parts: at first, and after a change to one of them.
// Beside them what a general-purpose library takes for the two widest of the checks alone:
// polyclipping opens the region by half the least neck and closes it by half the least gap.

#include "check/checks.h"
#include "job/derive.h"
#include "outline/figures.h"

#include <benchmark/benchmark.h>
#include <polyclipping/clipper.hpp>

#include <cmath>
#include <memory>
#include <numbers>

using namespace yokai;

namespace {

constexpr double mm = 300 / 25.4; // pixels

// Lobed shapes of about 10 mm, each fitted as a line of 1 mm round its drawn edge.
Paths partsOfASheet(int changed)
{
    Paths out;
    constexpr int across = 14, count = 200;
    for (int i = 0; i < count; ++i) {
        Contours edge(1);
        const Point centre{(12 + 13.5 * (i % across)) * mm, (12 + 19.0 * (i / across)) * mm};
        const int lobes = 5 + i % 7;
        const double radius = (4.2 + (i == changed ? 0.1 : 0.0)) * mm;
        for (int k = 0; k < 1200; ++k) {
            const double a = 2 * std::numbers::pi * k / 1200, r = radius * (1 + 0.18 * std::cos(lobes * a + i));
            edge[0].points.push_back(centre + Point{r * std::cos(a), r * std::sin(a)});
        }
        edge[0].area = signedArea(edge[0].points);
        for (const Path& path : fitLines(DistanceField(edge).at(mm), 0.01 * mm))
            out.push_back(transformed(path, Affine::scale(1 / mm, 1 / mm)));
    }
    return out;
}

struct Sheet {
    Job job;
    Derived derived;
};

Sheet sheetOf(const Paths& paths)
{
    Sheet out;
    out.job.pieces.emplace_back();
    giveIds(out.job);
    PieceResult piece;
    piece.id = out.job.pieces[0].id;
    piece.pxPerMm = mm;
    piece.width = 210;
    piece.height = 297;
    piece.layers.emplace_back();
    CutLine line;
    line.id = out.job.pieces[0].lines()[0].id;
    line.offset = 1_mm;
    line.tolerance = 0.01;
    line.paths = std::make_shared<const Paths>(paths);
    piece.layers[0].lines.push_back(line);
    out.derived.pieces.push_back(piece);
    return out;
}

std::size_t check(const Sheet& sheet, StepCache& cache)
{
    Milliseconds times;
    const Work work;
    Run run(cache, times, work);
    return findingsOf({sheet.job, sheet.derived, run}).size();
}

void findingsAtFirst(benchmark::State& state)
{
    const Sheet sheet = sheetOf(partsOfASheet(-1));
    std::size_t found = 0;
    for (auto _ : state) {
        StepCache cache;
        found = check(sheet, cache);
    }
    state.counters["findings"] = double(found);
    state.counters["paths"] = double(sheet.derived.pieces[0].layer().lines[0].paths->size());
}

void findingsAfterAChange(benchmark::State& state)
{
    const Sheet before = sheetOf(partsOfASheet(-1)), after = sheetOf(partsOfASheet(77));
    for (auto _ : state) {
        state.PauseTiming();
        StepCache cache;
        check(before, cache);
        state.ResumeTiming();
        benchmark::DoNotOptimize(check(after, cache));
    }
}

void peerPolyclippingOpensAndCloses(benchmark::State& state)
{
    constexpr double unit = 10'000; // a mm
    ClipperLib::Paths paths;
    for (const Path& path : partsOfASheet(-1)) {
        ClipperLib::Path p;
        for (const Point q : flatten(path, 0.005))
            p.emplace_back(ClipperLib::cInt(q.x * unit), ClipperLib::cInt(q.y * unit));
        paths.push_back(std::move(p));
    }
    const auto grown = [&](const ClipperLib::Paths& from, double by) {
        ClipperLib::ClipperOffset offsetter(2, 0.005 * unit);
        offsetter.AddPaths(from, ClipperLib::jtRound, ClipperLib::etClosedPolygon);
        ClipperLib::Paths out;
        offsetter.Execute(out, by * unit);
        return out;
    };
    for (auto _ : state) {
        benchmark::DoNotOptimize(grown(grown(paths, -0.5), 0.5));
        benchmark::DoNotOptimize(grown(grown(paths, 0.25), -0.25));
    }
}

} // namespace

BENCHMARK(findingsAtFirst)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(findingsAfterAChange)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(peerPolyclippingOpensAndCloses)->Unit(benchmark::kMillisecond)->UseRealTime();

BENCHMARK_MAIN();
