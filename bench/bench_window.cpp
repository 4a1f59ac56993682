// From dropping a large picture on the real window to its first cut line on the
// screen, beside the bare decode of the same file in the same run.

#include "bench/bench.h"
#include "main_window.h"
#include "theme/theme.h"

#include <benchmark/benchmark.h>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTimer>

#include <cmath>
#include <fstream>
#include <numbers>

using namespace yokai;

namespace {

// A4 at 600 ppi: a sticker's picture, shaded so that it does not compress to nothing.
const QString& picture()
{
    static const QTemporaryDir folder;
    static const QString path = [] {
        const int w = 4960, h = 7016;
        cv::Mat bgra(h, w, CV_8UC4, cv::Scalar(0, 0, 0, 0));
        std::vector<cv::Point> outline;
        for (int s = 0; s < 6000; ++s) {
            const double a = 2 * std::numbers::pi * s / 6000, r = 1 + 0.12 * std::cos(7 * a) + 0.05 * std::sin(19 * a);
            outline.emplace_back(int((w / 2.0 + w * 0.36 * r * std::cos(a)) * 16), int((h / 2.0 + h * 0.36 * r * std::sin(a)) * 16));
        }
        cv::Mat alpha(h, w, CV_8U, cv::Scalar(0));
        cv::fillPoly(alpha, std::vector{outline}, cv::Scalar(255), cv::LINE_AA, 4);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x)
                if (const auto a = alpha.at<std::uint8_t>(y, x); a > 0) {
                    const double wave = std::sin(x * 0.011) * std::cos(y * 0.007), grain = ((x * 73856093 ^ y * 19349663) & 7) - 3.5;
                    bgra.at<cv::Vec4b>(y, x) = {cv::saturate_cast<uchar>(110 + 60 * wave + grain), cv::saturate_cast<uchar>(90 + 50 * wave + grain),
                                                cv::saturate_cast<uchar>(170 - 40 * wave + grain), a};
                }
        const QString file = folder.filePath(QStringLiteral("large.png"));
        cv::imwrite(file.toStdString(), bgra);
        return file;
    }();
    return path;
}

void decodeBare(benchmark::State& state)
{
    std::ifstream in(picture().toStdString(), std::ios::binary);
    const std::vector<char> bytes{std::istreambuf_iterator<char>(in), {}};
    for (auto _ : state)
        benchmark::DoNotOptimize(cv::imdecode(bytes, cv::IMREAD_UNCHANGED));
}

// Whether any of the line's colour is to be seen.
bool lineShows(const QImage& image)
{
    const QRgb line = theme::lineColour(LineKind::Through).rgb();
    for (int y = 0; y < image.height(); y += 4) {
        const auto* row = reinterpret_cast<const QRgb*>(image.constScanLine(y));
        for (int x = 0; x < image.width(); ++x)
            if (std::abs(qRed(row[x]) - qRed(line)) + std::abs(qGreen(row[x]) - qGreen(line)) + std::abs(qBlue(row[x]) - qBlue(line)) < 12)
                return true;
    }
    return false;
}

// Asleep but for what happens, so that the work has the processors.
void wait(int ms)
{
    QEventLoop loop;
    QTimer::singleShot(ms, &loop, &QEventLoop::quit);
    loop.exec();
}

void openToFirstLine(benchmark::State& state)
{
    const QString file = picture();
    for (auto _ : state) {
        MainWindow window;
        window.resize(1280, 800);
        window.show();
        QApplication::processEvents();
        QElapsedTimer clock;
        clock.start();
        window.files().open({file});
        bool shown = false;
        while (!shown && clock.elapsed() < 60'000) {
            wait(3);
            const LayerResult* r = window.desk().layerResult();
            shown = r && !r->lines.empty() && lineShows(window.bench().grab().toImage().convertToFormat(QImage::Format_RGB32));
        }
        if (!shown)
            state.SkipWithError("no cut line within a minute");
        state.SetIterationTime(double(clock.nsecsElapsed()) / 1e9);
        if (shown)
            for (const auto& [step, ms] : window.desk().shown()->derived.milliseconds)
                state.counters[step + "_ms"] = ms;
        while (window.desk().busy() || !window.desk().upToDate())
            wait(20);
    }
}

} // namespace

BENCHMARK(decodeBare)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(1);
BENCHMARK(openToFirstLine)->Unit(benchmark::kMillisecond)->UseManualTime()->Iterations(1);

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    QApplication::setOrganizationName(QStringLiteral("yokai-bench"));
    QSettings().clear();
    theme::install(app);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    benchmark::Shutdown();
    return 0;
}
