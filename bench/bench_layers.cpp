// An A4 picture at 300 ppi in eight plain colours, drawn smoothly, told apart and traced to a fitted line a colour: ours, from the file's
// bytes to checked lines; beside it, from the decoded pixels, OpenCV's k-means (eight colours, one try, on every fourth pixel) with each pixel put to the nearest, and potrace per
// colour, which reads whole pixels and says no shares. `colours`, `paths`: of all colours.

#include "artwork/artwork.h"
#include "job/derive.h"
#include "job/colour_layers.h"

#include <benchmark/benchmark.h>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <potracelib.h>

#include <memory>
#include <random>

using namespace yokai;

namespace {

constexpr int width = 2480, height = 3508;

// Discs of seven colours on an eighth.
const Rgba8& picture()
{
    static const Rgba8 made = [] {
        const cv::Scalar colours[] = {{40, 50, 110}, {230, 120, 50}, {250, 210, 70}, {30, 30, 40}, {250, 248, 240}, {190, 40, 60}, {50, 140, 130}, {120, 70, 40}};
        cv::Mat m(height, width, CV_8UC3, colours[0]);
        std::mt19937 random(3);
        for (int k = 0; k < 400; ++k) {
            const cv::Point at(int(random() % width) * 16, int(random() % height) * 16);
            cv::circle(m, at, int(20 + random() % 130) * 16, colours[1 + random() % 7], cv::FILLED, cv::LINE_AA, 4);
        }
        Rgba8 out(width, height);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                const cv::Vec3b c = m.at<cv::Vec3b>(y, x);
                out.at(x, y) = {c[0], c[1], c[2], 255};
            }
        return out;
    }();
    return made;
}

void split(benchmark::State& state)
{
    const Rgba8& px = picture();
    std::size_t colours = 0;
    for (auto _ : state)
        colours = splitColours(px, {}).colours.size();
    state.counters["colours"] = double(colours);
}

// To a fitted line a colour, as a job takes them: from the file's bytes, decoding and checks included.
void ours(benchmark::State& state)
{
    Job job;
    Piece& piece = job.pieces.emplace_back();
    piece.artwork.picture = pictureFromBytes(encodePng(picture()), "discs.png");
    piece.artwork.setWidth(210_mm);
    {
        StepCache cache;
        LayersWanted wanted;
        wanted.line.offset = Length();
        piece.layers = colourLayers(*splitOf(piece, cache), wanted);
    }
    giveIds(job);
    std::size_t paths = 0;
    Milliseconds times;
    for (auto _ : state) {
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        times = d.milliseconds;
        paths = 0;
        for (const LayerResult& layer : d.pieces[0].layers)
            for (const CutLine& line : layer.lines)
                paths += line.paths->size();
    }
    state.counters["colours"] = double(piece.layers.size());
    state.counters["paths"] = double(paths);
    // What the peer does too: from pixels to lines.
    state.counters["pixels_to_lines_ms"] = times["layers"] + times["outline"] + times["offset"] + times["fit"];
    state.counters["checks_ms"] = times["check"];
}

void kMeansAndPotrace(benchmark::State& state)
{
    const Rgba8& px = picture();
    constexpr int colours = 8, step = 4;
    std::size_t paths = 0;
    for (auto _ : state) {
        const cv::Mat rgba(height, width, CV_8UC4, const_cast<Rgba*>(px.all().data()));
        cv::Mat rgb, lab;
        cv::cvtColor(rgba, rgb, cv::COLOR_RGBA2RGB);
        cv::cvtColor(rgb, lab, cv::COLOR_RGB2Lab);
        cv::Mat samples(int(px.size() / step), 3, CV_32F), found, middles;
        for (int i = 0; i < samples.rows; ++i)
            for (int k = 0; k < 3; ++k)
                samples.at<float>(i, k) = float(lab.data[std::size_t(i) * step * 3 + std::size_t(k)]);
        cv::theRNG().state = 5;
        cv::kmeans(samples, colours, found, cv::TermCriteria(cv::TermCriteria::COUNT | cv::TermCriteria::EPS, 10, 1), 1, cv::KMEANS_PP_CENTERS, middles);
        std::vector<std::uint8_t> label(px.size());
        cv::parallel_for_({0, height}, [&](const cv::Range& rows) {
            for (std::size_t i = std::size_t(rows.start) * width; i < std::size_t(rows.end) * width; ++i) {
                float least = 1e9F;
                for (int k = 0; k < colours; ++k) {
                    float d = 0;
                    for (int c = 0; c < 3; ++c) {
                        const float e = float(lab.data[i * 3 + std::size_t(c)]) - middles.at<float>(k, c);
                        d += e * e;
                    }
                    if (d < least) {
                        least = d;
                        label[i] = std::uint8_t(k);
                    }
                }
            }
        });
        paths = 0;
        for (int k = 0; k < colours; ++k) {
            constexpr int bits = 8 * sizeof(potrace_word), words = (width + bits - 1) / bits;
            std::vector<potrace_word> map(std::size_t(words) * height, 0);
            for (int y = 0; y < height; ++y)
                for (int x = 0; x < width; ++x)
                    if (label[std::size_t(y) * width + std::size_t(x)] == k)
                        map[std::size_t(height - 1 - y) * words + std::size_t(x / bits)] |= potrace_word(1) << (bits - 1 - x % bits);
            potrace_bitmap_t bitmap{width, height, words, map.data()};
            const std::unique_ptr<potrace_param_t, void (*)(potrace_param_t*)> param(potrace_param_default(), potrace_param_free);
            const std::unique_ptr<potrace_state_t, void (*)(potrace_state_t*)> traced(potrace_trace(param.get(), &bitmap), potrace_state_free);
            for (const potrace_path_t* p = traced->plist; p; p = p->next)
                ++paths;
        }
    }
    state.counters["paths"] = double(paths);
}

} // namespace

BENCHMARK(split)->Unit(benchmark::kMillisecond);
BENCHMARK(ours)->Unit(benchmark::kMillisecond);
BENCHMARK(kMeansAndPotrace)->Unit(benchmark::kMillisecond);
BENCHMARK_MAIN();
