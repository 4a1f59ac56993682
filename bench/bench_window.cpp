// From dropping a large picture on the real window to its first cut line on the
// screen, beside the bare decode of the same file in the same run; and a node of a
// line of 5 000 dragged, a frame at a time, beside Qt drawing such a line; and 200 nested copies
// dragged together, beside Qt drawing as many pictures and outlines.

#include "bench/bench.h"
#include "main_window.h"
#include "theme/theme.h"

#include <benchmark/benchmark.h>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
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

constexpr int tips = 1'250;

// A star of so many tips: its line has some five nodes for each.
const QString& starry()
{
    static const QTemporaryDir folder;
    static const QString path = [] {
        const int side = 4000;
        cv::Mat bgra(side, side, CV_8UC4, cv::Scalar(0, 0, 0, 0));
        std::vector<cv::Point> outline;
        for (int k = 0; k < 2 * tips; ++k) {
            const double a = std::numbers::pi * k / tips, r = side * (k % 2 ? 0.46 : 0.463) * (1 - 0.2 * std::pow(std::sin(5 * a), 2));
            outline.emplace_back(int((side / 2.0 + r * std::cos(a)) * 16), int((side / 2.0 + r * std::sin(a)) * 16));
        }
        cv::Mat alpha(side, side, CV_8U, cv::Scalar(0));
        cv::fillPoly(alpha, std::vector{outline}, cv::Scalar(255), cv::LINE_AA, 4);
        bgra.setTo(cv::Scalar(90, 60, 160, 255), alpha);
        std::vector<cv::Mat> planes;
        cv::split(bgra, planes);
        planes[3] = alpha;
        cv::merge(planes, bgra);
        const QString file = folder.filePath(QStringLiteral("star.png"));
        cv::imwrite(file.toStdString(), bgra);
        return file;
    }();
    return path;
}

struct Opened {
    MainWindow window;
    Desk& desk = window.desk();
    Bench& bench = window.bench();
    Opened()
    {
        window.resize(1280, 800);
        window.show();
    }
    void settle() const
    {
        do
            wait(10);
        while (desk.busy() || !desk.upToDate() || !desk.shown() || desk.shown()->nesting);
    }
    void send(QEvent::Type type, QPointF at) const
    {
        QMouseEvent event(type, at, bench.mapToGlobal(at), type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton,
                          type == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&bench, &event);
    }
    // From the pointer's move to the bench painted anew, for each frame; then let go, to the settled job.
    void drag(benchmark::State& state, QPointF at) const
    {
        send(QEvent::MouseButtonPress, at);
        QPixmap frame(bench.size());
        int moved = 0;
        double longest = 0;
        for (auto _ : state) {
            QElapsedTimer clock;
            clock.start();
            ++moved;
            send(QEvent::MouseMove, at + QPointF(4 + moved % 40, moved % 25));
            QApplication::processEvents();
            bench.render(&frame);
            const double seconds = double(clock.nsecsElapsed()) / 1e9;
            longest = std::max(longest, seconds);
            state.SetIterationTime(seconds);
        }
        state.counters["longest_ms"] = longest * 1e3;
        QElapsedTimer clock;
        clock.start();
        send(QEvent::MouseButtonRelease, at + QPointF(30, 20));
        settle();
        state.counters["to_the_new_job_ms"] = double(clock.elapsed());
    }
};

void dragANode(benchmark::State& state)
{
    Opened opened;
    Desk& desk = opened.desk;
    Bench& bench = opened.bench;
    opened.window.files().open({starry()});
    opened.settle();
    desk.editLine("close", [](LineSpec& line) {
        line.offset = 50_um;
        line.corners = Corners::Sharp;
    });
    desk.setStation(Station::TouchUp);
    opened.settle();
    bench.fit();
    bench.zoom(8);
    wait(500);
    const Path& path = desk.layerResult()->lines[0].paths->front();
    state.counters["nodes"] = double(path.nodes());
    const Point node = path.segments[path.segments.size() / 3].end;
    opened.drag(state, bench.view().toScreen({node.x, node.y}));
    const Piece* piece = desk.currentPiece();
    if (!piece || piece->lines()[0].edits.size() != 1)
        state.SkipWithError("the node was not moved");
}

