// What the batch program needs at most for one A4 picture at 600 ppi, beside the bare
// decode of the same file. Peak resident memory as the system counts it for a process
// that has ended (wait4).

#include <benchmark/benchmark.h>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <numbers>
#include <spawn.h>
#include <string>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <vector>

namespace {

const std::filesystem::path& picture()
{
    static const std::filesystem::path file = [] {
        const int w = 4960, h = 7016;
        cv::Mat bgra(h, w, CV_8UC4, cv::Scalar(0, 0, 0, 0));
        for (int i = 0; i < 48; ++i) {
            std::vector<cv::Point> outline;
            const double cx = 430 + (i % 6) * 810, cy = 460 + (i / 6) * 860.0;
            for (int s = 0; s < 3000; ++s) {
                const double a = 2 * std::numbers::pi * s / 3000, r = 280 + 44 * std::cos(5 * a + i) + 12 * std::cos(17 * a);
                outline.emplace_back(int((cx + r * std::cos(a)) * 16), int((cy + r * std::sin(a)) * 16));
            }
            cv::fillPoly(bgra, std::vector{outline}, cv::Scalar(80, 60, 180, 255), cv::LINE_AA, 4);
        }
        std::filesystem::path out = std::filesystem::temp_directory_path() / ("yokai-memory-" + std::to_string(::getpid()) + ".png");
        cv::imwrite(out.string(), bgra);
        return out;
    }();
    return file;
}

// MB; negative when the program failed.
double peakOf(std::vector<std::string> command)
{
    std::vector<char*> argv;
    for (std::string& s : command)
        argv.push_back(s.data());
    argv.push_back(nullptr);
    pid_t pid = 0;
    if (::posix_spawn(&pid, argv[0], nullptr, nullptr, argv.data(), environ) != 0)
        return -1;
    int status = 0;
    rusage usage{};
    if (::wait4(pid, &status, 0, &usage) != pid || status != 0)
        return -1;
    return double(usage.ru_maxrss) / 1024;
}

void peak(benchmark::State& state, std::vector<std::string> command)
{
    double most = 0;
    for (auto _ : state) {
        const double mb = peakOf(command);
        if (mb < 0)
            state.SkipWithError("the program failed");
        most = std::max(most, mb);
    }
    state.counters["peak_MB"] = most;
}

} // namespace

int main(int argc, char** argv)
{
    if (argc == 3 && std::string(argv[1]) == "--decode") // the peer, as a process of its own
        return cv::imread(argv[2], cv::IMREAD_UNCHANGED).empty();
    const std::string file = picture().string(), out = file + ".svg";
    const std::string self = std::filesystem::read_symlink("/proc/self/exe").string();
    const auto add = [](const char* name, std::vector<std::string> command) {
        benchmark::RegisterBenchmark(name, [command](benchmark::State& state) { peak(state, command); })
            ->Unit(benchmark::kMillisecond)
            ->UseRealTime()
            ->Iterations(1);
    };
    add("outlineA4At600", {YOKAI_BATCH, "outline", file, "--line", "through:2mm", "--out", out});
    add("decodeBare", {self, "--decode", file});
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    benchmark::Shutdown();
    std::filesystem::remove(file);
    std::filesystem::remove(out);
    return 0;
}
