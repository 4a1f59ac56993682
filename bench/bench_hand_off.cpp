// A sheet of 200 copies of a picture of 20 megapixels as PDF, beside zlib compressing that picture once, colours and opacity, at the same
// level in the same run. Reported beside the time: how large the file is of the compressed picture, and the most memory held.

#include "artwork/artwork.h"
#include "formats/pdf/pdf.h"
#include "job/derive.h"

#include <benchmark/benchmark.h>
#include <zlib.h>

#include <fstream>
#include <string>

using namespace yokai;

namespace {

constexpr int width = 5000, height = 4000;

// A clear ground with a disc on it that no compressor finds easy.
const Rgba8& pixels()
{
    static const Rgba8 made = [] {
        Rgba8 px(width, height, {0, 0, 0, 0});
        std::uint32_t noise = 1;
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x) {
                noise = noise * 1664525 + 1013904223;
                const double dx = (x - width / 2) / 2300.0, dy = (y - height / 2) / 1800.0;
                if (dx * dx + dy * dy < 1)
                    px.at(x, y) = {std::uint8_t(x / 20 + (noise >> 28)), std::uint8_t(y / 16 + (noise >> 24 & 15)), std::uint8_t((x + y) / 36 + (noise >> 20 & 15)), 255};
            }
        return px;
    }();
    return made;
}

const std::pair<Job, Derived>& job()
{
    static const auto made = [] {
        Job j;
        j.pieces.emplace_back();
        j.pieces[0].artwork.picture = pictureFromBytes(encodePng(pixels()), "disc.png");
        j.pieces[0].artwork.setWidth(40_mm);
        j.pieces[0].copies = 200;
        j.sheet.media = {"large", 1000_mm, 1200_mm};
        giveIds(j);
        StepCache cache(1);
        Derived d = derive(j, cache);
        return std::make_pair(std::move(j), std::move(d));
    }();
    return made;
}

std::size_t compressed(const std::vector<unsigned char>& raw)
{
    std::vector<unsigned char> out(compressBound(uLong(raw.size())));
    uLongf length = uLongf(out.size());
    compress2(out.data(), &length, raw.data(), uLong(raw.size()), Z_DEFAULT_COMPRESSION);
    return length;
}

// Three bytes of colour a pixel, and one of opacity.
std::size_t compressOnce()
{
    const auto all = std::size_t(width) * height;
    std::vector<unsigned char> colours(3 * all), alpha(all);
    for (std::size_t k = 0; k < all; ++k) {
        const Rgba c = pixels().all()[k];
        colours[3 * k] = c.r;
        colours[3 * k + 1] = c.g;
        colours[3 * k + 2] = c.b;
        alpha[k] = c.a;
    }
    return compressed(colours) + compressed(alpha);
}

double mostHeld() // MB, of the whole process so far
{
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmHWM:"))
            return std::stod(line.substr(6)) / 1024;
    return 0;
}

void sheetOf200(benchmark::State& state)
{
    const auto& [j, d] = job();
    std::size_t size = 0;
    for (auto _ : state)
        size = writePdf(drawSheet(j, d, 0), Content::Both).size();
    state.counters["MB"] = double(size) / 1e6;
    state.counters["copies"] = double(d.sheet.placements.size());
    state.counters["most_MB_held"] = mostHeld();
}

void zlibOnce(benchmark::State& state)
{
    std::size_t size = 0;
    for (auto _ : state)
        size = compressOnce();
    state.counters["MB"] = double(size) / 1e6;
}

BENCHMARK(sheetOf200)->Unit(benchmark::kMillisecond)->MeasureProcessCPUTime()->UseRealTime();
BENCHMARK(zlibOnce)->Unit(benchmark::kMillisecond)->MeasureProcessCPUTime()->UseRealTime();

} // namespace

BENCHMARK_MAIN();