constexpr int copies = 200;

void dragCopies(benchmark::State& state)
{
    Opened opened;
    Desk& desk = opened.desk;
    opened.window.files().open({QStringLiteral(YOKAI_DEMO_PICTURES "/umbrella-imp.png"), QStringLiteral(YOKAI_DEMO_PICTURES "/river-imp.png")});
    opened.settle();
    desk.edit("fill", [](Job& job) {
        job.sheet.media = {"custom", 1000_mm, 1200_mm};
        job.sheet.layout = LayoutKind::Nest;
        for (Piece& piece : job.pieces)
            piece.copies = copies / 2;
    });
    desk.setStation(Station::Sheet);
    opened.settle();
    opened.bench.fit();
    QKeyEvent all(QEvent::KeyPress, Qt::Key_A, Qt::ControlModifier);
    QApplication::sendEvent(&opened.bench, &all);
    wait(200);
    const Layout& sheet = desk.shown()->derived.sheet;
    if (sheet.placements.size() != copies || sheet.sheets != 1)
        state.SkipWithError("the copies are not on the sheet");
    const Placement& one = sheet.placements[copies / 2];
    const Point middle = one.toSheet(desk.shown()->derived.pieces[one.at].box.centre());
    opened.drag(state, opened.bench.view().toScreen({middle.x, middle.y}));
    if (desk.job().placings.size() != copies)
        state.SkipWithError("the copies were not moved");
}

// As many pictures with an outline each, drawn plainly.
void drawCopies(benchmark::State& state)
{
    const QPixmap picture = QPixmap(QStringLiteral(YOKAI_DEMO_PICTURES "/umbrella-imp.png")).scaledToHeight(40, Qt::SmoothTransformation);
    QPainterPath outline;
    outline.moveTo(40, 20);
    for (int k = 1; k <= 30; ++k)
        outline.cubicTo(20 + 20 * std::cos(k * 0.209 - 0.14), 20 + 20 * std::sin(k * 0.209 - 0.14), 20 + 20 * std::cos(k * 0.209 - 0.07), 20 + 20 * std::sin(k * 0.209 - 0.07),
                        20 + 20 * std::cos(k * 0.209), 20 + 20 * std::sin(k * 0.209));
    QPixmap frame(760, 660);
    for (auto _ : state) {
        frame.fill(Qt::white);
        QPainter painter(&frame);
        painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
        painter.setPen(QPen(Qt::black, 2));
        for (int k = 0; k < copies; ++k) {
            painter.setTransform(QTransform::fromTranslate(k % 16 * 45, k / 16 * 48).rotate(k * 7));
            painter.drawPixmap(0, 0, picture);
            painter.drawPath(outline);
        }
        painter.end();
    }
}

// A line of as many curves stroked whole, as an editor that draws all of it each frame has to.
void strokeSuchALine(benchmark::State& state)
{
    QPainterPath line;
    const auto at = [](int k) {
        const double a = std::numbers::pi * k / tips, r = 3'000 * (k % 2 ? 0.46 : 0.478);
        return QPointF(400 + r * std::cos(a), 400 + r * std::sin(a));
    };
    line.moveTo(at(0));
    for (int k = 1; k <= 2 * tips; ++k)
        line.cubicTo(at(k - 1) * 0.67 + at(k) * 0.33, at(k - 1) * 0.33 + at(k) * 0.67, at(k));
    QImage image(760, 660, QImage::Format_ARGB32_Premultiplied);
    for (auto _ : state) {
        image.fill(Qt::white);
        QPainter painter(&image);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(Qt::black, 2));
        painter.drawPath(line);
        painter.end();
        benchmark::DoNotOptimize(image.constBits());
    }
}

} // namespace

BENCHMARK(dragANode)->Unit(benchmark::kMillisecond)->UseManualTime()->Iterations(200);
BENCHMARK(dragCopies)->Unit(benchmark::kMillisecond)->UseManualTime()->Iterations(200);
BENCHMARK(drawCopies)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(strokeSuchALine)->Unit(benchmark::kMillisecond)->UseRealTime();
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
