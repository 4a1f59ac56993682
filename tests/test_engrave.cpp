// Engraving: lines, stretches and powers against figures in closed form, and the picture that comes out on the stand-in against the one that went in.

#include "base/error.h"
#include "device/stand_in.h"
#include "engrave/scan.h"
#include "formats/pdf/pdf.h"
#include "formats/program/program.h"
#include "formats/program/resume.h"
#include "machine/library.h"
#include "run.h"
#include "shapes.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double pi = std::numbers::pi;

Engraving disc(double r, double angle = 0)
{
    Engraving out;
    out.spec.angle = angle;
    Polyline& ring = out.outline.emplace_back();
    for (int k = 0; k < 2000; ++k) {
        ring.push_back(Point{20, 15} + Point{std::cos(k * pi / 1000), std::sin(k * pi / 1000)} * r);
        out.box.add(ring.back());
    }
    return out;
}

// From black at the left to white at the right, 40 by 20 mm.
Engraving ramp(EngraveAs as)
{
    Engraving out;
    out.spec.as = as;
    out.pxPerMm = 12;
    auto tone = std::make_shared<Gray8>(480, 240);
    for (int y = 0; y < 240; ++y)
        for (int x = 0; x < 480; ++x)
            tone->at(x, y) = std::uint8_t(255 - x * 255 / 479);
    out.tone = tone;
    out.box = {0, 0, 40, 20};
    return out;
}

double burnt(const Scan& scan)
{
    double out = 0;
    for (const Stretch& s : scan.stretches)
        out += (s.to - s.from) * s.power;
    return out;
}

// Structural similarity (Wang, Bovik, Sheikh and Simoncelli 2004): windows of 11 px with a Gaussian of 1.5, K1 0.01, K2 0.03.
double similarity(const cv::Mat& a8, const cv::Mat& b8)
{
    cv::Mat a, b;
    a8.convertTo(a, CV_64F);
    b8.convertTo(b, CV_64F);
    const auto blur = [](const cv::Mat& m) {
        cv::Mat out;
        cv::GaussianBlur(m, out, {11, 11}, 1.5);
        return out;
    };
    const cv::Mat ma = blur(a), mb = blur(b), va = blur(a.mul(a)) - ma.mul(ma), vb = blur(b.mul(b)) - mb.mul(mb), cov = blur(a.mul(b)) - ma.mul(mb);
    constexpr double c1 = 0.01 * 255 * 0.01 * 255, c2 = 0.03 * 255 * 0.03 * 255;
    cv::Mat map;
    cv::divide((2 * ma.mul(mb) + c1).mul(2 * cov + c2), (ma.mul(ma) + mb.mul(mb) + c1).mul(va + vb + c2), map);
    return cv::mean(map)[0];
}

const char* laser = "{\"yokai_machine\":1,\"length_unit\":\"mm\",\"kind\":\"laser\",\"bed\":{\"width\":300,\"depth\":320},\"tool\":{\"beam\":0.1}}";

} // namespace

class TestEngrave : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString file(const char* name) { return dir_.filePath(QLatin1String(name)); }
    void write(const QString& name, const QByteArray& bytes)
    {
        QFile f(name);
        QVERIFY(f.open(QIODevice::WriteOnly));
        f.write(bytes);
    }
    Ran batch(const QStringList& args) { return run(YOKAI_BATCH, args); }

