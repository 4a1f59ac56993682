// What yokai-batch writes for a machine can hurt nothing: it stays on the bed, in the cutting order, where the print is, and with what
// the machine and the material allow. Read back by readers of other parts.

#include "engrave/engraving.h"
#include "formats/cut_file.h"
#include "formats/format.h"
#include "formats/machine/own_files.h"
#include "formats/program/onto_print.h"
#include "formats/project/project.h"
#include "formats/svg/svg.h"
#include "job/derive.h"
#include "machine/library.h"
#include "run.h"
#include "shapes.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTest>

using namespace yokai;
using namespace yokai::test;

namespace {

Ran batch(const QStringList& args) { return run(QStringLiteral(YOKAI_BATCH), args); }

Path box(double x, double y, double w, double h) { return polygonPath(Polyline{{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}}); }

CutItem item(Path path, LineKind kind, int copy = 0)
{
    CutItem out;
    out.kind = kind;
    out.copy = copy;
    out.path = std::move(path);
    return out;
}

// Where a program's tool goes, X and Y of every word.
Rect reachOf(const QByteArray& program)
{
    Rect out = Rect::nothing();
    Point at;
    for (const QString& line : QString::fromUtf8(program).split('\n')) {
        if (line.startsWith('('))
            continue;
        for (const QString& word : line.split(' ')) {
            if (word.startsWith('X'))
                at.x = word.mid(1).toDouble();
            else if (word.startsWith('Y'))
                at.y = word.mid(1).toDouble();
        }
        out.add(at);
    }
    return out;
}

} // namespace

class TestPrograms : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString file(const QString& name) const { return dir_.filePath(name); }
    void write(const QString& name, const Bytes& bytes) { test::write(file(name), QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size()))); }
    QString cutFile(const char* name, const CutItems& items, double width = 200, double height = 200)
    {
        Drawing d;
        d.width = width;
        d.height = height;
        d.cuts = items;
        write(name, writeSvg(d, Content::Cut, {}));
        return file(name);
    }
    QString machine(const Machine& m)
    {
        write("machine.json", writeMachine(m));
        return file("machine.json");
    }

