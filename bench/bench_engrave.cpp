// An A4 at ten lines a mm: from a picture's tone at 300 ppi to the stretches a beam goes along, beside Qt's own error diffusion of the same tone,
// brought to as many dots by OpenCV, and its runs of dots, in the same run. And the program of them, which has no peer.

#include "engrave/scan.h"
#include "formats/program/program.h"
#include "machine/plan.h"

#include <QImage>

#include <benchmark/benchmark.h>
#include <opencv2/imgproc.hpp>

#include <cmath>

using namespace yokai;

namespace {

constexpr int width = 2480, height = 3508; // A4 at 300 ppi
constexpr double pxPerMm = 300 / 25.4, linesPerMm = 10;

SharedGray tone()
{
    static const SharedGray made = [] {
        auto out = std::make_shared<Gray8>(width, height);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                out->at(x, y) = std::uint8_t(127 + 120 * std::sin(x * 0.011) * std::cos(y * 0.007));
        return out;
    }();
    return made;
}

Engraving engraving(EngraveAs as)
{
    Engraving out;
    out.spec.as = as;
    out.tone = tone();
    out.pxPerMm = pxPerMm;
    out.box = {0, 0, width / pxPerMm, height / pxPerMm};
    return out;
}

const Affine toBed{1, 0, 0, -1, 0, height / pxPerMm};

void lines(benchmark::State& state, EngraveAs as)
{
    const Engraving of = engraving(as);
    std::size_t stretches = 0;
    for (auto _ : state)
        stretches = scanOf(of, toBed, 1 / linesPerMm).stretches.size();
    state.counters["stretches"] = double(stretches);
}

void diffusedByQt(benchmark::State& state)
{
    const cv::Mat source(height, width, CV_8U, const_cast<std::uint8_t*>(tone()->all().data()));
    std::size_t runs = 0;
    for (auto _ : state) {
        cv::Mat dots;
        cv::resize(source, dots, {int(width / pxPerMm * linesPerMm), int(height / pxPerMm * linesPerMm)}, 0, 0, cv::INTER_AREA);
        cv::bitwise_not(dots, dots); // ink is dark there
        const QImage mono = QImage(dots.data, dots.cols, dots.rows, qsizetype(dots.step), QImage::Format_Grayscale8).convertToFormat(QImage::Format_Mono, Qt::MonoOnly | Qt::DiffuseDither);
        const bool darkIs = qGray(mono.color(1)) < 128;
        runs = 0;
        for (int y = 0; y < mono.height(); ++y) {
            const uchar* row = mono.constScanLine(y);
            bool before = false;
            for (int x = 0; x < mono.width(); ++x) {
                const bool dark = ((row[x >> 3] >> (7 - (x & 7)) & 1) != 0) == darkIs;
                runs += dark && !before;
                before = dark;
            }
        }
        benchmark::DoNotOptimize(runs);
    }
    state.counters["stretches"] = double(runs);
}

void program(benchmark::State& state)
{
    PlanSpec spec;
    spec.machine = Machine{};
    spec.machine->kind = MachineKind::Laser;
    spec.machine->bed.width = spec.machine->bed.depth = 400_mm;
    const EngraveItem item{{}, 0, std::make_shared<const Engraving>(engraving(EngraveAs::Diffuse)), Affine{}};
    std::size_t size = 0;
    for (auto _ : state) {
        const Program made = programOf(planOf({}, 210, 297, spec, {}, {}, std::span(&item, 1)));
        size = made.lines.size();
    }
    state.counters["lines"] = double(size);
}

BENCHMARK_CAPTURE(lines, strewn dots, EngraveAs::Diffuse)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(diffusedByQt)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(lines, ordered dots, EngraveAs::Dither)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(lines, power by grey, EngraveAs::Grey)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(program)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace

BENCHMARK_MAIN();
