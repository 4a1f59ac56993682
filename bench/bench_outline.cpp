// From a decoded sheet to fitted cut lines, step by step, on one A4 sheet with 48
// blobs that have openings, beside what general-purpose libraries take for the same
// job in the same run: OpenCV contours, simplified, offset by polyclipping; potrace.

#include "artwork/artwork.h"
#include "job/derive.h"
#include "keep/keep.h"
#include "outline/build.h"

#include <benchmark/benchmark.h>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <polyclipping/clipper.hpp>
#include <potracelib.h>

#include <atomic>
#include <chrono>
#include <cmath>
#include <memory>
#include <numbers>
#include <random>
#include <stop_token>
#include <thread>

using namespace yokai;

namespace {

struct Sheet {
    double ppi;
    double pxPerMm() const { return ppi / 25.4; }
    std::shared_ptr<const Rgba8> pixels;
    Bytes png;
};

// Blobs of five and seventeen lobes with a three-lobed opening, drawn large and
// averaged down, so that the anti-aliasing is a box filter's.
Sheet drawn(int ppi)
{
    const int w = int(std::lround(210 / 25.4 * ppi)), h = int(std::lround(297 / 25.4 * ppi));
    constexpr int fine = 8;
    cv::Mat sheet(h, w, CV_8U, cv::Scalar(0));
    const double k = ppi / 300.0;
    for (int i = 0; i < 48; ++i) {
        const int side = int(400 * k);
        const int x0 = int((30 + (i % 6) * 405) * k), y0 = int((30 + (i / 6) * 430) * k);
        cv::Mat blob(side * fine, side * fine, CV_8U, cv::Scalar(0));
        for (const bool hole : {false, true}) {
            std::vector<cv::Point> outline;
            for (int s = 0; s < 3000; ++s) {
                const double a = 2 * std::numbers::pi * s / 3000;
                const double r = hole ? 35 + 8 * std::cos(3 * a + i) : 140 + 22 * std::cos(5 * a + i) + 6 * std::cos(17 * a);
                outline.emplace_back(int(std::lround((200 + 0.3 * (i % 7) + r * std::cos(a)) * k * fine * 16)),
                                     int(std::lround((200 + r * std::sin(a)) * k * fine * 16)));
            }
            cv::fillPoly(blob, std::vector{outline}, cv::Scalar(hole ? 0 : 255), cv::LINE_8, 4);
        }
        cv::Mat small;
        cv::resize(blob, small, {side, side}, 0, 0, cv::INTER_AREA);
        small.copyTo(sheet(cv::Rect(x0, y0, side, side)));
    }
    auto pixels = std::make_shared<Rgba8>(w, h);
    cv::Mat bgra(h, w, CV_8UC4);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const std::uint8_t a = sheet.at<std::uint8_t>(y, x);
            pixels->at(x, y) = {180, 60, 80, a};
            bgra.at<cv::Vec4b>(y, x) = {80, 60, 180, a};
        }
    Bytes png;
    cv::imencode(".png", bgra, png);
    return {double(ppi), pixels, png};
}

const Sheet& sheet(int ppi)
{
    static const Sheet at300 = drawn(300);
    if (ppi == 300)
        return at300;
    static const Sheet at600 = drawn(600);
    return at600;
}

Contours edgeOf(const Coverage& c)
{
    Contours edge = traceEdge(*c.pixels);
    sharpenCorners(edge);
    return edge;
}

const DistanceField& field(int ppi)
{
    static const auto make = [](int at) {
        const Coverage c = coverageOf(*sheet(at).pixels, {});
        return std::make_unique<DistanceField>(partsOf(edgeOf(c), {}, {}, sheet(at).pxPerMm()).contours);
    };
    static const auto at300 = make(300), at600 = make(600);
    return ppi == 300 ? *at300 : *at600;
}

