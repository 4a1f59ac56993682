// Twelve real shapes of 45 mm, 2 mm apart, as many of each as the others, on an A3 with a margin of 10 mm: how much of the sheet
// lies within cut lines, and how long it takes. Beside it libnest2d on the same outlines with the same gap (by no-fit polygons
// and first fit, its pieces turned by the same angles), given each shape eight times and as much time; what it puts into its first bin by then counts.
// Shapes: OpenMoji's drawings (npm openmoji), drawn by librsvg, cut 1.5 mm round.

#include "job/derive.h"
#include "job/steps/layout.h"

#include <benchmark/benchmark.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <numbers>

using namespace yokai;

std::vector<int> nestedByPeer(const std::vector<std::vector<std::pair<double, double>>>& outlines, int rounds, double width, double height, double gap, int turns, double seconds);

namespace {

constexpr double width = 297, height = 420, margin = 10, gap = 2, size = 45; // mm

std::vector<ToPlace> shapes()
{
    const std::filesystem::path from = YOKAI_OPENMOJI "/color/svg", to = std::filesystem::temp_directory_path() / "yokai-bench-nest";
    std::filesystem::create_directories(to);
    Job job;
    for (const char* name : {"1F40A", "1F40D", "1F40E", "1F412", "1F415", "1F418", "1F419", "1F98E", "1F992", "1F996", "1F99C", "1F9A9"}) {
        const std::filesystem::path png = to / (std::string(name) + ".png");
        if (std::system(("rsvg-convert -w 800 '" + (from / (std::string(name) + ".svg")).string() + "' -o '" + png.string() + "'").c_str()) != 0)
            throw std::runtime_error("the drawings are missing; ./dev test fetches them");
        Piece piece;
        piece.artwork.picture = openPicture(png);
        piece.artwork.setWidth(Length::mm(size));
        piece.copies.reset();
        piece.lines() = {{LineKind::Through, 1500_um}};
        piece.lines()[0].joinGap = 3_mm;
        piece.lines()[0].openings = LineOpenings::None;
        job.pieces.push_back(std::move(piece));
    }
    giveIds(job);
    StepCache cache;
    const Derived d = derive(job, cache, {}, Want::Lines);
    std::vector<ToPlace> out;
    for (const PieceResult& piece : d.pieces) {
        auto shape = std::make_shared<PieceShape>();
        Rect box = Rect::nothing();
        const auto& paths = *piece.layer().lines[0].paths;
        const Path& largest = *std::max_element(paths.begin(), paths.end(), [](const Path& a, const Path& b) { return signedArea(a) < signedArea(b); });
        shape->rings = {flatten(largest, 0.005)};
        shape->area = signedArea(shape->rings[0]);
        box.add(bounds(shape->rings[0]));
        out.push_back({piece.id, box, std::nullopt, 1, shape});
    }
    return out;
}

SheetSpec sheet(LayoutKind kind, Turns turns, double seconds)
{
    SheetSpec spec;
    spec.media = {"A3", Length::mm(width), Length::mm(height)};
    spec.margin = Length::mm(margin);
    spec.gap = Length::mm(gap);
    spec.marks.style = MarkStyle::None;
    spec.layout = kind;
    spec.nest.turns = turns;
    spec.nest.seconds = seconds;
    return spec;
}

void ours(benchmark::State& state, LayoutKind kind, Turns turns, double seconds)
{
    const auto pieces = shapes();
    double used = 0;
    for (auto _ : state) {
        const Layout layout = layOut(sheet(kind, turns, seconds), pieces);
        used = layout.usedOf(0);
    }
    state.counters["used"] = used;
}

void libnest(benchmark::State& state, int turns, double seconds)
{
    const auto pieces = shapes();
    std::vector<std::vector<std::pair<double, double>>> outlines;
    for (const ToPlace& piece : pieces) {
        auto& outline = outlines.emplace_back();
        // Every third point: 0.05 mm off at most, and many times faster for it.
        for (std::size_t k = 0; k < piece.shape->rings[0].size(); k += 3)
            outline.emplace_back(piece.shape->rings[0][k].x, piece.shape->rings[0][k].y);
    }
    double used = 0;
    for (auto _ : state) {
        used = 0;
        const std::vector<int> bins = nestedByPeer(outlines, 8, width - 2 * margin, height - 2 * margin, gap, turns, seconds);
        for (std::size_t k = 0; k < bins.size(); ++k)
            used += bins[k] == 0 ? pieces[k % pieces.size()].shape->area / (width * height) : 0;
    }
    state.counters["used"] = used;
}

} // namespace

BENCHMARK_CAPTURE(ours, rows, LayoutKind::Grid, Turns::None, 0)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();
BENCHMARK_CAPTURE(ours, nested_quarter_10s, LayoutKind::Nest, Turns::Quarter, 10)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();
BENCHMARK_CAPTURE(ours, nested_free_10s, LayoutKind::Nest, Turns::Free, 10)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();
BENCHMARK_CAPTURE(libnest, quarter_10s, 4, 10)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();
BENCHMARK_CAPTURE(libnest, twelve_turns_10s, 12, 10)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();

BENCHMARK_CAPTURE(libnest, quarter_60s, 4, 60)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();

BENCHMARK_MAIN();