private slots:
    // None that leaves the bed is written, with or without --strict: the end is 1, the report says how far, and the line what to do.
    void noneLeavesTheBed()
    {
        Machine small;
        small.kind = MachineKind::Laser;
        small.bed = {100_mm, 100_mm};
        const QString cut = cutFile("far.svg", {item(box(80, 80, 40, 40), LineKind::Through)});
        for (const bool strict : {false, true}) {
            QStringList args{"plan", cut, "--machine", machine(small), "--out", file("never.gcode"), "--out", file("never.plt"), "--report", file("r.json")};
            if (strict)
                args << "--strict";
            const Ran r = batch(args);
            QCOMPARE(r.code, 1);
            QVERIFY2(r.err.contains("20 mm past the machine's bed") && r.err.contains("lay the sheet farther in"), qPrintable(r.err));
            QVERIFY(!QFile::exists(file("never.gcode")) && !QFile::exists(file("never.plt")));
            const QJsonObject found = QJsonDocument::fromJson(read(file("r.json"))).object()["findings"].toArray()[0].toObject();
            QCOMPARE(found["code"].toString(), QString("outside-reach"));
            QVERIFY(std::abs(found["value"].toDouble() - 20) < 0.01);
        }
        const QString imp = QString(YOKAI_DEMO_PICTURES) + "/river-imp.png";
        const Ran sheet = batch({"sheet", imp, "--width", "60mm", "--line", "through:2mm", "--machine", machine(small), "--out", file("never.gcode")});
        QCOMPARE(sheet.code, 1);
        QVERIFY2(sheet.err.contains("past the machine's bed"), qPrintable(sheet.err));
        const Ran engraved = batch({"engrave", imp, "--width", "150mm", "--engrave", "fill", "--machine", machine(small), "--out", file("never.gcode")});
        QCOMPARE(engraved.code, 1);
        QVERIFY(!QFile::exists(file("never.gcode")));
        // An overscan ends where the bed does.
        Machine exact = small;
        exact.bed = {60_mm, 100_mm};
        QCOMPARE(batch({"engrave", imp, "--width", "60mm", "--engrave", "dither", "--overscan", "20mm", "--machine", machine(exact), "--out", file("burn.gcode")}).code, 0);
        const Rect reach = reachOf(read(file("burn.gcode")));
        QVERIFY2(reach.x0 > -1e-6 && reach.x1 < 60 + 1e-6, qPrintable(QString("%1 to %2").arg(reach.x0).arg(reach.x1)));
    }

    // What a machine cannot do, and a force for a beam or a power for a blade, is refused by its option; so is what must not be burnt.
    void whatCannotBeIsRefused()
    {
        const QString cut = cutFile("near.svg", {item(box(20, 20, 40, 40), LineKind::Through)});
        const auto refused = [&](const QStringList& more) {
            const Ran r = batch(QStringList{"plan", cut, "--out", file("never.gcode")} + more);
            return r.code == 2 && !QFile::exists(file("never.gcode")) ? r.err : QString("code %1: ").arg(r.code) + r.err;
        };
        QVERIFY2(refused({"--feed", "200000mm/s"}).contains("out of range"), qPrintable(refused({"--feed", "200000mm/s"})));
        QVERIFY(refused({"--feed", "0.01"}).contains("out of range"));
        QVERIFY2(refused({"--machine", "Lantern", "--feed", "900mm/s"}).contains("faster than 'Lantern"), qPrintable(refused({"--machine", "Lantern", "--feed", "900mm/s"})));
        QVERIFY(refused({"--machine", "Lantern", "--force", "100"}).contains("--force is of a blade"));
        QVERIFY(refused({"--machine", "Reed", "--power", "50"}).contains("--power is of a laser"));
        QCOMPARE(batch({"plan", cut, "--machine", "Lantern", "--power", "40", "--out", file("ok.gcode")}).code, 0);
        QVERIFY2(read(file("ok.gcode")).contains("M4 S400"), "a laser of the samples burns only while it moves");
        // Vinyl under a beam.
        const Ran burnt = batch({"cut", cut, "--machine", "Lantern", "--material", "Vinyl sticker sheet, gloss", "--find", "none", "--port", "/nowhere"});
        QCOMPARE(burnt.code, 2);
        QVERIFY2(burnt.err.contains("holds chlorine") && burnt.err.contains("poisonous"), qPrintable(burnt.err));
        Job job;
        job.cut.plan.machine = sampleMachines()[2];
        for (const Material& m : sampleMaterials())
            if (m.hazard != BurnHazard::None)
                job.cut.plan.material = m;
        StepCache cache;
        const auto hazards = [&] {
            const Derived d = derive(job, cache);
            return std::count_if(d.findings.begin(), d.findings.end(), [](const Finding& f) { return f.code == "material-hazard" && f.severity == Severity::Error && f.error; });
        };
        QCOMPARE(hazards(), 1);
        job.cut.plan.machine = sampleMachines()[0]; // a blade
        QCOMPARE(hazards(), 0);
    }

    // Every file that is cut has the plan's order: lighter work first, openings before outlines, a copy whole before the next.
    void filesAreInCuttingOrder()
    {
        Drawing d;
        d.width = d.height = 200;
        for (const int copy : {0, 1}) { // drawn from the outside in
            const double x = 10 + 90 * copy;
            d.cuts.push_back(item(box(x, 20, 70, 70), LineKind::Through, copy));
            d.cuts.push_back(item(box(x + 20, 40, 20, 20), LineKind::Through, copy));
            d.cuts.push_back(item(box(x + 5, 25, 60, 60), LineKind::Kiss, copy));
            d.cuts.push_back(item(box(x + 10, 30, 50, 50), LineKind::Crease, copy));
        }
        for (const char* ending : {".svg", ".dxf", ".pdf", ".eps"}) {
            const QString name = file("ordered") + ending;
            const Bytes bytes = written(*formatOf(name.toStdString()), d, Content::Cut);
            test::write(name, QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size())));
            const CutItems cuts = openCutFile(name.toStdString()).drawing.cuts;
            QCOMPARE(cuts.size(), std::size_t(8));
            const auto rank = [](const CutItem& i) { return int(operationOf(i.kind, false)); };
            for (std::size_t k = 0; k < cuts.size(); ++k)
                for (std::size_t before = 0; before < k; ++before) {
                    const bool sameCopy = (bounds(cuts[k].path).x0 < 95) == (bounds(cuts[before].path).x0 < 95);
                    if (!sameCopy)
                        continue;
                    QVERIFY2(rank(cuts[before]) <= rank(cuts[k]), ending);
                    QVERIFY2(cuts[before].kind != cuts[k].kind || bounds(cuts[before].path).width() < bounds(cuts[k].path).width(), ending);
                }
        }
        // HPGL takes each pen once.
        const Bytes plt = written(*formatOf("x.plt"), d, Content::Cut);
        const QString text = QString::fromLatin1(reinterpret_cast<const char*>(plt.data()), qsizetype(plt.size()));
        QStringList pens;
        for (auto at = QRegularExpression("SP([1-4]);").globalMatch(text); at.hasNext();)
            pens << at.next().captured(1);
        QCOMPARE(pens, (QStringList{"4", "2", "1"}));
        const QString through = text.mid(text.indexOf("SP1;"));
        QVERIFY(through.indexOf("PU1200,") < through.indexOf("PU400,")); // the opening first
    }

    // `register` moves all there is, and to one place alone: engravings as cuts, with a place on the bed in the job or none; and `plan
    // --measured` says the same.
    void registerMovesEverything()
    {
        Job job = openProject(QString(YOKAI_DEMO_JOB).replace("-rows", "-charm").toStdString());
        job.cut.plan.machine = sampleMachines()[3];
        job.cut.plan.sheetX = 36_mm;
        job.cut.plan.sheetY = 20_mm;
        // The charm is cut where it is engraved, and nothing is printed; marks are of the print that it lies on.
        StepCache cache;
        const Derived d = derive(job, cache);
        QVERIFY(!d.printed && d.sheet.marks.empty());
        const Drawing sheet = drawSheetToCut(job, d, 0);
        QVERIFY(!sheet.engravings.empty());
        const std::vector<MarkPair> marks = {{{10, 10}, {60, 45}}, {{200, 10}, {250, 45}}, {{200, 250}, {250, 285}}, {{10, 250}, {60, 285}}};
        const Fit fit = fitMarks(marks);
        const Drawing moved = movedOntoPrint(sheet, fit);
        const Affine flip{1, 0, 0, -1, 0, sheet.height};
        const Point at{1, 2};
        QVERIFY(distance(flip(moved.engravings[0].toSheet(at)), flip(sheet.engravings[0].toSheet(at)) + Point{50, 35}) < 1e-6);
        // Planned from the moved drawing or by the fit, it burns and cuts in the same places.
        const Plan byFit = planOfSheet(sheet, job.cut.plan, fit), byDrawing = planOfSheet(moved, moved.plan);
        QCOMPARE(byFit.runs.size(), byDrawing.runs.size());
        QVERIFY(std::abs(byFit.box.x0 - byDrawing.box.x0) < 0.02 && std::abs(byFit.box.y1 - byDrawing.box.y1) < 0.02);
    }

    // A printer that stretches is made good in the cut by files and programs alike, and burnt where it is cut.
    void theStretchIsInPrograms()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        job.handOff.stretchX = 101;
        job.handOff.stretchIn = StretchIn::Cut;
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        Drawing sheet = drawSheetToCut(job, d, 0);
        const Bytes bytes = written(*formatOf("x.svg"), sheet, Content::Cut);
        test::write(file("stretched.svg"), QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size())));
        Rect inFile = Rect::nothing();
        for (const CutItem& i : openCutFile(file("stretched.svg").toStdString()).drawing.cuts)
            inFile.add(bounds(i.path));
        const Plan plan = planOfSheet(sheet, PlanSpec{});
        QVERIFY2(std::abs(plan.box.x0 - inFile.x0) < 0.02 && std::abs(plan.box.x1 - inFile.x1) < 0.02, qPrintable(QString("%1 %2").arg(plan.box.x1).arg(inFile.x1)));
        // Marks that were measured say it already.
        Fit still;
        QVERIFY(std::abs(planOfSheet(sheet, PlanSpec{}, still).box.width() - plan.box.width() / 1.01) < 0.05);
        const auto burn = std::make_shared<const Engraving>();
        sheet.engravings.push_back({{}, 0, burn, {}});
        const Drawing cut = forContent(sheet, Content::Cut);
        QVERIFY(distance(cut.engravings[0].toSheet({0, 50}), Point{-0.005 * sheet.width, 50}) < 1e-6);
    }

    // A threshold is black or nothing in a file, too; greys stay greys.
    void aThresholdIsBlackOrNothing()
    {
        Engraving of;
        of.pxPerMm = 4;
        of.box = {0, 0, 64, 4};
        auto tone = std::make_shared<Gray8>(256, 16);
        for (int y = 0; y < 16; ++y)
            for (int x = 0; x < 256; ++x)
                tone->row(y)[x] = std::uint8_t(x);
        of.tone = tone;
        for (const EngraveAs as : {EngraveAs::Threshold, EngraveAs::Grey}) {
            of.spec.as = as;
            Drawing d;
            d.width = d.height = 100;
            d.engravings.push_back({{}, 0, std::make_shared<const Engraving>(of), {}});
            const DrawnEngraving drawn = engravingsOnce(d).front();
            const auto between = std::count_if(drawn.of->tone->all().begin(), drawn.of->tone->all().end(), [](std::uint8_t t) { return t > 0 && t < 255; });
            QCOMPARE(between > 0, as == EngraveAs::Grey);
            QCOMPARE(drawn.of->tone->row(3)[200], as == EngraveAs::Grey ? 200 : 255);
            QCOMPARE(drawn.of->tone->row(3)[100], as == EngraveAs::Grey ? 100 : 0);
        }
    }

    // A print of which there is none is not written.
    void noBlankPrint()
    {
        const QString charm = QString(YOKAI_DEMO_JOB).replace("-rows", "-charm");
        const Ran r = batch({"sheet", charm, "--print", file("never.pdf")});
        QCOMPARE(r.code, 3);
        QVERIFY2(r.err.contains("would be blank") && !QFile::exists(file("never.pdf")), qPrintable(r.err));
        QCOMPARE(batch({"sheet", charm, "--cut", file("charm.svg")}).code, 0);
        QVERIFY(!read(file("charm.svg")).contains("id=\"marks\""));
    }

    // What a kerf swallows is a finding, of a file as of a picture.
    void lostInTheKerf()
    {
        const QString cut = cutFile("slot.svg", {item(box(20, 20, 40, 40), LineKind::Through), item(box(38, 30, 1.36, 20), LineKind::Through)});
        const Ran r = batch({"plan", cut, "--kerf", "2mm", "--out", file("slot.gcode"), "--report", "-"});
        QCOMPARE(r.code, 0);
        int lost = 0;
        for (const QJsonValue f : QJsonDocument::fromJson(r.bytes).object()["findings"].toArray())
            if (f["code"].toString() == "kerf-loss") {
                ++lost;
                QVERIFY2(std::abs(f["value"].toDouble() - 1.36) < 0.02 && f["limit"].toDouble() == 2, qPrintable(QString::number(f["value"].toDouble())));
            }
        QCOMPARE(lost, 1);
        QCOMPARE(batch({"plan", cut, "--kerf", "2mm", "--strict", "--out", file("slot.gcode")}).code, 1);
    }
};

QTEST_GUILESS_MAIN(TestPrograms)
#include "test_programs.moc"