// The peers' contours: threshold, find, simplify to half a pixel.
std::vector<std::vector<cv::Point>> contours(const Sheet& s, bool simplify)
{
    cv::Mat alpha(s.pixels->height(), s.pixels->width(), CV_8U);
    for (int y = 0; y < alpha.rows; ++y)
        for (int x = 0; x < alpha.cols; ++x)
            alpha.at<std::uint8_t>(y, x) = s.pixels->at(x, y).a;
    cv::Mat bit;
    cv::threshold(alpha, bit, 127, 255, cv::THRESH_BINARY);
    std::vector<std::vector<cv::Point>> found;
    cv::findContours(bit, found, cv::RETR_CCOMP, cv::CHAIN_APPROX_NONE);
    if (simplify)
        for (auto& c : found)
            cv::approxPolyDP(std::vector<cv::Point>(c), c, 0.5, true);
    return found;
}

// With the 0.02 mm we keep ourselves, or with the precision the library has by itself.
std::size_t polyclipped(const std::vector<std::vector<cv::Point>>& found, double offset, bool ownPrecision = false)
{
    constexpr double unit = 256;
    ClipperLib::Paths paths, out;
    for (const auto& c : found) {
        ClipperLib::Path p;
        for (const cv::Point& q : c)
            p.emplace_back(ClipperLib::cInt(q.x * unit), ClipperLib::cInt(q.y * unit));
        paths.push_back(std::move(p));
    }
    ClipperLib::ClipperOffset offsetter(2, ownPrecision ? 0.25 : 0.02 * 300 / 25.4 * unit);
    offsetter.AddPaths(paths, ClipperLib::jtRound, ClipperLib::etClosedPolygon);
    offsetter.Execute(out, offset * unit);
    return out.size();
}

void decode(benchmark::State& state)
{
    const Picture picture = pictureFromBytes(sheet(int(state.range(0))).png, "sheet.png");
    for (auto _ : state)
        benchmark::DoNotOptimize(decodePicture(picture));
}

void decodeBare(benchmark::State& state)
{
    const Bytes& png = sheet(int(state.range(0))).png;
    for (auto _ : state)
        benchmark::DoNotOptimize(cv::imdecode(png, cv::IMREAD_UNCHANGED));
}

void keep(benchmark::State& state)
{
    sheet(int(state.range(0))); // drawn before the clock runs
    for (auto _ : state)
        benchmark::DoNotOptimize(coverageOf(*sheet(int(state.range(0))).pixels, {}));
}

void keepPaper(benchmark::State& state)
{
    KeepSpec spec;
    spec.rule = KeepRule::Paper;
    spec.papers = {{{255, 255, 255, 255}, {}}};
    for (auto _ : state)
        benchmark::DoNotOptimize(coverageOf(*sheet(int(state.range(0))).pixels, spec));
}

void outline(benchmark::State& state)
{
    const Coverage c = coverageOf(*sheet(int(state.range(0))).pixels, {});
    for (auto _ : state)
        benchmark::DoNotOptimize(edgeOf(c));
}

void offset(benchmark::State& state)
{
    // A slider's step: a distance nobody asked for yet, in a field that is there.
    const Sheet& s = sheet(int(state.range(0)));
    const double base = double(state.range(1)) / 100;
    field(int(s.ppi)).at(base * s.pxPerMm()); // the lattice is there, as after the first step
    int i = 0;
    for (auto _ : state)
        benchmark::DoNotOptimize(field(int(s.ppi)).at((base + 0.002 * (i++ % 20)) * s.pxPerMm()));
}

void offsetAndFit(benchmark::State& state)
{
    const Sheet& s = sheet(int(state.range(0)));
    const double base = double(state.range(1)) / 100;
    field(int(s.ppi)).at(base * s.pxPerMm()); // the lattice is there, as after the first step
    int i = 0;
    std::size_t nodes = 0;
    for (auto _ : state)
        nodes = nodesOf(fitLines(field(int(s.ppi)).at((base + 0.002 * (i++ % 20)) * s.pxPerMm()), 0.01 * s.pxPerMm()));
    state.counters["nodes"] = double(nodes);
}

