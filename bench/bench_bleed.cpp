// Bleed of an A4 sheet at 300 ppi, beside OpenCV's exact distance transform of the same sheet in the same run.

#include "bleed/bleed.h"

#include <benchmark/benchmark.h>
#include <opencv2/imgproc.hpp>

#include <cmath>
#include <numbers>

using namespace yokai;

namespace {

constexpr int width = 2480, height = 3508; // A4 at 300 ppi
constexpr double pxPerMm = 300 / 25.4;

// 48 lobed shapes in rows, each of its own colours.
struct Sheet {
    cv::Mat alpha{height, width, CV_8U, cv::Scalar(0)};
    Gray8 printed{width, height};
    Rgba8 pixels{width, height};
    std::unique_ptr<DistanceField> edge;
};
const Sheet& sheet()
{
    static const Sheet made = [] {
        Sheet out;
        for (int k = 0; k < 48; ++k) {
            const double cx = width * (k % 6 + 0.5) / 6, cy = height * (k / 6 + 0.5) / 8;
            std::vector<cv::Point> outline;
            for (int s = 0; s < 720; ++s) {
                const double a = 2 * std::numbers::pi * s / 720, r = 150 * (1 + 0.15 * std::cos((3 + k % 5) * a));
                outline.emplace_back(int((cx + r * std::cos(a)) * 16), int((cy + r * std::sin(a)) * 16));
            }
            cv::fillPoly(out.alpha, std::vector{outline}, cv::Scalar(255), cv::LINE_AA, 4);
        }
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                out.printed.at(x, y) = out.alpha.at<std::uint8_t>(y, x);
                out.pixels.at(x, y) = {std::uint8_t(x), std::uint8_t(y), std::uint8_t(x ^ y), out.printed.at(x, y)};
            }
        out.edge = std::make_unique<DistanceField>(traceEdge(out.printed));
        return out;
    }();
    return made;
}

void bleed(benchmark::State& state)
{
    BleedSpec spec;
    spec.distance = Length::mm(double(state.range(0)));
    for (auto _ : state)
        benchmark::DoNotOptimize(bleedOf(*sheet().edge, {sheet().pixels, sheet().printed, pxPerMm, false}, spec));
}

void exactDistanceTransform(benchmark::State& state)
{
    cv::Mat outside, away;
    cv::threshold(sheet().alpha, outside, 127, 255, cv::THRESH_BINARY_INV);
    for (auto _ : state) {
        cv::distanceTransform(outside, away, cv::DIST_L2, cv::DIST_MASK_PRECISE);
        benchmark::DoNotOptimize(away.data);
    }
}

} // namespace

BENCHMARK(exactDistanceTransform)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(bleed)->Unit(benchmark::kMillisecond)->UseRealTime()->Arg(1)->Arg(2)->Arg(3);

BENCHMARK_MAIN();
