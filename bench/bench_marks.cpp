// Marks in photos of 12 megapixels, beside OpenCV's blob detector on the same pictures. Ours tells them apart, numbers them and
// measures to a fraction of a pixel; the peer only lists blobs.
//
// bench_marks --photos N writes what was found in N made photos instead: how many, how far off, how many wrongly.

#include "base/error.h"
#include "photo.h"
#include "register/find_marks.h"
#include "sheet/marks.h"

#include <benchmark/benchmark.h>
#include <opencv2/features2d.hpp>
#include <opencv2/imgproc.hpp>

#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <cstring>

using namespace yokai;
using namespace yokai::test;

namespace {

std::vector<Mark> marksOfStyle(MarkStyle style, int count)
{
    SheetSpec spec;
    spec.marks.style = style;
    spec.marks.count = count;
    return marksOf(spec);
}

const Photo& photo()
{
    static std::mt19937 random(7);
    static const Photo one = photograph(marksOfStyle(MarkStyle::Dots, 5), 210, 297, carelessShot(random, true), 1);
    return one;
}

void findOurs(benchmark::State& state)
{
    const auto design = marksOfStyle(MarkStyle::Dots, 5);
    const Rgba8& picture = photo().picture; // made before the clock runs
    for (auto _ : state)
        benchmark::DoNotOptimize(findMarks(picture, design));
}

void blobsOfOpenCv(benchmark::State& state)
{
    const Rgba8& picture = photo().picture;
    const cv::Mat rgba(picture.height(), picture.width(), CV_8UC4, const_cast<Rgba*>(picture.all().data()));
    cv::SimpleBlobDetector::Params params;
    params.filterByArea = true;
    params.minArea = 400;
    params.maxArea = 20'000;
    params.filterByCircularity = true;
    params.minCircularity = 0.7f;
    const auto detector = cv::SimpleBlobDetector::create(params);
    for (auto _ : state) {
        cv::Mat grey;
        cv::cvtColor(rgba, grey, cv::COLOR_RGBA2GRAY);
        std::vector<cv::KeyPoint> found;
        detector->detect(grey, found);
        benchmark::DoNotOptimize(found);
    }
}

// Every style, count, way up and slant by turns.
int tally(int photos)
{
    std::mt19937 random(20261127);
    int found = 0, wrong = 0;
    double worst = 0, slowest = 0, sum = 0;
    for (int n = 0; n < photos; ++n) {
        const MarkStyle style = std::vector{MarkStyle::Dots, MarkStyle::Crosses, MarkStyle::Brackets}[std::size_t(n % 3)];
        const auto design = marksOfStyle(style, 4 + n / 3 % 5);
        const Photo seen = photograph(design, 210, 297, carelessShot(random, design.size() > 4), unsigned(n));
        const auto begin = std::chrono::steady_clock::now();
        double off = -1;
        try {
            const FoundMarks f = findMarks(seen.picture, design);
            off = 0;
            for (std::size_t k = 0; k < design.size(); ++k)
                if (f.px[k])
                    off = std::max(off, distance(*f.px[k], seen.marks[k]) / seen.pxPerMm);
        } catch (const Error& e) {
            std::printf("%d (%s, %zu): %s\n", n, name(style), design.size(), e.what());
        }
        const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
        slowest = std::max(slowest, ms);
        sum += ms;
        found += off >= 0;
        if (off > 0.15) {
            ++wrong;
            std::printf("%d (%s, %zu): %.3f mm off\n", n, name(style), design.size(), off);
        }
        worst = std::max(worst, off);
    }
    std::printf("%d photos: %d found, %d of them more than 0.15 mm off, worst %.3f mm; %.0f ms each, slowest %.0f ms\n", photos, found, wrong, worst,
                sum / photos, slowest);
    return wrong == 0 ? 0 : 1;
}

} // namespace

BENCHMARK(findOurs)->Unit(benchmark::kMillisecond);
BENCHMARK(blobsOfOpenCv)->Unit(benchmark::kMillisecond);

int main(int argc, char** argv)
{
    if (argc == 3 && std::strcmp(argv[1], "--photos") == 0)
        return tally(std::atoi(argv[2]));
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