void wholeChain(benchmark::State& state)
{
    const Sheet& s = sheet(int(state.range(0)));
    for (auto _ : state) {
        const Coverage c = coverageOf(*s.pixels, {});
        const Parts parts = partsOf(edgeOf(c), {}, {}, s.pxPerMm());
        const DistanceField f(parts.contours);
        benchmark::DoNotOptimize(fitLines(f.at(2 * s.pxPerMm()), 0.01 * s.pxPerMm()));
    }
}

// How long a stop takes that comes at any time in the chain, from the picture's bytes to the lines.
void stop(benchmark::State& state)
{
    using Clock = std::chrono::steady_clock;
    const auto ms = [](Clock::duration d) { return std::chrono::duration<double, std::milli>(d).count(); };
    Job job;
    job.pieces.emplace_back();
    job.pieces[0].artwork.picture = pictureFromBytes(sheet(int(state.range(0))).png, "sheet.png");
    job.pieces[0].lines() = {{LineKind::Through, 2_mm}, {LineKind::Kiss, 500_um}};
    giveIds(job);
    const auto begin = Clock::now();
    {
        StepCache cache;
        derive(job, cache);
    }
    const double whole = ms(Clock::now() - begin);
    std::mt19937 random(5);
    double longest = 0;
    for (auto _ : state) {
        StepCache cache;
        std::stop_source source;
        std::atomic<Clock::rep> asked = 0;
        const std::chrono::duration<double, std::milli> after(whole * double(random() % 1000) / 1000);
        std::jthread stopper([&] {
            std::this_thread::sleep_for(after);
            asked = Clock::now().time_since_epoch().count();
            source.request_stop();
        });
        double took = 0;
        try {
            derive(job, cache, Work{source.get_token(), {}});
        } catch (const Cancelled&) {
            took = ms(Clock::now() - Clock::time_point(Clock::duration(asked.load())));
        }
        longest = std::max(longest, took);
        state.SetIterationTime(took / 1000);
    }
    state.counters["longest_ms"] = longest;
}

// What cannot be stopped at all: one call of OpenCV over the same sheet.
void peerDistanceTransform(benchmark::State& state)
{
    const Rgba8& px = *sheet(int(state.range(0))).pixels;
    cv::Mat bit(px.height(), px.width(), CV_8U);
    for (std::size_t i = 0; i < px.size(); ++i)
        bit.data[i] = px.all()[i].a >= 128 ? 0 : 255;
    cv::Mat distance;
    for (auto _ : state)
        cv::distanceTransform(bit, distance, cv::DIST_L2, cv::DIST_MASK_PRECISE);
}

void peerPolyclippingChain(benchmark::State& state)
{
    const Sheet& s = sheet(int(state.range(0)));
    for (auto _ : state)
        benchmark::DoNotOptimize(polyclipped(contours(s, true), 2 * s.pxPerMm()));
}

void peerPolyclippingChainOwnPrecision(benchmark::State& state)
{
    const Sheet& s = sheet(int(state.range(0)));
    for (auto _ : state)
        benchmark::DoNotOptimize(polyclipped(contours(s, true), 2 * s.pxPerMm(), true));
}

void peerPolyclippingOffset(benchmark::State& state)
{
    const Sheet& s = sheet(int(state.range(0)));
    const auto found = contours(s, state.range(1) != 0);
    for (auto _ : state)
        benchmark::DoNotOptimize(polyclipped(found, 2 * s.pxPerMm()));
}

void peerPolyclippingOffsetOwnPrecision(benchmark::State& state)
{
    const Sheet& s = sheet(300);
    const auto found = contours(s, state.range(0) != 0);
    for (auto _ : state)
        benchmark::DoNotOptimize(polyclipped(found, 2 * s.pxPerMm(), true));
}