private slots:
    // A fill ends exactly on its outline, whatever way its lines run; its area is the disc's.
    void fillsEndOnTheirOutline()
    {
        for (const double angle : {0.0, 30.0, -90.0}) {
            const Scan scan = scanOf(disc(9.3, angle), Affine::move(5, 7), 0.1);
            QVERIFY(std::abs(burnt(scan) * 0.1 / (pi * 9.3 * 9.3) - 1) < 0.001);
            QVERIFY(std::abs(int(scan.lines.size()) - 186) <= 1);
            const Point along{std::cos(angle * pi / 180), std::sin(angle * pi / 180)};
            for (std::size_t k = 0; k < scan.lines.size(); ++k) {
                const ScanLine& line = scan.lines[k];
                QVERIFY(std::abs(distance(line.from, {25, 22}) - 9.3) < 0.002 && std::abs(distance(line.to, {25, 22}) - 9.3) < 0.002);
                QVERIFY(std::abs(dot(unit(line.to - line.from), along) - (k % 2 ? -1 : 1)) < 1e-3 || distance(line.from, line.to) < 0.5);
                QCOMPARE(line.count, std::size_t(1));
            }
        }
        Engraving oneWay = disc(9.3);
        oneWay.spec.oneWay = true;
        oneWay.spec.interval = 250_um;
        const Scan scan = scanOf(oneWay, {}, 0.1);
        QVERIFY(std::abs(int(scan.lines.size()) - 74) <= 1);
        for (const ScanLine& line : scan.lines)
            QVERIFY(line.from.x < line.to.x);
    }

    // Dots are as dense as the grey is dark, column by column; a power is as much as it; a threshold cuts at its level.
    void greysAreKept()
    {
        for (const EngraveAs as : {EngraveAs::Dither, EngraveAs::Diffuse, EngraveAs::Grey, EngraveAs::Threshold}) {
            const Engraving e = ramp(as);
            const Scan scan = scanOf(e, {}, 0.1);
            QVERIFY2(std::abs(burnt(scan) * 0.1 / (40 * 20 * 0.5) - 1) < 0.01, name(as));
            std::array<double, 8> column{}; // 5 mm each
            for (const ScanLine& line : scan.lines)
                for (std::size_t k = line.first; k < line.first + line.count; ++k) {
                    const Stretch& s = scan.stretches[k];
                    // A stretch is cut at the columns' borders.
                    const double a = line.from.x + (line.to.x > line.from.x ? s.from : -s.to), b = a + s.to - s.from;
                    for (int c = 0; c < 8; ++c)
                        column[std::size_t(c)] += std::max(0.0, std::min(b, 5.0 * (c + 1)) - std::max(a, 5.0 * c)) * s.power;
                }
            for (int c = 0; c < 8; ++c) {
                const double share = column[std::size_t(c)] * 0.1 / (5 * 20), wanted = as == EngraveAs::Threshold ? (c < 4 ? 1 : 0) : 1 - (c + 0.5) / 8;
                QVERIFY2(std::abs(share - wanted) < 0.021, qPrintable(QString("%1, column %2: %3 of %4").arg(name(as)).arg(c).arg(share).arg(wanted)));
            }
        }
        Engraving faint = ramp(EngraveAs::Grey);
        faint.spec.leastPower = 20;
        const Scan scan = scanOf(faint, {}, 0.1);
        QVERIFY(std::all_of(scan.stretches.begin(), scan.stretches.end(), [](const Stretch& s) { return s.power >= 0.2F; }));
        // Nothing to burn is no line.
        Engraving white = ramp(EngraveAs::Diffuse);
        white.tone = std::make_shared<const Gray8>(480, 240, std::uint8_t(0));
        QVERIFY(scanOf(white, {}, 0.1).lines.empty());
    }

    // Engraved first, then cut, one copy after another; on no machine that cannot.
    void engravedBeforeItIsCut()
    {
        const auto what = std::make_shared<const Engraving>(disc(6));
        std::vector<EngraveItem> engravings;
        CutItems cuts;
        for (int copy = 0; copy < 3; ++copy) {
            engravings.push_back({PieceId{1}, copy, what, Affine::move(40.0 * copy, 5)});
            CutItem item;
            item.piece = PieceId{1};
            item.copy = copy;
            item.path = polygonPath(Polyline{{40.0 * copy + 5, 5}, {40.0 * copy + 35, 5}, {40.0 * copy + 35, 38}, {40.0 * copy + 5, 38}});
            cuts.push_back(item);
        }
        PlanSpec spec;
        spec.machine.emplace();
        spec.machine->kind = MachineKind::Laser;
        const Plan plan = planOf(cuts, 140, 60, spec, {}, {}, engravings);
        std::size_t engraved = 0, cut = 0;
        for (const ToolRun& run : plan.runs) {
            (run.scan ? engraved : cut) += 1;
            QVERIFY2(run.scan || engraved % what->outline.size() == 0, "cut while its engraving is under way");
            QVERIFY(run.scan || engraved >= cut * 119);
        }
        QCOMPARE(cut, std::size_t(3));
        QVERIFY(plan.seconds > 3 * 119 * 0.3); // 12 mm there at 20 mm/s
        // A faint pass goes once round each, and burns none of it.
        const Program faint = programOf(plan, Trial::Faint);
        QVERIFY2(faint.lines.size() < 60, qPrintable(QString::number(faint.lines.size())));
        QCOMPARE(faint.done.size(), plan.runs.size());
        QCOMPARE(std::count(faint.lines.begin(), faint.lines.end(), "M5"), 1 + 3 + 3);
        spec.machine->kind = MachineKind::Cutter;
        QVERIFY_EXCEPTION_THROWN(planOf(cuts, 140, 60, spec, {}, {}, engravings), Error);
        spec.machine->kind = MachineKind::Laser;
        spec.machine->dialect = Dialect::Hpgl;
        QVERIFY_EXCEPTION_THROWN(planOf(cuts, 140, 60, spec, {}, {}, engravings), Error);
        for (OperationStep& step : spec.operations)
            step.on = step.operation != Operation::Engrave;
        QCOMPARE(planOf(cuts, 140, 60, spec, {}, {}, engravings).runs.size(), std::size_t(3));
    }

    // Interrupted anywhere among the stretches, it is known where, and what is left burns the same.
    void interruptedAnywhere()
    {
        const auto what = std::make_shared<const Engraving>(ramp(EngraveAs::Diffuse));
        const EngraveItem item{PieceId{1}, 0, what, {}};
        PlanSpec spec;
        const Program program = gcodeOf(planOf({}, 60, 40, spec, {}, {}, {&item, 1}));
        QVERIFY(program.lines.size() > 5'000);
        std::mt19937 random(3);
        int told = 0;
        for (int n = 0; n < 60; ++n) {
            const std::size_t line = 10 + random() % (program.lines.size() - 40);
            // The place in the middle of that line's way.
            Point at, before;
            double power = 0;
            for (std::size_t k = 0; k <= line; ++k) {
                before = at;
                for (const QString& word : QString::fromStdString(program.lines[k]).split(' ')) {
                    if (word.startsWith('X'))
                        at.x = word.mid(1).toDouble();
                    else if (word.startsWith('Y'))
                        at.y = word.mid(1).toDouble();
                    else if (word.startsWith('S'))
                        power = word.mid(1).toDouble();
                }
            }
            if (distance(before, at) < 0.09)
                continue;
            const auto next = firstNotDone(program, line > 6 ? line - 6 : 0, std::min(program.lines.size(), line + 6), {mix(before, at, 0.5), power > 0});
            QVERIFY2(next && *next == line, qPrintable(QString("line %1: %2").arg(line).arg(QString::fromStdString(program.lines[line]))));
            const Rest rest = restOf(program, *next, mix(before, at, 0.5));
            QVERIFY(rest.lines[rest.leading] == program.lines[line]);
            QVERIFY(std::find(rest.lines.begin(), rest.lines.begin() + std::ptrdiff_t(rest.leading), "M3 S0") != rest.lines.begin() + std::ptrdiff_t(rest.leading));
            ++told;
        }
        QVERIFY(told > 40);
    }

    // The whole way: a picture, engraved on the stand-in through its line and looked at: it is the picture. To 0.95 by structural similarity, of a
    // grey after what lines and dots are made of was smoothed away.
    void theStandInShowsThePicture_data()
    {
        QTest::addColumn<QString>("as");
        QTest::addColumn<QStringList>("more");
        QTest::newRow("fill") << "fill" << QStringList();
        QTest::newRow("reversed") << "fill" << QStringList{"--reverse", "--line", "through:2mm"};
        QTest::newRow("grey") << "grey" << QStringList();
        QTest::newRow("diffuse") << "diffuse" << QStringList();
    }
    void theStandInShowsThePicture()
    {
        QFETCH(QString, as);
        QFETCH(QStringList, more);
        const bool fill = as == "fill", reversed = more.contains("--reverse");
        // A shaded ball and a bar; of a fill their shape alone.
        constexpr double mm = 30;
        constexpr int px = 360;
        cv::Mat art(px, px, CV_8UC1, cv::Scalar(255));
        for (int y = 0; y < px; ++y)
            for (int x = 0; x < px; ++x) {
                const double r = std::hypot(x - 150, y - 150) / 110;
                const bool bar = x > 60 && x < 320 && y > 285 && y < 325;
                if (r < 1)
                    art.at<std::uint8_t>(y, x) = std::uint8_t(fill ? 0 : std::clamp(40 + 150 * std::sqrt(1 - r * r) - 70 * (x - 150) / 110.0, 0.0, 255.0));
                else if (bar)
                    art.at<std::uint8_t>(y, x) = std::uint8_t(fill ? 0 : 60 + (x - 60) / 2);
            }
        QVERIFY(cv::imwrite(file("art.png").toStdString(), art));
        write(file("laser.json"), laser);
        const QStringList how{file("art.png"), "--width", "30mm", "--keep", fill ? "dark" : "all", "--engrave", as};
        QCOMPARE(batch(QStringList{"engrave"} + how + more + QStringList{"--out", file("job.yokai")}).code, 0);
        const Ran sheet = batch({"sheet", file("job.yokai"), "--out", file("placed.yokai"), "--paper", "60x60mm", "--marks", "none", "--margin", "14mm", "--report", "-"});
        QVERIFY2(sheet.code == 0, qPrintable(sheet.err));
        // On a blank piece of material: nothing is printed.
        Drawing blank;
        blank.width = blank.height = 60;
        const Bytes pdf = writePdf(blank, Content::Print);
        write(file("print.pdf"), QByteArray(reinterpret_cast<const char*>(pdf.data()), qsizetype(pdf.size())));
        const QJsonObject placed = QJsonDocument::fromJson(sheet.bytes).object()["sheet"].toObject()["placements"].toArray()[0].toObject();
        QJsonObject told;
        {
            StandIn there(YOKAI_STANDIN, {"--machine=" + file("laser.json"), "--sheet=" + file("print.pdf"), "--askew=1,1,0,0,0,0", "--report=" + file("r.json"), "--picture=" + file("burnt.png")});
            const Ran cut = batch({"cut", file("placed.yokai"), "--port", there.port(), "--machine", file("laser.json"), "--find", "none", "--feed", "100mm/s", "--power", "100", "--report", "-"});
            QVERIFY2(cut.code == 0, qPrintable(cut.err));
            told = QJsonDocument::fromJson(cut.bytes).object();
        }
        const QJsonObject report = QJsonDocument::fromJson(read(file("r.json"))).object();
        QVERIFY(report["engraved"].toObject()["stretches"].toInt() > 100);
        QCOMPARE(report["characters_lost"].toInt(), 0);
        QVERIFY2(std::abs(report["seconds"].toDouble() / told["seconds"].toDouble() - 1) < 0.05, qPrintable(QString("%1 of %2").arg(report["seconds"].toDouble()).arg(told["seconds"].toDouble())));
        // The piece's own box in the picture of the bed: 20 mm of bed all round.
        const cv::Mat bed = cv::imread(file("burnt.png").toStdString(), cv::IMREAD_GRAYSCALE);
        const double scale = bed.cols / (60.0 + 40);
        // What is placed is the middle of what is kept.
        const cv::Rect kept = fill ? cv::boundingRect(art < 128) : cv::Rect(0, 0, px, px);
        const Point middle{(kept.x + kept.width / 2.0) * mm / px, (kept.y + kept.height / 2.0) * mm / px};
        const double x0 = (20 + placed["x_mm"].toDouble() - middle.x) * scale, y0 = (20 + 60 - placed["y_mm"].toDouble() - middle.y) * scale;
        cv::Mat seen, wanted = art.clone();
        const cv::Rect box(int(std::lround(x0)), int(std::lround(y0)), int(std::lround(mm * scale)), int(std::lround(mm * scale)));
        QVERIFY((box & cv::Rect({}, bed.size())) == box);
        seen = bed(box);
        cv::resize(art, wanted, seen.size(), 0, 0, cv::INTER_AREA);
        if (reversed) { // all within 2 mm of it but itself
            cv::Mat own = wanted < 128, wide;
            const int reach = int(std::lround(2 * scale));
            cv::dilate(own, wide, cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * reach + 1, 2 * reach + 1}));
            wanted = cv::Mat(seen.size(), CV_8UC1, cv::Scalar(255));
            wanted.setTo(0, wide);
            wanted.setTo(255, own);
            // Where it is cut the picture shows the cut, too.
            seen = seen.clone();
            cv::Mat rim;
            cv::morphologyEx(wide, rim, cv::MORPH_GRADIENT, cv::Mat::ones(5, 5, CV_8U));
            wanted.copyTo(seen, rim);
        }
        if (!fill) {
            cv::GaussianBlur(seen, seen, {}, 0.25 * scale);
            cv::GaussianBlur(wanted, wanted, {}, 0.25 * scale);
        }
        const double ssim = similarity(seen, wanted);
        qInfo("structural similarity %.3f", ssim);
        QVERIFY2(ssim > 0.95, qPrintable(QString::number(ssim)));
    }

    // By the headless door: lines and powers as asked, the cut after it, and what cannot be is said.
    void byTheHeadlessDoor()
    {
        const auto engraved = [&](const QStringList& more) { return batch(QStringList{"engrave", YOKAI_DEMO_PICTURES "/umbrella-imp.png", "--width", "40mm", "--out", file("e.gcode"), "--report", "-"} + more); };
        const Ran plain = engraved({"--interval", "0.2mm", "--power", "80", "--feed", "150mm/s"});
        QVERIFY2(plain.code == 0, qPrintable(plain.err));
        const QJsonObject report = QJsonDocument::fromJson(plain.bytes).object();
        QVERIFY(std::abs(report["engrave"].toObject()["burnt_mm"].toDouble() * 0.2 / report["keep"].toObject()["parts"].toArray()[0].toObject()["area_mm2"].toDouble() - 1) < 0.2);
        QCOMPARE(report["plan"].toArray().size(), 1);
        const QByteArray program = read(file("e.gcode"));
        QVERIFY(program.contains("(engrave)") && program.contains(" S800") && program.contains("F9000") && !program.contains("S80 "));
        const Ran cut = engraved({"--engrave", "diffuse", "--line", "through:1mm", "--line-openings", "none"});
        QCOMPARE(QJsonDocument::fromJson(cut.bytes).object()["plan"].toArray().size(), 2);
        const QByteArray both = read(file("e.gcode"));
        QVERIFY(both.indexOf("(engrave)") < both.indexOf("(outer-through)"));
        // In files to be read by others too: drawn by librsvg, as black as it is burnt; in DXF the outlines of a fill.
        for (const char* as : {"fill", "diffuse"}) {
            const Ran files = engraved({"--engrave", as, "--out", file("e.svg"), "--out", file("e.dxf")});
            QVERIFY2(files.code == 0 && read(file("e.svg")).contains("id=\"engrave\""), qPrintable(files.err));
            QCOMPARE(run("/usr/bin/rsvg-convert", {"-w", "800", "-b", "white", "-o", file("e.png"), file("e.svg")}).code, 0);
            const cv::Mat shown = cv::imread(file("e.png").toStdString(), cv::IMREAD_GRAYSCALE);
            const double mmAPixel = 40.0 / 800, black = (1 - cv::mean(shown)[0] / 255) * double(shown.total()) * mmAPixel * mmAPixel;
            const double kept = QJsonDocument::fromJson(files.bytes).object()["keep"].toObject()["parts"].toArray()[0].toObject()["area_mm2"].toDouble();
            if (QByteArray(as) == "fill")
                QVERIFY2(std::abs(black / kept - 1) < 0.02, qPrintable(QString("%1 of %2").arg(black).arg(kept)));
            else
                QVERIFY2(black > 0.1 * kept && black < 0.95 * kept, qPrintable(QString("%1 of %2").arg(black).arg(kept)));
            const QByteArray dxf = read(file("e.dxf"));
            QCOMPARE(dxf.count("ENGRAVE") > 2, QByteArray(as) == "fill");
            QCOMPARE(batch({"plan", file("e.svg"), "--report", "-"}).code, 3); // no line to cut in it
        }
        QCOMPARE(engraved({"--engrave", "sketch"}).code, 2);
        QCOMPARE(engraved({"--interval", "0mm"}).code, 2);
        const Ran bare = engraved({"--reverse"});
        QVERIFY(bare.code == 2 && bare.err.contains("--line"));
        const Ran blade = engraved({"--machine", "Reed, desk cutter"});
        QVERIFY2(blade.code == 2 && blade.err.contains("cannot engrave"), qPrintable(blade.err));
    }
};

QTEST_GUILESS_MAIN(TestEngrave)
#include "test_engrave.moc"
