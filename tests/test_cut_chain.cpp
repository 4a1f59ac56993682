// From the print to the machine without a window: a printed sheet scanned askew, its marks found, the cut moved onto it, the
// machine's program made; and cut files from elsewhere the same way.

#include "base/error.h"
#include "formats/cut_file.h"
#include "formats/drawing.h"
#include "formats/program/program.h"
#include "formats/project/project.h"
#include "job/derive.h"
#include "machine/library.h"
#include "path/cut.h"
#include "path/fit.h"
#include "register/fit.h"
#include "run.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

Ran batch(const QStringList& args) { return run(QStringLiteral(YOKAI_BATCH), args); }
QJsonObject json(const QByteArray& bytes) { return QJsonDocument::fromJson(bytes).object(); }
Point point(const QJsonValue& v) { return {v[0].toDouble(), v[1].toDouble()}; }

} // namespace

namespace {

// How far any place of the one line lies off the other.
double farthest(const Polyline& from, const Polyline& line)
{
    double out = 0;
    std::size_t near = 0; // where the last was found: the next is not far
    const auto off = [&](Point p, std::size_t k) {
        const Point d = line[k + 1] - line[k];
        return distance(p, line[k] + d * std::clamp(dot(p - line[k], d) / std::max(1e-18, dot(d, d)), 0.0, 1.0));
    };
    for (const Point p : from) {
        double best = std::numeric_limits<double>::infinity();
        for (std::size_t k = near; k + 1 < line.size() && k < near + 200; ++k)
            if (const double d = off(p, k); d < best) {
                best = d;
                near = k;
            }
        for (std::size_t k = 0; best > 0.01 && k + 1 < line.size(); ++k)
            best = std::min(best, off(p, k));
        out = std::max(out, best);
    }
    return out;
}

} // namespace

class TestCutChain : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString file(const QString& name) const { return dir_.filePath(name); }