// One sticker of 60 x 80 mm at 300 ppi: a slider's step with the fit.
void pieceOffsetAndFit(benchmark::State& state)
{
    static const auto field = [] {
        const int w = int(60 * 300 / 25.4), h = int(80 * 300 / 25.4), fine = 8;
        cv::Mat large(h * fine, w * fine, CV_8U, cv::Scalar(0)), small;
        std::vector<cv::Point> outline;
        for (int s = 0; s < 6000; ++s) {
            const double a = 2 * std::numbers::pi * s / 6000, r = 1 + 0.12 * std::cos(7 * a) + 0.05 * std::sin(19 * a);
            outline.emplace_back(int((w / 2.0 + w * 0.38 * r * std::cos(a)) * fine), int((h / 2.0 + h * 0.38 * r * std::sin(a)) * fine));
        }
        cv::fillPoly(large, std::vector{outline}, cv::Scalar(255));
        cv::resize(large, small, {w, h}, 0, 0, cv::INTER_AREA);
        Gray8 coverage(w, h);
        std::copy(small.begin<std::uint8_t>(), small.end<std::uint8_t>(), coverage.all().begin());
        Contours edge = traceEdge(coverage);
        sharpenCorners(edge);
        return std::make_unique<DistanceField>(std::move(edge));
    }();
    const double pxPerMm = 300 / 25.4, base = double(state.range(0)) / 100;
    field->at(base * pxPerMm);
    int i = 0;
    for (auto _ : state)
        benchmark::DoNotOptimize(fitLines(field->at((base + 0.002 * (i++ % 20)) * pxPerMm), 0.01 * pxPerMm));
}

void peerPotrace(benchmark::State& state)
{
    const Rgba8& px = *sheet(int(state.range(0))).pixels;
    const int w = px.width(), h = px.height(), words = (w + 63) / 64;
    std::vector<potrace_word> map(std::size_t(words) * std::size_t(h), 0);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            if (px.at(x, y).a >= 128)
                map[std::size_t(h - 1 - y) * std::size_t(words) + std::size_t(x / 64)] |= potrace_word(1) << (63 - x % 64);
    std::size_t nodes = 0;
    for (auto _ : state) {
        potrace_bitmap_t bitmap{w, h, words, map.data()};
        const std::unique_ptr<potrace_param_t, void (*)(potrace_param_t*)> param(potrace_param_default(), potrace_param_free);
        const std::unique_ptr<potrace_state_t, void (*)(potrace_state_t*)> traced(potrace_trace(param.get(), &bitmap), potrace_state_free);
        nodes = 0;
        for (const potrace_path_t* p = traced->plist; p; p = p->next)
            nodes += std::size_t(p->curve.n);
    }
    state.counters["nodes"] = double(nodes);
}

} // namespace

BENCHMARK(decodeBare)->Arg(300)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(decode)->Arg(300)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(keep)->Arg(300)->Arg(600)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(keepPaper)->Arg(300)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(outline)->Arg(300)->Arg(600)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(offset)->Args({300, 50})->Args({300, 200})->Args({300, -100})->Args({300, 500})->Args({600, 200})->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(offsetAndFit)->Args({300, 0})->Args({300, 50})->Args({300, 200})->Args({300, -100})->Args({300, 500})->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(wholeChain)->Arg(300)->Arg(600)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(stop)->Arg(600)->Unit(benchmark::kMillisecond)->UseManualTime()->Iterations(40);
BENCHMARK(peerDistanceTransform)->Arg(600)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(peerPolyclippingChain)->Arg(300)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(peerPolyclippingChainOwnPrecision)->Arg(300)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(peerPolyclippingOffset)->Args({300, 0})->Args({300, 1})->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(peerPolyclippingOffsetOwnPrecision)->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(pieceOffsetAndFit)->Arg(50)->Arg(200)->Arg(-100)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(peerPotrace)->Arg(300)->Unit(benchmark::kMillisecond)->UseRealTime();

BENCHMARK_MAIN();
