#include "formats/cut_file.h"
#include "run.h"

#include <QDir>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QPainter>
#include <QTemporaryDir>
#include <QTest>

#include <numbers>

#include <unistd.h>

using namespace yokai::test;

class TestBatch : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    const QString pictures_ = QStringLiteral(YOKAI_DEMO_PICTURES "/");
    QString file(const QString& name) const { return dir_.filePath(name); }
    static Ran batch(const QStringList& args) { return run(YOKAI_BATCH, args); }
    QJsonObject report(const QString& verb, const QString& art, const QStringList& more)
    {
        const Ran r = batch(QStringList{verb, art, "--report", "-"} + more);
        return r.code == 0 ? json(r.out) : QJsonObject{{"error", r.err}};
    }
    static QJsonObject json(const QString& text) { return QJsonDocument::fromJson(text.toUtf8()).object(); }

private slots:
    // A drawing is cut around as a picture is, sharp at any size: a disc in mm is one; its units are said and may be others; it reaches for no other file.
    void drawingsAreCutAround()
    {
        write(file("secret.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='50mm' height='50mm' viewBox='0 0 50 50'><rect width='50' height='50' fill='#ff0000'/></svg>");
        write(file("disc.svg"), "<?xml version='1.0'?><!-- a comment --><svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='50mm' height='40mm' viewBox='0 0 50 40'>"
                                "<image xlink:href='secret.svg' width='50' height='40'/><circle cx='25' cy='20' r='10' fill='#2a6f4b'/></svg>");
        const QJsonObject disc = report("outline", file("disc.svg"), {"--line", "through:0"});
        QCOMPARE(disc["artwork"].toObject()["size_mm"].toArray()[0].toDouble(), 50.0);
        QVERIFY(!disc["artwork"].toObject().contains("upi"));
        const double area = disc["keep"].toObject()["parts"].toArray()[0].toObject()["area_mm2"].toDouble();
        QVERIFY2(std::abs(area / (3.14159265358979 * 100) - 1) < 0.0005, qPrintable(QString::number(area, 'g', 9)));
        // Of its own units 96 are an inch, unless others are said; a side that is typed says more than either.
        write(file("units.svg"), "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 192 96'><circle cx='96' cy='48' r='40'/></svg>");
        const auto size = [&](const QStringList& more) {
            const QJsonObject artwork = report("outline", file("units.svg"), more)["artwork"].toObject();
            return std::pair(artwork["size_mm"].toArray()[0].toDouble(), artwork["upi"].toDouble());
        };
        QVERIFY(size({}) == std::pair(50.8, 96.0));
        const auto [width, upi] = size({"--upi", "72"});
        QVERIFY(std::abs(width - 2.6666667 * 25.4) < 1e-3 && std::abs(upi - 72) < 1e-6);
        QVERIFY(std::abs(size({"--upi", "72", "--width", "33mm"}).first - 33) < 1e-6);
        // What is none, or says no size, is refused.
        write(file("open.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='50mm' height='40mm'><circle r='10'>");
        write(file("nosize.svg"), "<svg xmlns='http://www.w3.org/2000/svg'><circle r='10'/></svg>");
        // A page of a PDF, as librsvg and cairo write it: the same disc, on nothing, at its size; another page of two; locked and cut short.
        write(file("page.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='50mm' height='40mm' viewBox='0 0 50 40'><circle cx='25' cy='20' r='10' fill='#2a6f4b'/></svg>");
        write(file("page2.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='50mm' height='40mm' viewBox='0 0 50 40'><rect x='10' y='10' width='30' height='20' fill='#2a6f4b'/></svg>");
        QCOMPARE(run("/usr/bin/rsvg-convert", {"-f", "pdf", "-o", file("page.pdf"), file("page.svg"), file("page2.svg")}).code, 0);
        const QJsonObject page = report("outline", file("page.pdf"), {"--line", "through:0"});
        QVERIFY(std::abs(page["lines"].toArray()[0].toObject()["area_mm2"].toDouble() - std::numbers::pi * 100) < 0.3);
        const QJsonArray sides = page["artwork"].toObject()["size_mm"].toArray();
        QVERIFY(std::abs(sides[0].toDouble() - 50) < 0.05 && std::abs(sides[1].toDouble() - 40) < 0.05);
        QVERIFY(std::abs(report("outline", file("page.pdf"), {"--page", "2", "--line", "through:0"})["lines"].toArray()[0].toObject()["area_mm2"].toDouble() - 600) < 0.5);
        QCOMPARE(batch({"outline", file("page.pdf"), "--page", "3", "--report", "-"}).code, 3);
        // So are a page's paths as lines.
        QVERIFY(std::abs(report("outline", file("page.pdf"), {"--page", "2", "--as", "lines"})["lines"].toArray()[0].toObject()["area_mm2"].toDouble() - 600) < 0.1);
        QCOMPARE(batch({"outline", file("page.pdf"), "--page", "3", "--as", "lines", "--report", "-"}).code, 3);
        QCOMPARE(run("/usr/bin/qpdf", {"--encrypt", "a", "b", "256", "--", file("page.pdf"), file("locked.pdf")}).code, 0);
        write(file("short.pdf"), read(file("page.pdf")).left(700));
        for (const char* bad : {"open.svg", "nosize.svg", "locked.pdf", "short.pdf"}) {
            const Ran r = batch({"outline", file(bad), "--report", "-"});
            QVERIFY2(r.code == 3 && r.err.count('\n') == 1 && r.err.contains(bad), qPrintable(r.err));
        }
    }

    // EPS and DXF are artwork, too: what is drawn is cut round at its size, and openings stay open; what cannot come in is named.
    void drawingsOfOtherKindsAreArtwork()
    {
        write(file("ring.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='50mm' viewBox='0 0 60 50'>"
                                "<path d='M10 5H50V45H10Z M20 15H40V35H20Z' fill-rule='evenodd' fill='#3050a0'/></svg>");
        QCOMPARE(batch({"outline", file("ring.svg"), "--as", "lines", "--out", file("ring.dxf"), "--report", "-"}).code, 0);
        QCOMPARE(run("/usr/bin/rsvg-convert", {"-f", "pdf", "-o", file("ring.pdf"), file("ring.svg")}).code, 0);
        QCOMPARE(run("/usr/bin/pdftops", {"-eps", file("ring.pdf"), file("ring.eps")}).code, 0);
        for (const char* name : {"ring.svg", "ring.eps", "ring.dxf"}) {
            const QJsonObject told = report("outline", file(name), {"--line", "through:0"});
            const QJsonArray lines = told["lines"].toArray();
            QVERIFY2(std::abs(lines[0].toObject()["area_mm2"].toDouble() - 1200) < 4 && std::abs(lines[0].toObject()["length_mm"].toDouble() - 240) < 1,
                     qPrintable(QString("%1: %2").arg(name).arg(lines[0].toObject()["length_mm"].toDouble())));
            QVERIFY2(told["artwork"].toObject()["ppi"].toDouble() >= 600, name);
        }
        write(file("damaged.eps"), "%!PS-Adobe-3.0 EPSF-3.0\nshowpage (");
        write(file("no.dxf"), "0\nSECTION\n");
        for (const char* bad : {"damaged.eps", "no.dxf"}) {
            const Ran r = batch({"outline", file(bad), "--report", "-"});
            QVERIFY2(r.code == 3 && r.err.count('\n') == 1 && r.err.contains(bad), qPrintable(r.err));
        }
    }

    // A picture taken at an angle: four corners of a known rectangle say its true size; corners that are none are refused in one line. Where the
    // rectangle is the sheet, nothing is printed, and a blank file is none.
    void tiltIsTakenOutByARectangle()
    {
        QTransform slant;
        const QPolygonF sheet{QVector<QPointF>{{100, 80}, {520, 60}, {590, 400}, {60, 380}}};
        QVERIFY(QTransform::quadToQuad(QPolygonF{QVector<QPointF>{{0, 0}, {100, 0}, {100, 80}, {0, 80}}}, sheet, slant));
        QImage image(660, 460, QImage::Format_RGB32);
        image.fill(QColor(240, 240, 236));
        QPainter p(&image);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(Qt::NoPen);
        p.setBrush(QColor(30, 40, 90));
        p.setTransform(slant);
        p.drawRect(QRectF(30, 20, 40, 40));
        p.end();
        QVERIFY(image.save(file("slant.png")));
        const QJsonObject told = report("outline", file("slant.png"), {"--rectangle", "100,80,520,60,590,400,60,380=100mmx80mm", "--line", "through:0"});
        const QJsonObject line = told["lines"].toArray()[0].toObject();
        QVERIFY2(std::abs(line["length_mm"].toDouble() - 160) < 1.5 && std::abs(line["area_mm2"].toDouble() - 1600) < 30, qPrintable(QString::number(line["area_mm2"].toDouble())));
        // The rectangle is the sheet, on which it lies: cut there, and nothing printed.
        QCOMPARE(batch({"sheet", file("slant.png"), "--rectangle", "100,80,520,60,590,400,60,380=100mmx80mm", "--lies", "--paper", "100mmx80mm", "--line", "through:0", "--cut", file("lies.svg")}).code, 0);
        const yokai::CutFile lies = yokai::openCutFile(file("lies.svg").toStdString());
        QCOMPARE(lies.drawing.cuts.size(), std::size_t(1));
        const yokai::Rect square = yokai::bounds(lies.drawing.cuts[0].path);
        QVERIFY2(std::abs(square.x0 - 30) < 0.4 && std::abs(square.y0 - 20) < 0.4 && std::abs(square.x1 - 70) < 0.4 && std::abs(square.y1 - 60) < 0.4, qPrintable(QStringLiteral("%1 %2").arg(square.x0).arg(square.y0)));
        const Ran blank = batch({"sheet", file("slant.png"), "--rectangle", "100,80,520,60,590,400,60,380=100mmx80mm", "--lies", "--paper", "100mmx80mm", "--print", file("lies.png")});
        QVERIFY2(blank.code == 3 && blank.err.contains("would be blank") && blank.err.count('\n') == 1 && !QFile::exists(file("lies.png")), qPrintable(blank.err));
        const Ran alone = batch({"outline", file("slant.png"), "--lies", "--report", "-"});
        QVERIFY(alone.code == 2 && alone.err.contains("--rectangle") && alone.err.count('\n') == 1);
        for (const char* bad : {"100,80,520,60,590,400=100mmx80mm", "100,80,520,60,60,380,590,400=100mmx80mm", "1,2,3,4,5,6,7,8=0mmx80mm"}) {
            const Ran r = batch({"outline", file("slant.png"), "--rectangle", bad, "--report", "-"});
            QVERIFY2(r.code == 2 && r.err.count('\n') == 1, qPrintable(r.err));
        }
    }

    // A drawing's own paths as cut lines: kinds by groups and colours, what cannot come in is named, and they come back the same.
    void drawingsAreTheLines()
    {
        write(file("lines.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='100mm' height='80mm' viewBox='0 0 100 80'><g id='cut-kiss'><circle cx='50' cy='40' r='20'/></g>"
                                 "<rect x='10' y='10' width='80' height='60'/><text x='5' y='5'>no</text></svg>");
        const Ran r = batch({"outline", file("lines.svg"), "--as", "lines", "--out", file("lines.dxf"), "--out", file("lines.plt"), "--report", "-"});
        QVERIFY2(r.code == 0 && r.err.contains("text"), qPrintable(r.err));
        const QJsonArray lines = QJsonDocument::fromJson(r.bytes).object()["lines"].toArray();
        QCOMPARE(lines.size(), 2);
        QCOMPARE(lines[0].toObject()["kind"].toString(), QString("through"));
        QVERIFY(std::abs(lines[0].toObject()["length_mm"].toDouble() - 280) < 1e-3);
        QVERIFY(std::abs(lines[1].toObject()["area_mm2"].toDouble() / (3.14159265 * 400) - 1) < 3e-4);
        const QJsonArray back = report("outline", file("lines.dxf"), {"--as", "lines"})["lines"].toArray();
        QCOMPARE(back.size(), 2);
        for (int k = 0; k < 2; ++k)
            QVERIFY(std::abs(back[k].toObject()["length_mm"].toDouble() - lines[k].toObject()["length_mm"].toDouble()) < 0.01);
        QCOMPARE(batch({"outline", file("lines.svg"), "--as", "sketch", "--report", "-"}).code, 2);
        // On sheets, as many as are asked for, with marks; openings run the other way, an open line stays open, and nothing is printed. The
        // job keeps them, and at another size they are as much larger.
        write(file("card.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='60mm' height='40mm' viewBox='0 0 60 40'><g id='cut-kiss'><circle cx='30' cy='20' r='10'/></g>"
                                "<path d='M5 5h50v30h-50z M15 12 h6 v6 h-6z'/><path id='crease' d='M5 30 H55'/></svg>");
        for (const double scale : {1.0, 1.5}) {
            const QJsonObject sheet = report("sheet", file("card.svg"), {"--as", "lines", "--copies", "8", "--width", QString("%1mm").arg(60 * scale), "--cut", file("cards.svg"), "--out", file("cards.yokai"), "--print", file("cards.png")});
            const QJsonArray on = sheet["lines"].toArray();
            QVERIFY(std::abs(on[0].toObject()["area_mm2"].toDouble() - 1464 * scale * scale) < 0.01);
            QVERIFY(std::abs(on[2].toObject()["length_mm"].toDouble() - 50 * scale) < 0.001);
            for (const QJsonValue finding : sheet["findings"].toArray()) // there is no artwork to cut into, nor print to drift from
                QVERIFY2(finding["code"] != "cuts-artwork" && finding["code"] != "shows-paper", qPrintable(finding["code"].toString()));
            const yokai::CutFile written = yokai::openCutFile(file("cards.svg").toStdString());
            QCOMPARE(written.drawing.cuts.size(), std::size_t(8 * 4));
            QCOMPARE(std::count_if(written.drawing.cuts.begin(), written.drawing.cuts.end(), [](const yokai::CutItem& i) { return i.kind == yokai::LineKind::Crease && !i.path.closed; }), 8);
            QCOMPARE(report("sheet", file("cards.yokai"), {})["lines"].toArray(), on);
        }
        QCOMPARE(batch({"sheet", file("card.svg"), "--as", "lines", "--line", "through:2mm", "--report", "-"}).code, 2);
        QCOMPARE(batch({"outline", QString(YOKAI_DEMO_PICTURES) + "/river-imp.png", "--as", "lines", "--report", "-"}).code, 2);
    }

    void outlineReportsWhatItMade()
    {
        const Ran r = batch({"outline", pictures_ + "umbrella-imp.png", "--line", "through:2mm", "--line", "kiss:-0.5mm", "--width", "60mm", "--out",
                             file("a.svg"), "--out", file("a.dxf"), "--report", "-"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject report = json(r.out);
        QCOMPARE(report["artwork"]["ppi_from"].toString(), QString("option"));
        QCOMPARE(report["artwork"]["size_mm"][0].toDouble(), 60.0);
        QCOMPARE(report["keep"]["rule"].toString(), QString("alpha"));
        const QJsonArray lines = report["lines"].toArray();
        QCOMPARE(lines.size(), 2);
        QCOMPARE(lines[1]["kind"].toString(), QString("kiss"));
        QVERIFY(lines[0]["area_mm2"].toDouble() > lines[1]["area_mm2"].toDouble());
        for (const char* step : {"decode", "keep", "outline", "offset", "fit", "write", "total"})
            QVERIFY(report["timing_ms"][step].isDouble());
        QVERIFY(read(file("a.svg")).contains("id=\"cut-kiss\""));
    }

    void sheetFillsAndSplits()
    {
        const Ran r = batch({"sheet", pictures_ + "river-imp.png", "--width", "1.5in", "--copies", "fill", "--paper", "letter", "--landscape", "--gap", "2mm",
                             "--print", file("p.pdf"), "--cut", file("c.dxf"), "--report", file("r.json")});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject report = json(QString::fromUtf8(read(file("r.json"))));
        QCOMPARE(report["sheet"]["size_mm"][0].toDouble(), 279.4);
        QVERIFY(report["sheet"]["copies"].toInt() >= 15);
        QCOMPARE(report["sheet"]["marks_mm"].toArray().size(), 5);
        // y up: the first mark is at the top left.
        QVERIFY(std::abs(report["sheet"]["marks_mm"][0][1].toDouble() - (215.9 - 12)) < 1e-6);
        QVERIFY(read(file("p.pdf")).startsWith("%PDF-1.6") && read(file("c.dxf")).contains("MARKS"));
    }

    void registerMovesTheCut()
    {
        // The sheet printed 0.4 % too wide, turned by 0.5 degrees and shifted.
        const double k = 1.004, c = std::cos(0.5 * M_PI / 180), s = std::sin(0.5 * M_PI / 180);
        QJsonArray marks;
        for (const auto& [x, y] : {std::pair(12.0, 285.0), {198.0, 285.0}, {198.0, 12.0}, {12.0, 12.0}})
            marks.append(QJsonObject{{"design_mm", QJsonArray{x, y}}, {"measured_mm", QJsonArray{k * (c * x - s * y) + 2, k * (s * x + c * y) - 1}}});
        write(file("m.json"), QJsonDocument(QJsonObject{{"marks", marks}}).toJson());
        const Ran r = batch({"register", YOKAI_DEMO_JOB, "--measured", file("m.json"), "--out", file("moved.svg"), "--report", "-"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject fit = json(r.out)["fit"].toObject();
        QCOMPARE(fit["model"].toString(), QString("scaled"));
        QVERIFY(std::abs(fit["turn_deg"].toDouble() - 0.5) < 1e-4);
        QVERIFY(std::abs(fit["scale"][0].toDouble() - k) < 1e-6);
        // A mark measured 2 mm off refuses the cut and writes nothing.
        QJsonObject bad = marks[1].toObject();
        bad["measured_mm"] = QJsonArray{bad["measured_mm"][0].toDouble() + 2, bad["measured_mm"][1].toDouble()};
        marks[1] = bad;
        write(file("bad.json"), QJsonDocument(QJsonObject{{"marks", marks}}).toJson());
        const Ran refused =
            batch({"register", YOKAI_DEMO_JOB, "--measured", file("bad.json"), "--fit", "rigid", "--max-residual", "0.3mm", "--out", file("never.svg")});
        QCOMPARE(refused.code, 1);
        QVERIFY(refused.err.contains("mark "));
        QVERIFY(!QFile::exists(file("never.svg")));
    }

    void endsAsPromised_data()
    {
        QTest::addColumn<QStringList>("args");
        QTest::addColumn<int>("code");
        QTest::addColumn<QString>("says");
        const QString imp = pictures_ + "umbrella-imp.png", out = file("x.svg");
        write(file("empty.png"), {});
        write(file("text.png"), "no picture at all");
        write(file("cut.png"), read(imp).left(20'000));
        write(file("cut.jpg"), read(pictures_ + "kettle-badger.jpg").left(9'000));
        QByteArray corrupt = read(imp);
        for (int i = 30'000; i < 30'200; ++i)
            corrupt[i] = char(corrupt[i] ^ 0x5a);
        write(file("corrupt.png"), corrupt);
        write(file("cut.webp"), QByteArray("RIFF\x24\x00\x00\x00WEBPVP8 \x18\x00\x00\x00\x30\x01\x00\x9d\x01\x2a\x10\x00\x10\x00", 30));
        write(file("kept.svg"), "before");
        const auto row = [](const char* name, const QStringList& args, int code, const char* says) {
            QTest::newRow(name) << args << code << QString::fromLatin1(says);
        };
        row("empty", {"outline", file("empty.png"), "--out", out}, 3, "empty");
        row("not a picture", {"outline", file("text.png"), "--out", out}, 3, "not a PNG");
        row("truncated png", {"outline", file("cut.png"), "--out", out}, 3, "cut short");
        row("truncated jpeg", {"outline", file("cut.jpg"), "--out", out}, 3, "cut short");
        row("corrupt png", {"outline", file("corrupt.png"), "--out", out}, 3, "damaged");
        row("truncated webp", {"outline", file("cut.webp"), "--out", out}, 3, "cut short");
        row("missing", {"outline", file("none.png"), "--out", out}, 3, "check the name");
        row("folder", {"outline", dir_.path(), "--out", out}, 3, "folder");
        row("nothing kept", {"outline", imp, "--smallest-part", "99999mm2", "--out", out}, 3, "nothing is kept");
        row("no such folder", {"outline", imp, "--out", file("no/where.svg")}, 4, "folder exists");
        row("target is a folder", {"sheet", imp, "--out", file("dir.svg")}, 4, "not a folder");
        row("no verb", {}, 2, "--help");
        row("unknown verb", {"frobnicate"}, 2, "--help");
        row("nothing to write", {"outline", imp}, 2, "--out");
        row("unknown format", {"outline", imp, "--out", file("x.xyz")}, 2, ".svg");
        row("nonsense width", {"outline", imp, "--width", "wide", "--out", out}, 2, "--width");
        row("two sizes", {"outline", imp, "--width", "3in", "--ppi", "300", "--out", out}, 2, "only one");
        row("nonsense level", {"outline", imp, "--level", "nan", "--out", out}, 2, "--level");
        row("nonsense line", {"outline", imp, "--line", "wiggly:2mm", "--out", out}, 2, "KIND:OFFSET");
        row("nonsense paper", {"sheet", imp, "--paper", "B99", "--out", out}, 2, "paper");
        row("margin too wide", {"sheet", imp, "--margin", "150mm", "--out", out}, 2, "margin");
        row("copies", {"sheet", imp, "--copies", "-3", "--out", out}, 2, "--copies");
        row("nonsense tab", {"outline", imp, "--tab", "10mm", "--out", out}, 2, "OUTER/HOLE@SIDE");
        row("tab with no rim", {"outline", imp, "--tab", "4mm/4mm@top", "--out", out}, 2, "smaller");
        row("tab nowhere", {"outline", imp, "--tab", "10mm/4mm@above", "--out", out}, 2, "stands nowhere");
        row("tab without a line", {"outline", imp, "--line", "kiss:1mm", "--tab", "10mm/4mm@top", "--out", out}, 2, "through line");
        row("nonsense bridges", {"outline", imp, "--bridges", "4", "--out", out}, 2, "N/WIDTH");
        row("nonsense tool", {"check", imp, "--tool-radius", "-1mm"}, 2, "--tool-radius");
        row("check nothing", {"check", file("none.png")}, 3, "check the name");
        row("no line is left", {"outline", imp, "--line", "through:-200mm", "--out", out}, 3, "leaves nothing");
        row("one line vanished and strict", {"outline", imp, "--line", "through:2mm", "--line", "kiss:-200mm", "--strict", "--out", out}, 1, "leaves nothing");
        row("nothing finds place", {"sheet", imp, "--width", "400mm", "--paper", "A5", "--cut", out}, 3, "fit on the sheet");
    }
    void endsAsPromised()
    {
        QFETCH(QStringList, args);
        QFETCH(int, code);
        QFETCH(QString, says);
        QDir(dir_.path()).mkpath("dir.svg");
        const Ran r = batch(args);
        QVERIFY2(r.code == code, qPrintable(QString("ended with %1: %2").arg(r.code).arg(r.err)));
        QVERIFY2(r.err.contains(says), qPrintable(r.err));
        QCOMPARE(r.err.count('\n'), 1);
        QVERIFY(QDir(dir_.path()).entryList({"*.part-*"}).isEmpty());
    }

    // Each option that takes a value refuses one that is none, in a line that names it.
    void nonsenseIsNamed_data()
    {
        QTest::addColumn<QString>("verb");
        QTest::addColumn<QString>("option");
        QTest::addColumn<QString>("value");
        for (const char* length : {"--width", "--height", "--join", "--round-inside", "--tolerance", "--smoothing"})
            for (const char* value : {"", "mm", "-1mm", "1e99mm", "3 furlongs"})
                QTest::addRow("%s '%s'", length, value) << "outline" << length << value;
        for (const char* length : {"--margin", "--gap", "--mark-inset"})
            for (const char* value : {"wide", "-1mm", "9999m"})
                QTest::addRow("%s '%s'", length, value) << "sheet" << length << value;
        for (const auto& [option, value] : {std::pair("--ppi", "0"), {"--ppi", "inf"}, {"--ppi", "300dpi"}, {"--level", "101"}, {"--level", "5%"}, {"--straighten", "46"},
                                            {"--keep", "colour"}, {"--keep", "colour=red"}, {"--keep", "colour=#12345"}, {"--keep", "Alpha"}, {"--openings", "over"},
                                            {"--openings", "over=much"}, {"--line-openings", "fill"}, {"--corners", "bevel"}, {"--perforate", "3mm"}, {"--perforate", "3mm/"},
                                            {"--line", "kiss"}, {"--line", "kiss:"}, {"--line", ":2mm"}, {"--line", "kiss:999m"}, {"--crop", "1,2"}, {"--crop", "1mm,2mm,3mm"},
                                            {"--smallest-part", "some"}, {"--page", "0"}, {"--spot", "kiss="}, {"--spot", "a\nb"}})
            QTest::addRow("%s '%s'", option, value) << "outline" << option << value;
        for (const auto& [option, value] : {std::pair("--paper", "0x0mm"), {"--paper", "210mm"}, {"--marks", "stars"}, {"--layout", "heap"}, {"--turn", "twice"}, {"--mark-count", "2"}, {"--share", "1:2"}, {"--sheet-mirror", "twice"}, {"--copies", "0"}, {"--copies", "many"}})
            QTest::addRow("%s '%s'", option, value) << "sheet" << option << value;
        for (const auto& [option, value] : {std::pair("--fit", "best"), {"--max-residual", "-1mm"}})
            QTest::addRow("%s '%s'", option, value) << "register" << option << value;
    }
    void nonsenseIsNamed()
    {
        QFETCH(QString, verb);
        QFETCH(QString, option);
        QFETCH(QString, value);
        QStringList args{verb, verb == "register" ? YOKAI_DEMO_JOB : pictures_ + "river-imp.png", "--out", file("never.svg")};
        if (value.isEmpty())
            args << option << value;
        else
            args << option + "=" + value;
        if (verb == "register") {
            write(file("none.json"), R"({"marks": []})");
            args << "--measured" << file("none.json");
        }
        const Ran r = batch(args);
        QVERIFY2(r.code == 2, qPrintable(QString("ended with %1: %2").arg(r.code).arg(r.err)));
        QVERIFY2(r.err.contains(option.mid(2)) || r.err.contains(option.mid(2).replace('-', ' ')), qPrintable(r.err));
        QCOMPARE(r.err.count('\n'), 1);
        QVERIFY(!QFile::exists(file("never.svg")));
    }

    // Options of the sheet, by what its report says.
    void sheetOptionsDoWhatTheySay()
    {
        const auto report = [&](const QStringList& more) -> const QJsonObject {
            const Ran r = batch(QStringList{"sheet", pictures_ + "river-imp.png", pictures_ + "umbrella-imp.png", "--width", "30mm", "--copies", "fill", "--report", "-"} + more);
            if (r.code != 0)
                qWarning("%s", qPrintable(r.err));
            return json(r.out);
        };
        const auto placements = [](const QJsonObject& r) { return r["sheet"]["placements"].toArray(); };
        const QJsonObject rows = report({}), few = report({"--columns", "2", "--rows", "3"});
        QVERIFY(placements(rows).size() > 20 && placements(few).size() == 6);
        QCOMPARE(rows["sheet"]["copies"].toInt(), int(placements(rows).size()));
        // A mix by ratio.
        const QJsonObject mix = report({"--share", "3:1"});
        const int first = mix["pieces"].toArray().at(0)["placed"].toInt(), second = mix["pieces"].toArray().at(1)["placed"].toInt();
        QVERIFY(first >= 3 * (second - 1) && first <= 3 * (second + 1));
        // Nested more lies on it, turned as allowed, the same each time.
        const QStringList nest{"--layout", "nest", "--seconds", "1", "--gap", "2mm"};
        const QJsonObject quarter = report(nest), freely = report(nest + QStringList{"--turn", "free"}), none = report(nest + QStringList{"--turn", "none"});
        QVERIFY(freely["sheet"]["used"].toDouble() > 1.15 * report({"--gap", "2mm"})["sheet"]["used"].toDouble());
        QCOMPARE(placements(report(nest)), placements(quarter));
        QVERIFY(placements(report(nest + QStringList{"--seed", "9"})) != placements(quarter));
        bool slanting = false;
        for (const QJsonValue p : placements(freely))
            slanting = slanting || std::abs(std::remainder(p["turn_deg"].toDouble(), 90)) > 1;
        QVERIFY(slanting);
        for (const QJsonValue p : placements(quarter))
            QVERIFY(std::abs(std::remainder(p["turn_deg"].toDouble(), 90)) < 1e-6 && !p["mirror"].toBool());
        for (const QJsonValue p : placements(none))
            QVERIFY(std::abs(p["turn_deg"].toDouble()) < 1e-6);
        // Each copy's middle lies where it is said: within the margin, y up.
        for (const QJsonValue p : placements(freely))
            QVERIFY(p["x_mm"].toDouble() > 15 && p["x_mm"].toDouble() < 195 && p["y_mm"].toDouble() > 15 && p["y_mm"].toDouble() < 282);
        // Marks.
        QCOMPARE(report({"--mark-count", "7"})["sheet"]["marks_mm"].toArray().size(), 7);
        QCOMPARE(report({"--marks", "none"})["sheet"]["marks_mm"].toArray().size(), 0);
        const QJsonObject bands = report({"--paper", "300x1000mm", "--mark-gap", "300mm", "--marks", "crosses"});
        QCOMPARE(bands["sheet"]["marks_mm"].toArray().size(), 2 * 5 + 1);
        const QJsonArray three = report({"--mark-count", "3"})["findings"].toArray();
        QVERIFY(std::any_of(three.begin(), three.end(), [](const QJsonValue& f) { return f["code"].toString() == "no-mark-to-spare"; }));
        // Cuts of their own, in the cut file.
        const auto lines = [&](const QStringList& more) {
            const Ran r = batch(QStringList{"sheet", pictures_ + "river-imp.png", "--width", "40mm", "--copies", "6", "--cut", file("c.svg")} + more);
            return r.code == 0 ? int(read(file("c.svg")).count("<path ")) : -1;
        };
        const int plain = lines({});
        QCOMPARE(lines({"--trim"}), plain + 1);
        QVERIFY(lines({"--separate"}) > plain + 3);
        QVERIFY(lines({"--marks", "brackets"}) == plain + 5 + 1); // drawn as lines, the one by itself as two
        // White by a name of one's own.
        const Ran white = batch({"sheet", pictures_ + "river-imp.png", "--width", "40mm", "--copies", "1", "--underprint", "0.2mm", "--spot", "white=Opaque base", "--print", file("w.pdf")});
        QVERIFY2(white.code == 0 && read(file("w.pdf")).contains("Opaque#20base"), qPrintable(white.err));
        // Pictures and a list exclude each other; neither is not enough.
        QCOMPARE(batch({"sheet", pictures_ + "river-imp.png", "--order", file("x.csv"), "--report", "-"}).code, 2);
        QCOMPARE(batch({"sheet", "--report", "-"}).code, 2);
    }

    // Each option does what it says, as far as a report or a file tells.
    void optionsDoWhatTheySay()
    {
        const QString imp = pictures_ + "umbrella-imp.png", badger = pictures_ + "kettle-badger.jpg";
        const auto line = [&](const QStringList& options) { return report("outline", imp, options)["lines"][0].toObject(); };
        const auto area = [&](const QStringList& options) { return line(options)["area_mm2"].toDouble(); };
        const auto size = [&](const QStringList& options) {
            const QJsonArray mm = report("outline", imp, options)["artwork"].toObject()["size_mm"].toArray();
            return QSizeF(mm[0].toDouble(), mm[1].toDouble());
        };
        const QSizeF whole = size({});
        QVERIFY(std::abs(size({"--height", "4in"}).height() - 101.6) < 1e-6);
        QVERIFY(std::abs(size({"--ppi", "150"}).width() - 2 * whole.width()) < 1e-4);
        QVERIFY(std::abs(size({"--crop", "2mm,3mm,30mmx20mm"}).width() - 30) < 0.1);
        QVERIFY(size({"--crop", "kept"}).width() < whole.width());
        QVERIFY(std::abs(size({"--crop", "kept", "--crop-margin", "1mm"}).width() - size({"--crop", "kept"}).width() - 2) < 0.1);
        QVERIFY(size({"--straighten", "30"}).width() > whole.width());

        const double plain = area({});
        QVERIFY(std::abs(area({"--mirror"}) - plain) < 0.02 * plain / 100);
        QVERIFY(area({"--corners", "sharp"}) > plain + 1 && area({"--corners", "flat"}) < plain - 1);
        QVERIFY(area({"--round-inside", "2mm"}) > plain + 1);
        QVERIFY(area({"--join", "9mm"}) > plain + 1);
        QVERIFY(area({"--smoothing", "3mm"}) < plain - 1);
        QVERIFY(line({"--tolerance", "0.2mm"})["nodes"].toInt() < line({"--tolerance", "0.01mm"})["nodes"].toInt());
        QCOMPARE(line({"--line", "crease:1mm"})["kind"].toString(), QString("crease"));
        QVERIFY(line({"--line", "through:0mm"})["paths"].toInt() > line({"--line", "through:0mm", "--line-openings", "none"})["paths"].toInt());
        QVERIFY(line({"--line", "through:0mm"})["paths"].toInt() > line({"--line", "through:0mm", "--openings", "fill"})["paths"].toInt());
        QVERIFY(line({"--line", "through:0mm"})["paths"].toInt() > line({"--line", "through:0mm", "--line-openings", "over=9999mm2"})["paths"].toInt());

        const auto rule = [&](const QString& art, const QString& keep) { return report("outline", art, {"--keep", keep})["keep"].toObject(); };
        for (const char* name : {"alpha", "dark", "light", "all"})
            QCOMPARE(rule(imp, name)["rule"].toString(), QString(name));
        QCOMPARE(rule(badger, "paper")["rule"].toString(), QString("paper"));
        QCOMPARE(rule(badger, "colour=#ffffff")["rule"].toString(), QString("colour"));
        QVERIFY(report("outline", badger, {"--smallest-part", "0mm2"})["keep"].toObject()["parts"].toArray().size() >= report("outline", badger, {"--smallest-part", "20mm2"})["keep"].toObject()["parts"].toArray().size());
        QCOMPARE(report("outline", badger, {"--level", "17"})["keep"].toObject()["level"].toDouble(), 17.0);

        const auto sheet = [&](const QStringList& options) { return report("sheet", imp, QStringList{"--width", "30mm", "--copies", "fill"} + options)["sheet"].toObject(); };
        const int fill = sheet({})["copies"].toInt();
        QCOMPARE(sheet({"--paper", "100x80mm", "--marks", "none"})["size_mm"][1].toDouble(), 80.0);
        QVERIFY(sheet({"--margin", "40mm"})["copies"].toInt() < fill && sheet({"--gap", "20mm"})["copies"].toInt() < fill);
        QVERIFY(sheet({"--marks", "none"})["copies"].toInt() >= fill && sheet({"--marks", "none"})["marks_mm"].toArray().isEmpty());
        QCOMPARE(sheet({"--mark-inset", "20mm"})["marks_mm"][0][0].toDouble(), 20.0);
        QCOMPARE(report("sheet", imp, {"--width", "30mm", "--copies", "3"})["sheet"].toObject()["copies"].toInt(), 3);
        QVERIFY(sheet({"--landscape"})["size_mm"][0].toDouble() == 297);

        QCOMPARE(batch({"outline", imp, "--spot", "Stanze", "--spot", "kiss=Anriss", "--line", "through:2mm", "--line", "kiss:1mm", "--out", file("spots.pdf")}).code, 0);
        const QByteArray pdf = read(file("spots.pdf"));
        QVERIFY(pdf.contains("/Stanze") && pdf.contains("/Anriss"));
        QCOMPARE(batch({"outline", imp, "--line", "perforate:1mm", "--perforate", "4mm/1mm", "--out", file("dashes.svg")}).code, 0);
        QCOMPARE(batch({"outline", imp, "--line", "perforate:1mm", "--out", file("whole.svg")}).code, 0);
        QVERIFY(read(file("dashes.svg")).count('M') > 20 + read(file("whole.svg")).count('M'));
    }

    // The findings of a picture and of a job: code, severity, place from the bottom left, value and limit, and
    // a line of words each where no report is asked for. Limits are options.
    void checkSaysWhatTheToolCannotCut()
    {
        const QString imp = pictures_ + "umbrella-imp.png";
        const Ran plain = batch({"check", imp, "--line", "through:2mm"});
        QCOMPARE(plain.code, 0);
        const QStringList said = plain.out.split('\n', Qt::SkipEmptyParts);
        const Ran full = batch({"check", imp, "--line", "through:2mm", "--report", "-"});
        const QJsonObject report = json(full.out);
        const QJsonArray findings = report["findings"].toArray();
        QVERIFY(findings.size() > 3);
        QCOMPARE(said.size(), findings.size());
        QVERIFY(report["timing_ms"]["check"].isDouble());
        const double width = report["artwork"]["size_mm"][0].toDouble(), height = report["artwork"]["size_mm"][1].toDouble();
        for (qsizetype k = 0; k < findings.size(); ++k) {
            const QJsonObject f = findings[k].toObject();
            QCOMPARE(f["code"].toString(), QString("tight-corner"));
            QCOMPARE(f["severity"].toString(), QString("warning"));
            QCOMPARE(f["piece"].toInt(-1), 0);
            QCOMPARE(f["limit"].toDouble(), 0.25);
            QVERIFY(f["value"].toDouble() < 0.25);
            const double x = f["at_mm"][0].toDouble(), y = f["at_mm"][1].toDouble();
            QVERIFY(x > -3 && x < width + 3 && y > -3 && y < height + 3);
            QCOMPARE(f["text"].toString(), said[k]);
        }
        // Nothing is left of them for a tool without a radius, and where the line is rounded to it.
        QVERIFY(batch({"check", imp, "--line", "through:2mm", "--tool-radius", "0mm"}).out.isEmpty());
        QVERIFY(batch({"check", imp, "--line", "through:2mm", "--round-inside", "0.3mm"}).out.isEmpty());
        // Each limit finds what is under it.
        const auto codes = [&](QStringList args) {
            QStringList out;
            for (const QJsonValue& f : json(batch(QStringList{"check", imp, "--report", "-"} + args).out)["findings"].toArray())
                if (!out.contains(f["code"].toString()))
                    out << f["code"].toString();
            return out;
        };
        QVERIFY(codes({"--least-ppi", "5000"}).contains("low-resolution"));
        QVERIFY(codes({"--least-area", "5000mm2"}).contains("small-part"));
        QVERIFY(codes({"--least-length", "900mm"}).contains("short-path"));
        QVERIFY(codes({"--least-neck", "40mm"}).contains("thin-neck"));
        QVERIFY(codes({"--drift", "3mm"}).contains("shows-paper") && !codes({"--drift", "1mm"}).contains("shows-paper"));
        QVERIFY(codes({"--line", "through:2mm", "--line", "kiss:1.8mm"}).contains("narrow-gap"));
        QVERIFY(codes({"--line", "through:1mm", "--line", "kiss:2mm"}).contains("kind-order"));
        // A job's, too, the edit that lost its place among them.
        const Ran job = batch({"check", YOKAI_DEMO_JOB, "--report", "-"});
        QCOMPARE(job.code, 0);
        int lost = 0;
        for (const QJsonValue& f : json(job.out)["findings"].toArray())
            lost += f["code"].toString() == "lost-edit";
        QCOMPARE(lost, 1);
    }

    // One that would close a notch does not fit, and nothing is written without it.
    void aTabThatDoesNotFitIsRefused()
    {
        write(file("notch.svg"), "<svg xmlns='http://www.w3.org/2000/svg' width='40mm' height='40mm' viewBox='0 0 40 40'><path d='M5 5H15V30H25V5H35V35H5Z'/></svg>");
        const Ran r = batch({"outline", file("notch.svg"), "--line", "through:0.5mm", "--tab", "20mm/3mm@top", "--out", file("notched.svg")});
        QVERIFY2(r.code == 2 && r.err.contains("--tab '20mm/3mm@top' does not fit") && !QFile::exists(file("notched.svg")), qPrintable(r.err));
        QCOMPARE(batch({"outline", file("notch.svg"), "--line", "through:0.5mm", "--tab", "6mm/3mm@bottom", "--out", file("notched.svg")}).code, 0);
    }

    // A box in whole points: 63.5 mm are 180 of them.
    void theBoxOfAnEpsIsExact()
    {
        QCOMPARE(batch({"sheet", pictures_ + "river-imp.png", "--paper", "63.5mmx88.9mm", "--margin", "2", "--marks", "none", "--width", "40mm", "--out", file("card.eps")}).code, 0);
        QVERIFY(read(file("card.eps")).contains("%%BoundingBox: 0 0 180 252\n"));
    }

    // A tab stands where it is asked to, its hole is round and whole, and bridges hold all but the hole.
    void tabsAndBridgesAreWritten()
    {
        const QString imp = pictures_ + "umbrella-imp.png";
        const auto paths = [&](const QStringList& args) {
            const Ran r = batch(QStringList{"outline", imp, "--line", "through:2mm", "--line-openings", "none", "--out", file("tab.svg"), "--report", "-"} + args);
            return r.code == 0 ? json(r.out)["lines"][0].toObject() : QJsonObject();
        };
        const QJsonObject bare = paths({});
        QCOMPARE(bare["paths"].toInt(), 1);
        for (const char* side : {"top", "right", "bottom", "left", "3mm,30mm"}) {
            const QJsonObject tab = paths({"--tab", QString("10mm/4mm@%1").arg(side)});
            QVERIFY2(tab["paths"].toInt() == 2, side);
            const double grown = tab["area_mm2"].toDouble() - bare["area_mm2"].toDouble();
            QVERIFY2(grown > 20 && grown < 110, side); // a disc of 78.5 mm2 less what lies within the line and the hole of 12.6, and fillets
        }
        QCOMPARE(paths({"--tab", "10mm/4mm@top", "--tab", "6mm/0mm@bottom"})["paths"].toInt(), 2); // one without a hole
        const auto written = [&] { return read(file("tab.svg")).count("<path"); };
        paths({"--tab", "10mm/4mm@top"});
        const auto whole = written();
        paths({"--tab", "10mm/4mm@top", "--bridges", "5/0.5mm"});
        QCOMPARE(written(), whole + 4); // the outline in five, the hole in one
    }

    // As much is printed round the picture as lies between its lines at 0 and at the bleed, by poppler's reading of the print file.
    void aBleedIsPrinted()
    {
        const QString imp = pictures_ + "umbrella-imp.png";
        const auto enclosed = [&](const char* line) {
            const Ran r = batch({"outline", imp, "--width", "60mm", "--line", line, "--tolerance", "0.005mm", "--out", file("area.svg"), "--report", "-"});
            return r.code == 0 ? json(r.out)["lines"][0]["area_mm2"].toDouble() : 0;
        };
        const double wanted = enclosed("through:3mm") - enclosed("through:0mm");
        const Ran r = batch({"sheet", imp, "--width", "60mm", "--copies", "1", "--line", "through:1mm", "--bleed", "3mm", "--bleed-from", "#ff0000", "--print",
                             file("bled.pdf"), "--report", "-"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject report = json(r.out);
        QVERIFY(report["bleed_mm"].toDouble() == 3 && std::abs(report["drift_allowance_mm"].toDouble() - 1) < 0.01 && report["drift_at_mm"].toArray().size() == 2);
        const Ran drawn = run("pdftoppm", {"-r", "200", "-singlefile", file("bled.pdf"), file("bled")});
        QVERIFY2(drawn.code == 0, qPrintable(drawn.err));
        const QByteArray page = read(file("bled.ppm")); // after three words of head, each pixel by three bytes
        qsizetype at = 0;
        for (int line = 0; line < 3; ++line)
            at = page.indexOf('\n', at) + 1;
        double red = 0;
        for (; at > 0 && at + 2 < page.size(); at += 3)
            red += quint8(page[at]) > 230 && quint8(page[at + 1]) < 60 && quint8(page[at + 2]) < 60;
        red *= (25.4 / 200) * (25.4 / 200);
        QVERIFY2(std::abs(red / wanted - 1) < 0.03, qPrintable(QStringLiteral("%1 mm2 for %2").arg(red).arg(wanted)));
        for (const QStringList& wrong : {QStringList{"--bleed", "far"}, {"--bleed", "2mm", "--bleed-from", "rainbow"}, {"--bleed-from", "edge"}, {"--bleed", "-1mm"}}) {
            const Ran bad = batch(QStringList{"outline", imp, "--out", file("bad.svg")} + wrong);
            QVERIFY2(bad.code == 2 && bad.err.count('\n') == 1 && bad.err.contains("--bleed"), qPrintable(bad.err));
        }
    }

    void anExistingFileIsReplacedOnlyByAWholeOne()
    {
        QCOMPARE(batch({"outline", file("text.png"), "--out", file("kept.svg")}).code, 3);
        QCOMPARE(read(file("kept.svg")), QByteArray("before"));
        QCOMPARE(batch({"outline", pictures_ + "river-imp.png", "--out", file("kept.svg")}).code, 0);
        QVERIFY(read(file("kept.svg")).endsWith("</svg>\n"));
        QCOMPARE(batch({"--version"}).code, 0);
        QCOMPARE(batch({"sheet", "--help"}).code, 0);
    }

    // What is read is not written over, by whatever name, and no two outputs are one file.
    void outputsAreApart()
    {
        const QByteArray drawing = "<svg xmlns='http://www.w3.org/2000/svg' width='30mm' height='20mm' viewBox='0 0 30 20'><rect x='2' y='2' width='26' height='16'/></svg>";
        write(file("art.svg"), drawing);
        write(file("list.csv"), "file,copies\nart.svg,2\n");
        QVERIFY(QFile::link(file("art.svg"), file("link.svg")));
        const QList<QStringList> all = {{"outline", file("art.svg"), "--out", file("art.svg")},
                                        {"outline", file("art.svg"), "--out", file("link.svg")},
                                        {"outline", file("art.svg"), "--out", file("x.svg"), "--report", file("../") + QFileInfo(file("x.svg")).dir().dirName() + "/x.svg"},
                                        {"sheet", file("art.svg"), "--print", file("a.pdf"), "--cut", file("a.pdf")},
                                        {"sheet", "--order", file("list.csv"), "--cut", file("art.svg")},
                                        {"sheet", "--order", file("list.csv"), "--report", file("list.csv")}};
        for (const QStringList& args : all) {
            const Ran r = batch(args);
            QVERIFY2(r.code == 2 && r.err.count('\n') == 1 && (r.err.contains("written over") || r.err.contains("written twice")), qPrintable(args.join(' ') + r.err));
        }
        QCOMPARE(read(file("art.svg")), drawing);
        QVERIFY(!QFile::exists(file("a.pdf")));
        // A name that comes to be only with a sheet's number.
        write(file("many-1.svg"), drawing);
        const Ran r = batch({"sheet", file("many-1.svg"), "--copies", "40", "--paper", "A5", "--cut", file("many.svg")});
        QVERIFY2(r.code == 2 && r.err.contains("many-1.svg"), qPrintable(r.err));
        QCOMPARE(read(file("many-1.svg")), drawing);
    }
};

QTEST_GUILESS_MAIN(TestBatch)
#include "test_batch.moc"