private slots:
    // Printed at 200 ppi, stretched, turned and shifted as a printer and a scanner do, scanned: the marks are found and the cut moved to
    // within a tenth of a mm of where the print has its lines.
    void printScanRegisterPlan()
    {
        const double ppi = 200, px = ppi / 25.4;
        QCOMPARE(
            batch({"sheet", YOKAI_DEMO_JOB, "--print", file("print.png"), "--print-ppi", "200", "--cut", file("cut.svg"), "--report", file("sheet.json")}).code,
            0);
        cv::Mat print = cv::imread(file("print.png").toStdString(), cv::IMREAD_UNCHANGED);
        QCOMPARE(print.channels(), 4);
        for (int y = 0; y < print.rows; ++y) // on white paper
            for (int x = 0; x < print.cols; ++x) {
                cv::Vec4b& p = print.at<cv::Vec4b>(y, x);
                for (int c = 0; c < 3; ++c)
                    p[c] = uchar((p[c] * p[3] + 255 * (255 - p[3])) / 255);
            }
        cv::cvtColor(print, print, cv::COLOR_BGRA2BGR);
        const double turn = 1.3 * std::numbers::pi / 180;
        // From the sheet (mm, y up) to the scanner's glass (mm, y up).
        const Affine truth = Affine::move(9, 6) * Affine::turn(turn) * Affine{1.004, 0, 0.001, 0.997, 0, 0};
        const double h = 297, glass = double(int(330 * px)) / px; // rows are whole: the top is where both begin
        const Affine onPx = Affine::scale(px, px) * Affine{1, 0, 0, -1, 0, glass} * truth * Affine{1, 0, 0, -1, 0, h} * Affine::scale(1 / px, 1 / px);
        const cv::Mat map = (cv::Mat_<double>(2, 3) << onPx.a, onPx.c, onPx.e, onPx.b, onPx.d, onPx.f);
        cv::Mat scan(int(std::lround(glass * px)), int(235 * px), CV_8UC3, cv::Scalar(230, 230, 230));
        cv::warpAffine(print, scan, map, scan.size(), cv::INTER_LINEAR, cv::BORDER_TRANSPARENT);
        cv::imwrite(file("scan.png").toStdString(), scan);
        QCOMPARE(batch({"marks", file("scan.png"), "--job", YOKAI_DEMO_JOB, "--ppi", "200", "--report", file("marks.json")}).code, 0);
        const QJsonObject seen = json(read(file("marks.json")));
        QCOMPARE(seen["measured_from"].toString(), QString("resolution"));
        QCOMPARE(seen["marks"].toArray().size(), 5);
        for (const QJsonValue m : seen["marks"].toArray())
            QVERIFY2(distance(truth(point(m["design_mm"])), point(m["measured_mm"])) < 0.12,
                     qPrintable(QString::number(distance(truth(point(m["design_mm"])), point(m["measured_mm"])))));
        // By the sheet's report it is the same; nothing but --strict asks for more.
        QCOMPARE(
            batch({"marks", file("scan.png"), "--marks-of", file("sheet.json"), "--ppi", "200", "--flatten", file("flat.png"), "--report", file("marks2.json")})
                .code,
            0);
        QCOMPARE(json(read(file("marks2.json")))["marks"].toArray().size(), 5);
        QVERIFY(std::abs(cv::imread(file("flat.png").toStdString()).cols / px - 210) < 0.3);
        QCOMPARE(batch({"register", YOKAI_DEMO_JOB, "--measured", file("marks.json"), "--out", file("moved.svg"), "--report", file("fit.json")}).code, 0);
        const QJsonObject fit = json(read(file("fit.json")))["fit"].toObject();
        QVERIFY(std::abs(fit["turn_deg"].toDouble() - 1.3) < 0.05 && fit["expected_mm"].toDouble() > 0.01 && fit["expected_mm"].toDouble() < 0.3);
        const CutFile before = openCutFile(file("cut.svg").toStdString()), moved = openCutFile(file("moved.svg").toStdString());
        QCOMPARE(moved.drawing.cuts.size(), before.drawing.cuts.size());
        const Affine flip{1, 0, 0, -1, 0, before.drawing.height};
        double worst = 0;
        for (std::size_t k = 0; k < before.drawing.cuts.size(); ++k) {
            Polyline points = flatten(before.drawing.cuts[k].path, 0.05);
            for (Point& p : points)
                p = flip(truth(flip(p)));
            worst = std::max(worst, deviation(points, moved.drawing.cuts[k].path));
        }
        QVERIFY2(worst < 0.03, qPrintable(QString::number(worst)));
        // The cut file itself goes the same way as the job.
        QCOMPARE(batch({"register", file("cut.svg"), "--measured", file("marks.json"), "--out", file("moved2.svg")}).code, 0);
        const CutFile moved2 = openCutFile(file("moved2.svg").toStdString());
        // Copies of a cut file are told by what lies in what, those of a job by the job: the same lines, if not one after another.
        QCOMPARE(moved2.drawing.cuts.size(), moved.drawing.cuts.size());
        for (const CutItem& item : moved.drawing.cuts)
            QVERIFY(std::any_of(moved2.drawing.cuts.begin(), moved2.drawing.cuts.end(), [&](const CutItem& other) { return distance(item.path.start, other.path.start) < 0.01; }));
        const Ran plan = batch({"plan", YOKAI_DEMO_JOB, "--measured", file("marks.json"), "--machine", "Reed", "--material", "Paper", "--out",
                                file("cut.gcode"), "--out", file("cut.plt"), "--report", "-"});
        QCOMPARE(plan.code, 0);
        double seconds = 0;
        for (const QJsonValue step : json(plan.bytes)["plan"].toArray())
            seconds += step["seconds"].toDouble();
        QVERIFY(seconds > 10 && seconds < json(plan.bytes)["seconds"].toDouble() && read(file("cut.gcode")).contains("M3 S") &&
                read(file("cut.plt")).contains("VS"));
    }

    // Marks printed as pixels lie where they were designed, whatever their style and wherever between the pixels: to a tenth of one.
    void pixelsHoldTheMarks()
    {
        for (const char* style : {"dots", "crosses", "brackets"})
            for (const int ppi : {150, 200, 331}) {
                const QStringList sheet{"sheet", YOKAI_DEMO_PICTURES "/river-imp.png", "--copies", "2", "--marks", style, "--mark-count", "7"};
                QCOMPARE(batch(sheet + QStringList{"--print", file("m.png"), "--print-ppi", QString::number(ppi), "--out", file("m.yokai")}).code, 0);
                const Ran r = batch({"marks", file("m.png"), "--job", file("m.yokai"), "--report", "-"});
                QVERIFY2(r.code == 0, qPrintable(r.err));
                const QJsonArray found = json(r.bytes)["marks"].toArray();
                QCOMPARE(found.size(), 7);
                for (const QJsonValue m : found) {
                    const Point design = point(m["design_mm"]), px = point(m["px"]);
                    const double off = distance(px, Point{design.x, 297 - design.y} * (ppi / 25.4));
                    QVERIFY2(off < 0.1, qPrintable(QString("%1 at %2 ppi, mark %3: %4 px").arg(style).arg(ppi).arg(m["mark"].toInt()).arg(off)));
                }
            }
    }

    // What was written is read with the same geometry and kinds; lines drawn piece by piece become one; what cannot come in is named.
    void cutFilesAreRead()
    {
        for (const char* name : {"a.svg", "a.dxf", "b.dxf", "c.dxf", "a.pdf", "a.eps"}) {
            const QString dxf = QString(name) == "b.dxf" ? "r12" : QString(name) == "c.dxf" ? "splines" : "arcs";
            QCOMPARE(batch({"sheet", YOKAI_DEMO_JOB, "--dxf", dxf, "--cut", file(name)}).code, 0);
        }
        const Job job = openProject(YOKAI_DEMO_JOB);
        StepCache cache;
        const Drawing truth = drawSheet(job, derive(job, cache), 0, Content::Cut);
        for (const char* name : {"a.svg", "a.dxf", "b.dxf", "c.dxf", "a.pdf", "a.eps"}) {
            const CutFile f = openCutFile(file(name).toStdString());
            QCOMPARE(f.drawing.marks.size(), truth.marks.size());
            for (std::size_t k = 0; k < truth.marks.size(); ++k)
                QVERIFY(distance(f.drawing.marks[k].centre, truth.marks[k].centre) < 0.01);
            std::map<LineKind, int> kinds, wanted;
            for (const CutItem& i : f.drawing.cuts) {
                ++kinds[i.kind];
                double off = 1e9;
                for (const CutItem& t : truth.cuts)
                    if (t.kind == i.kind)
                        for (const Path& path : cutsOf(t))
                            off = std::min(off, nearestPlace({path}, i.path.start)->away);
                QVERIFY2(off < 0.01, qPrintable(QString("%1: %2").arg(name).arg(off)));
            }
            for (const CutItem& t : truth.cuts)
                wanted[t.kind] += int(cutsOf(t).size());
            QVERIFY2(kinds == wanted, name);
        }
        write(file("pieces.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='2in' height='50.8mm' viewBox='0 0 192 192'><g transform='scale(2)'>"
                                  "<line x1='10' y1='10' x2='40' y2='10'/><path d='M40 40L40 10'/><path d='m40 40h-30v-30'/><text>no</text></g>"
                                  "<path style='stroke:#0b8277' d='M100 100a20 20 0 1 0 40 0 20 20 0 1 0-40 0zm5,0 q5 5 10 0t10 0'/></svg>");
        const CutFile pieces = openCutFile(file("pieces.svg").toStdString());
        QCOMPARE(pieces.drawing.cuts.size(), std::size_t(3));
        QVERIFY(pieces.drawing.cuts[0].path.closed);
        QVERIFY(std::abs(std::abs(signedArea(pieces.drawing.cuts[0].path)) - std::pow(30 * 2 * 25.4 / 96, 2)) < 1e-6);
        QCOMPARE(int(pieces.drawing.cuts[1].kind), int(LineKind::Kiss));
        QVERIFY(std::abs(std::abs(signedArea(pieces.drawing.cuts[1].path)) - std::numbers::pi * std::pow(20 * 25.4 / 96, 2)) < 0.01);
        QVERIFY(!pieces.drawing.cuts[2].path.closed);
        QCOMPARE(pieces.leftOut, std::vector<std::string>{"text"});
        // Units an inch: 96 unless said, and the report says what was taken.
        write(file("bare.svg"), "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 72 72'><rect width='72' height='72'/></svg>");
        const QJsonObject bare = json(batch({"plan", file("bare.svg"), "--upi", "72", "--report", "-"}).bytes);
        QCOMPARE(bare["artwork"].toObject()["upi"].toDouble(), 72.0);
        QVERIFY(std::abs(bare["plan"].toArray()[0].toObject()["cut_mm"].toDouble() - 4 * 25.4) < 1e-3);
        QCOMPARE(json(batch({"plan", file("bare.svg"), "--report", "-"}).bytes)["artwork"].toObject()["upi_from"].toString(), QString("assumed"));
        for (const auto& [name, text] :
             {std::pair("x.svg", "<svg"), {"y.svg", "<html/>"}, {"z.svg", "<svg/>"}, {"w.dxf", "hello"}, {"v.dxf", "0\nSECTION\n0\nEOF\n"}, {"u.pdf", "%PDF-1.4 hello"}, {"t.eps", "%!PS hello"}}) {
            write(file(name), text);
            const Ran r = batch({"plan", file(name), "--report", "-"});
            QCOMPARE(r.code, 3);
            QCOMPARE(r.err.count('\n'), 1);
        }
    }

    // Pages that other programs wrote: a drawing by librsvg through cairo, and once more through Ghostscript, with groups in forms, a page turned
    // round and one in larger units. The same lines as in the drawing they come from, by their colours; what cannot come in is named.
    void pdfOfOthers()
    {
        write(file("own.svg"), "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='120mm' height='80mm' viewBox='0 0 120 80'>"
                               "<g fill='none' stroke='#5b2fb8' stroke-width='.1' opacity='0.5' transform='rotate(8 60 40)'><rect x='20' y='20' width='50' height='30' rx='6'/>"
                               "<path stroke='#0b8277' d='M30 30c10-8 20 8 30 0'/></g><circle cx='95' cy='60' r='12' fill='none' stroke='#b97a10' stroke-width='.1'/>"
                               "<text x='10' y='70' font-size='6'>no</text></svg>");
        QCOMPARE(run("/usr/bin/rsvg-convert", {"-f", "pdf", "-o", file("cairo.pdf"), file("own.svg")}).code, 0);
        QCOMPARE(run("/usr/bin/gs", {"-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=pdfwrite", "-sOutputFile=" + file("gs.pdf"), file("cairo.pdf")}).code, 0);
        QCOMPARE(run("/usr/bin/qpdf", {file("gs.pdf"), file("turned.pdf"), "--rotate=90"}).code, 0);
        // A program that reaches for a file beside it, or for one that is not its own, gets none of it.
        write(file("reach.eps"), "%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 100 100\n(/etc/hostname) (r) file pop 10 10 moveto 90 90 lineto stroke showpage\n");
        QCOMPARE(batch({"plan", file("reach.eps"), "--report", "-"}).code, 3);
        const CutFile own = openCutFile(file("own.svg").toStdString());
        for (const char* name : {"cairo.pdf", "gs.pdf", "turned.pdf"}) {
            const CutFile f = openCutFile(file(name).toStdString());
            const bool turned = name == std::string_view("turned.pdf");
            QVERIFY2(std::abs(f.drawing.width - (turned ? 80 : 120)) < 0.02, qPrintable(QString("%1: %2").arg(name).arg(f.drawing.width)));
            QCOMPARE(f.drawing.cuts.size(), own.drawing.cuts.size());
            QVERIFY(std::find(f.leftOut.begin(), f.leftOut.end(), "text") != f.leftOut.end());
            for (const CutItem& item : f.drawing.cuts)
                for (const Point p : flatten(item.path, 0.01)) {
                    const Point at = turned ? Point{p.y, 80 - p.x} : p;
                    double off = 1e9;
                    for (const CutItem& t : own.drawing.cuts)
                        if (t.kind == item.kind)
                            off = std::min(off, nearestPlace({t.path}, at)->away);
                    QVERIFY2(off < 0.02, qPrintable(QString("%1: %2").arg(name).arg(off)));
                }
        }
    }

    // Files damaged anywhere: what is left of them, or one line that names them; never anything else.
    void damagedCutFiles_data()
    {
        QTest::addColumn<QString>("name");
        QTest::addColumn<QStringList>("made");
        QTest::newRow("svg") << "d.svg" << QStringList{};
        QTest::newRow("dxf, arcs") << "d.dxf" << QStringList{"--dxf", "arcs"};
        QTest::newRow("dxf, splines") << "e.dxf" << QStringList{"--dxf", "splines"};
        QTest::newRow("pdf") << "d.pdf" << QStringList{};
    }
    void damagedCutFiles()
    {
        QFETCH(QString, name);
        QFETCH(QStringList, made);
        QCOMPARE(batch(QStringList{"sheet", YOKAI_DEMO_PICTURES "/river-imp.png", "--copies", "1", "--line", "through:2mm", "--line", "kiss:1mm", "--cut", file(name)} + made).code, 0);
        const QByteArray whole = read(file(name));
        std::mt19937 random(31);
        int opened = 0, refused = 0;
        const int files = qEnvironmentVariableIsSet("YOKAI_DAMAGED") ? qEnvironmentVariableIntValue("YOKAI_DAMAGED") : 400; // more, for those who wait
        for (int n = 0; n < files; ++n) {
            QByteArray bytes = whole;
            for (int k = 1 + int(random() % 5); k > 0 && !bytes.isEmpty(); --k) {
                const qsizetype at = qsizetype(random() % std::size_t(bytes.size()));
                switch (random() % 4) {
                case 0:
                    bytes[at] = char(random() % 256);
                    break;
                case 1:
                    bytes.remove(at, qsizetype(random() % 40));
                    break;
                case 2:
                    bytes.insert(at, QByteArray(QList<const char*>{"9e99", "-", "nan", "\n0\n", "<g>", "\"", "1e-40 "}[qsizetype(random() % 7)]));
                    break;
                default:
                    bytes.truncate(at + 1);
                }
            }
            write(file("damaged-" + name), bytes);
            try {
                const CutFile f = openCutFile(file("damaged-" + name).toStdString());
                ++opened;
                for (const CutItem& item : f.drawing.cuts)
                    for (const Segment& s : item.path.segments)
                        QVERIFY(std::isfinite(s.end.x) && std::isfinite(s.end.y));
            } catch (const Error& e) {
                ++refused;
                QVERIFY2(e.kind() == ErrorKind::Input && QString(e.what()).contains("damaged-") && !QString(e.what()).contains('\n'), e.what());
            }
        }
        QVERIFY2(opened > files / 8 && opened + refused == files, qPrintable(QString::number(opened)));
    }

    // By gcode-toolpath, a general reader of G-code from the npm registry: every way with the tool down is the plan's, and no other.
    void gcodeReadByOthers()
    {
        const Job job = openProject(YOKAI_DEMO_JOB);
        StepCache cache;
        const Derived derived = derive(job, cache);
        const Drawing sheet = drawSheet(job, derived, 0, Content::Cut);
        for (const bool inches : {false, true})
            for (const bool arcs : {true, false}) {
                PlanSpec spec = job.cut.plan;
                spec.machine = sampleMachines().front();
                spec.machine->tool.bladeOffset = Length(); // what is written is where the pivot goes
                spec.machine->inches = inches;
                spec.machine->arcs = arcs;
                const Plan plan = planOf(sheet.cuts, sheet.width, sheet.height, spec);
                const Bytes text = textOf(gcodeOf(plan));
                write(file("p.gcode"), QByteArray(reinterpret_cast<const char*>(text.data()), qsizetype(text.size())));
                const Ran ran = run("node", {QFINDTESTDATA("reference/toolpath.cjs"), QStringLiteral(YOKAI_NPM), file("p.gcode"), file("p.json")});
                QVERIFY2(ran.code == 0, qPrintable(ran.err));
                const QJsonArray runs = QJsonDocument::fromJson(read(file("p.json"))).array();
                QCOMPARE(std::size_t(runs.size()), plan.runs.size());
                const Affine back = spec.machine->bed.toMachine().inverse();
                double worst = 0;
                for (std::size_t r = 0; r < plan.runs.size(); ++r) {
                    Polyline theirs;
                    for (const QJsonValue p : runs[qsizetype(r)].toArray())
                        theirs.push_back(back({p.toArray()[0].toDouble(), p.toArray()[1].toDouble()}));
                    const Polyline ours = flatten(plan.runs[r].track, 0.001);
                    worst = std::max({worst, farthest(theirs, ours), farthest(ours, theirs)});
                }
                QVERIFY2(worst < 0.01, qPrintable(QString("%1 mm, inches %2, arcs %3").arg(worst).arg(inches).arg(arcs)));
            }
    }

    // A sheet's own program is the plan's: the same words by either door.
    void sheetsHavePrograms()
    {
        const QStringList tools{"--machine", "Lantern", "--material", "White card", "--kerf", "0.3mm", "--passes", "2"};
        QCOMPARE(batch(QStringList{"sheet", YOKAI_DEMO_JOB, "--out", file("s.gcode")} + tools).code, 0);
        QCOMPARE(batch(QStringList{"plan", YOKAI_DEMO_JOB, "--out", file("p.gcode")} + tools).code, 0);
        QVERIFY(read(file("s.gcode")).size() > 1000);
        QCOMPARE(read(file("s.gcode")), read(file("p.gcode")));
        QCOMPARE(batch({"sheet", YOKAI_DEMO_JOB, "--out", file("n.gcode"), "--material", "whatever it is"}).code, 0);
        QCOMPARE(batch({"sheet", YOKAI_DEMO_JOB, "--out", file("n.gcode"), "--machine", "Lantern", "--material", "whatever it is"}).code, 2);
    }

    // Past the bed, with a wrong name, with nothing to write: said, and nothing is written.
    void plansThatCannotBe()
    {
        write(file("big.svg"),
              "<svg xmlns='http://www.w3.org/2000/svg' width='500mm' height='500mm' viewBox='0 0 500 500'><rect x='10' y='10' width='480' height='20'/></svg>");
        const Ran far = batch({"plan", file("big.svg"), "--machine", "Lantern", "--strict", "--report", "-"});
        QCOMPARE(far.code, 1);
        QCOMPARE(json(far.bytes)["findings"].toArray()[0].toObject()["code"].toString(), QString("outside-reach"));
        QVERIFY(std::abs(json(far.bytes)["findings"].toArray()[0].toObject()["value"].toDouble() - 90.06) < 0.5);
        QCOMPARE(batch({"plan", file("big.svg"), "--machine", "Nobody", "--report", "-"}).code, 2);
        QCOMPARE(batch({"plan", file("big.svg"), "--machine", file("none.json"), "--report", "-"}).code, 3);
        QCOMPARE(batch({"plan", file("big.svg")}).code, 2);
        QCOMPARE(batch({"plan", file("big.svg"), "--out", file("x.svg")}).code, 2);
        QCOMPARE(batch({"plan", file("big.svg"), "--feed", "fast", "--report", "-"}).code, 2);
        QCOMPARE(batch({"marks", YOKAI_DEMO_PICTURES "/river-imp.png", "--job", YOKAI_DEMO_JOB, "--report", "-"}).code, 3);
        QCOMPARE(batch({"schema", "machine"}).out, QString::fromUtf8(read(QString(YOKAI_DOCS) + "/machine.schema.json")));
        QCOMPARE(batch({"schema", "material"}).out, QString::fromUtf8(read(QString(YOKAI_DOCS) + "/material.schema.json")));
    }
};

QTEST_GUILESS_MAIN(TestCutChain)
#include "test_cut_chain.moc"
