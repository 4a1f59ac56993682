// A photo of 12 million pixels seen from above, its lens's bulge taken out, beside OpenCV's own warp of the same picture in the same run, which
// takes out no bulge: to as many pixels, by cubics both.

#include "artwork/tilt.h"

#include <benchmark/benchmark.h>
#include <opencv2/imgproc.hpp>

#include <cmath>

using namespace yokai;

namespace {

constexpr int width = 4000, height = 3000;

const Rgba8& photo()
{
    static const Rgba8 made = [] {
        Rgba8 out(width, height);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                out.at(x, y) = {std::uint8_t(x), std::uint8_t(y), std::uint8_t((x ^ y) >> 3), 255};
        return out;
    }();
    return made;
}

TiltSpec tilt(double bulge)
{
    TiltSpec out;
    setCorners(out, {Point{700, 400}, {3300, 520}, {3600, 2700}, {380, 2600}});
    out.across = 297_mm;
    out.down = 210_mm;
    out.bulge = bulge;
    return out;
}

void fromAbove(benchmark::State& state)
{
    const FromAbove above = *FromAbove::of(tilt(double(state.range(0)) / 100), width, height);
    for (auto _ : state)
        benchmark::DoNotOptimize(seenFromAbove(photo(), above));
    state.counters["Mpx"] = double(above.width()) * above.height() / 1e6;
}

void warpPerspective(benchmark::State& state)
{
    const FromAbove above = *FromAbove::of(tilt(0), width, height);
    cv::Point2f from[4], to[4];
    const Point corners[] = {{0, 0}, {double(above.width()), 0}, {double(above.width()), double(above.height())}, {0, double(above.height())}};
    for (int k = 0; k < 4; ++k) {
        const Point p = above.toPicture(corners[k]);
        from[k] = {float(p.x), float(p.y)};
        to[k] = {float(corners[k].x), float(corners[k].y)};
    }
    const cv::Mat map = cv::getPerspectiveTransform(from, to), source(height, width, CV_8UC4, const_cast<Rgba*>(photo().all().data()));
    cv::Mat out;
    for (auto _ : state) {
        cv::warpPerspective(source, out, map, {above.width(), above.height()}, cv::INTER_CUBIC);
        benchmark::DoNotOptimize(out.data);
    }
    state.counters["Mpx"] = double(out.total()) / 1e6;
}

BENCHMARK(fromAbove)->ArgName("bulge %")->Arg(0)->Arg(5)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(warpPerspective)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace

BENCHMARK_MAIN();
