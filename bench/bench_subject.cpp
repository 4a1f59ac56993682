// The subject of a photo of 12 Mpx within a box: ours, to the picture's own pixels; beside it OpenCV's GrabCut (five rounds, from the same box)
// on a copy 640 px wide, laid on the picture. `overlap`: what both the found and the true shape have of what either has.

#include "keep/subject.h"

#include <benchmark/benchmark.h>
#include <opencv2/imgproc.hpp>

#include <random>

using namespace yokai;

namespace {

constexpr int width = 4000, height = 3000;
const cv::Rect box(700, 500, 2200, 1900);

struct Photo {
    Rgba8 pixels{width, height};
    cv::Mat truth = cv::Mat::zeros(height, width, CV_8U);
};

// A many-cornered, shaded thing on an uneven, out-of-focus ground.
const Photo& photo()
{
    static const Photo made = [] {
        Photo out;
        std::mt19937 random(7);
        cv::Mat ground(height / 50, width / 50, CV_8UC3), large;
        for (int y = 0; y < ground.rows; ++y)
            for (int x = 0; x < ground.cols; ++x)
                ground.at<cv::Vec3b>(y, x) = {std::uint8_t(60 + random() % 60), std::uint8_t(90 + random() % 90), std::uint8_t(40 + random() % 60)};
        cv::resize(ground, large, {width, height}, 0, 0, cv::INTER_CUBIC);
        std::vector<cv::Point> corners;
        for (int k = 0; k < 40; ++k) {
            const double r = (k % 2 ? 620 : 880) + double(random() % 120), a = k * 2 * CV_PI / 40;
            corners.push_back({1800 + int(1.1 * r * std::cos(a)), 1450 + int(0.9 * r * std::sin(a))});
        }
        cv::fillPoly(out.truth, std::vector{corners}, cv::Scalar(255));
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const int noise = int(random() % 12);
                const cv::Vec3b g = large.at<cv::Vec3b>(y, x);
                out.pixels.at(x, y) = out.truth.at<std::uint8_t>(y, x) ? Rgba{std::uint8_t(200 - x / 60 + noise), std::uint8_t(70 + y / 60 + noise), std::uint8_t(60 + noise), 255}
                                                                     : Rgba{std::uint8_t(g[0] + noise), std::uint8_t(g[1] + noise), std::uint8_t(g[2] + noise), 255};
            }
        return out;
    }();
    return made;
}

double overlap(const cv::Mat& found)
{
    const cv::Mat& truth = photo().truth;
    return double(cv::countNonZero((found > 127) & truth)) / cv::countNonZero((found > 127) | truth);
}

void ours(benchmark::State& state)
{
    const Ring ring{{double(box.x), double(box.y)}, {double(box.x + box.width), double(box.y)}, {double(box.x + box.width), double(box.y + box.height)}, {double(box.x), double(box.y + box.height)}};
    photo();
    Gray8 found;
    for (auto _ : state)
        found = subjectOf(photo().pixels, {ring, {}}, {});
    state.counters["overlap"] = overlap(cv::Mat(height, width, CV_8U, found.all().data()));
}
BENCHMARK(ours)->Unit(benchmark::kMillisecond)->UseRealTime();

void grabCut(benchmark::State& state)
{
    const cv::Mat whole(height, width, CV_8UC4, const_cast<Rgba*>(photo().pixels.all().data()));
    cv::Mat found;
    for (auto _ : state) {
        constexpr double scale = 640.0 / width;
        cv::Mat small, colours, mask, surround, subject;
        cv::resize(whole, small, {}, scale, scale, cv::INTER_AREA);
        cv::cvtColor(small, colours, cv::COLOR_RGBA2BGR);
        cv::grabCut(colours, mask, cv::Rect(int(box.x * scale), int(box.y * scale), int(box.width * scale), int(box.height * scale)), surround, subject, 5, cv::GC_INIT_WITH_RECT);
        cv::resize((mask == cv::GC_FGD) | (mask == cv::GC_PR_FGD), found, {width, height});
    }
    state.counters["overlap"] = overlap(found);
}
BENCHMARK(grabCut)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace

BENCHMARK_MAIN();
