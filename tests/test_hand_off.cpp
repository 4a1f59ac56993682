// What leaves the window and the headless front end: which files, with what in them, by the numbers that were typed.
// Files are read by other people's readers where there are any.

#include "driver.h"

#include "artwork/artwork.h"
#include "desk/hand_off.h"
#include "formats/format.h"

#include <opencv2/imgcodecs.hpp>
#include <QCheckBox>
#include <QDate>
#include <QDir>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QRegularExpression>
#include <QScopeGuard>
#include <QXmlStreamReader>

#include <set>

using namespace yokai;
using namespace yokai::test;

namespace {

Ran batch(const QStringList& args) { return run(QStringLiteral(YOKAI_BATCH), args); }

struct Stroke {
    int pen = 0;
    std::vector<Point> points; // mm, y up
};
std::vector<Stroke> strokesOf(const QByteArray& hpgl)
{
    std::vector<Stroke> out;
    int pen = 0;
    for (const QByteArray& word : hpgl.simplified().split(';')) {
        const QByteArray w = word.trimmed();
        if (w.startsWith("SP"))
            pen = w.mid(2).toInt();
        if (!w.startsWith("PU") && !w.startsWith("PD"))
            continue;
        if (w.startsWith("PU") && w.size() > 2)
            out.push_back({pen, {}});
        const QList<QByteArray> numbers = w.mid(2).split(',');
        for (qsizetype k = 0; k + 1 < numbers.size(); k += 2)
            out.back().points.push_back({numbers[k].toInt() / 40.0, numbers[k + 1].toInt() / 40.0});
    }
    return out;
}

Rect boxOf(const std::vector<Point>& points)
{
    Rect box = Rect::nothing();
    for (const Point p : points)
        box.add(p);
    return box;
}

// The boxes of the pictures on a page, mm from its top left.
Rect inkOf(const cv::Mat& page, double pxAMm)
{
    Rect box = Rect::nothing();
    for (int y = 0; y < page.rows; ++y)
        for (int x = 0; x < page.cols; ++x)
            if (page.at<cv::Vec4b>(y, x)[3] > 128) {
                box.add(Point{x / pxAMm, y / pxAMm});
                box.add(Point{(x + 1) / pxAMm, (y + 1) / pxAMm});
            }
    return box;
}

} // namespace

class TestHandOff : public Driver {
    Q_OBJECT
    std::vector<bool> seen_;
    QString file(const QString& name) const { return dir_.filePath(name); }
    void tick(const char* name, bool on)
    {
        auto* box = find<QCheckBox>(name);
        if (box->isChecked() != on)
            QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
        QCOMPARE(box->isChecked(), on);
    }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { window_.reset(); }

    // Where the first files go: beside the picture, and beside the job once it is saved; a proposed folder that is not there is made.
    void theProposedFolderIsThere()
    {
        drop({square()});
        enter(Station::HandOff);
        auto* where = find<QLineEdit>("hand-folder");
        QCOMPARE(where->text(), dir_.path());
        QVERIFY(QDir().mkpath(file("jobs")));
        window_->files().save(file("jobs/first.yokai"));
        QVERIFY(settled());
        QCOMPARE(where->text(), file("jobs"));
        // In a home where there is nothing yet.
        close();
        QSettings().clear();
        const QByteArray home = qgetenv("HOME");
        qputenv("HOME", file("home").toLocal8Bit());
        const QScopeGuard back([&] { qputenv("HOME", home); });
        open();
        desk().edit("piece", [&](Job& job) { job.pieces.push_back(Piece()), job.pieces.back().artwork.picture = openPicture(square().toStdString()); });
        QVERIFY(settled());
        enter(Station::HandOff);
        const QString proposed = find<QLineEdit>("hand-folder")->text();
        QVERIFY2(proposed.startsWith(file("home")) && !QFile::exists(proposed), qPrintable(proposed));
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Wrote") && !QDir(proposed).isEmpty(), qPrintable(notice()));
    }

    // The ticked files are written and no other; which were ticked is remembered; none ticked, nothing can be written.
    void theTickedFilesAreWritten()
    {
        drop({square()});
        enter(Station::HandOff);
        const QString folder = file("out");
        QVERIFY(QDir().mkpath(folder));
        auto* where = find<QLineEdit>("hand-folder");
        where->setText(folder);
        const std::map<QString, QString> endings{{"hand-print", "-print.pdf"}, {"hand-png", "-print.png"},    {"hand-combined", "-combined.pdf"}, {"hand-eps", "-combined.eps"},
                                                 {"hand-svg", "-cut.svg"},     {"hand-dxf", "-cut.dxf"}, {"hand-hpgl", "-cut.plt"},
                                                 {"hand-combined-svg", "-combined.svg"}, {"hand-proof", "-proof.pdf"}};
        for (const auto& [name, ending] : endings)
            tick(qPrintable(name), name == "hand-png" || name == "hand-hpgl" || name == "hand-eps");
        auto* write = find<QPushButton>("hand-write");
        QVERIFY(write->text().contains("3"));
        QTest::mouseClick(write, Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(QDir(folder).entryList(QDir::Files), QStringList({"square-combined.eps", "square-cut.plt", "square-print.png"}));
        QVERIFY(notice().contains("square-print.png"));
        // They are what the writers make, and their readers see the right size.
        QCOMPARE(readPictureInfo(readFile((folder + "/square-print.png").toStdString()), "print").ppi, 300.0);
        QVERIFY(run("gs", {"-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-sDEVICE=bbox", folder + "/square-combined.eps"}).err.contains("%%HiResBoundingBox"));
        const auto strokes = strokesOf(read(folder + "/square-cut.plt"));
        QCOMPARE(strokes.size(), std::size_t(1));
        const Rect cut = boxOf(strokes[0].points);
        QVERIFY(std::abs(cut.width() - 44) < 0.06 && std::abs(cut.height() - 44) < 0.06 && strokes[0].pen == 1);
        for (const auto& [name, ending] : endings)
            tick(qPrintable(name), false);
        QVERIFY(!write->isEnabled());
        tick("hand-dxf", true);
        QVERIFY(write->isEnabled());
        window_.reset();
        open();
        drop({square()});
        enter(Station::HandOff);
        for (const auto& [name, ending] : endings)
            QCOMPARE(find<QCheckBox>(qPrintable(name))->isChecked(), name == "hand-dxf");
        QSettings().remove("hand-off");
    }

    // Names go by what is typed; what a name may not hold is left out, and two that would be called alike are told apart. All of it
    // is kept under a name and used again, but for what is the printer's and the job's own; names of spots by themselves too.
    void namesAndKeptSettings()
    {
        drop({square()});
        enter(Station::HandOff);
        unfold();
        const QString folder = file("named");
        QVERIFY(QDir().mkpath(folder));
        const char* all[] = {"hand-print", "hand-png", "hand-combined", "hand-eps", "hand-combined-svg", "hand-svg", "hand-dxf", "hand-hpgl", "hand-proof"};
        const auto only = [&](const QStringList& wanted) {
            for (const char* name : all)
                tick(name, wanted.contains(QLatin1String(name)));
        };
        only({"hand-combined", "hand-combined-svg", "hand-svg"});
        type("hand-folder", qPrintable(folder));
        type("hand-names", "{job}:{date}/x");
        type("spot-through", "Knife 7");
        type("spot-white", "Opaque");
        choose("hand-dxf-curves", 2);
        type("kept-hand-off-name", "Wide shop");
        click("kept-hand-off-keep");
        type("kept-spots-name", "Shop's names");
        click("kept-spots-keep");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        const QString day = QDate::currentDate().toString(Qt::ISODate);
        QCOMPARE(QDir(folder).entryList(QDir::Files), QStringList({"square" + day + "x-cut.svg", "square" + day + "x.pdf", "square" + day + "x.svg"}));
        QVERIFY(read(folder + "/square" + day + "x.pdf").contains("Knife#207"));
        // Another job, another window: nothing of it is there until it is used.
        only({"hand-dxf"});
        type("hand-names", "{job}-{what}");
        window_.reset();
        open();
        drop({square()});
        enter(Station::HandOff);
        unfold();
        type("hand-material", "Clear film");
        desk().edit("scale", [](Job& job) { job.handOff.stretchX = 99; });
        QVERIFY(settled());
        QVERIFY(desk().job().handOff.spots == SpotNames());
        click("kept-spots-use");
        QVERIFY(desk().job().handOff.spots.of(LineKind::Through) == "Knife 7" && desk().job().handOff.dxf == DxfCurves::Arcs);
        desk().undo();
        QVERIFY(settled());
        click("kept-hand-off-use");
        const HandOffSpec& now = desk().job().handOff;
        QVERIFY(now.spots.of(LineKind::Through) == "Knife 7" && now.spots.white == "Opaque" && now.dxf == DxfCurves::Splines);
        QVERIFY(now.stretchX == 99 && now.material == "Clear film");
        QCOMPARE(find<QLineEdit>("hand-names")->text(), QStringLiteral("{job}:{date}/x"));
        for (const char* name : all)
            QCOMPARE(find<QCheckBox>(name)->isChecked(), QByteArray(name) == "hand-combined" || QByteArray(name) == "hand-combined-svg" || QByteArray(name) == "hand-svg");
        QSettings().clear();
    }

    // What a pattern makes of names: nothing that leads elsewhere, is hidden, or is longer than a name may be.
    void namesAreSafe()
    {
        const auto all = handoff::deliverables();
        const auto of = [&](const char* id) -> const handoff::Deliverable& {
            return *std::find_if(all.begin(), all.end(), [&](const auto& d) { return QByteArray(d.id) == id; });
        };
        const auto named = [&](const char* pattern, const char* job, int sheet = 0, int sheets = 1) { return handoff::nameOf(pattern, QString::fromUtf8(job), of("hand-svg"), sheet, sheets); };
        QCOMPARE(named("{job}-{what}", "Ferry Nine: stickers"), QStringLiteral("ferry-nine--stickers-cut.svg"));
        QCOMPARE(named("", ""), QStringLiteral("sheet-cut.svg"));
        QCOMPARE(named("../../etc/{what}", "x"), QStringLiteral("etccut.svg"));
        QCOMPARE(named("..", "x"), QStringLiteral("sheet.svg"));
        QCOMPARE(named("a\\b:c\n{what}", "x"), QStringLiteral("abccut.svg"));
        QCOMPARE(named("{job}-{what}", "Fähre 九"), QString::fromUtf8("fähre-九-cut.svg"));
        QCOMPARE(named("{job}", "x", 1, 3), QStringLiteral("x-2.svg"));
        QCOMPARE(named("s{sheet}-{job}", "x", 1, 3), QStringLiteral("s2-x.svg"));
        QCOMPARE(named("s{sheet}", "x", 0, 1), QStringLiteral("s1.svg"));
        QCOMPARE(handoff::nameOf("{job}-{sheet}", "x", of("hand-print"), -1, 3), QStringLiteral("x.pdf"));
        QVERIFY(handoff::nameOf(QString(5'000, 'a'), "x", of("hand-svg"), 0, 1).toUtf8().size() <= 255);
        QVERIFY(handoff::nameOf(QString(5'000, QChar(0x4e5d)), "x", of("hand-svg"), 0, 1).toUtf8().size() <= 255);
        // A file for each sheet, but one of all pages; no two of the same name.
        const auto files = handoff::filesOf("/f", "{job}", "x", {&of("hand-print"), &of("hand-combined"), &of("hand-proof"), &of("hand-svg"), &of("hand-combined-svg")}, 2);
        std::set<QString> paths;
        for (const handoff::File& f : files)
            paths.insert(f.path);
        QCOMPARE(files.size(), std::size_t(7));
        QCOMPARE(paths, std::set<QString>({"/f/x.pdf", "/f/x-combined.pdf", "/f/x-proof.pdf", "/f/x-1.svg", "/f/x-2.svg", "/f/x-combined-1.svg", "/f/x-combined-2.svg"}));
    }

    // A row of what is in the files, pressed, shows that plate alone on the bench; Escape shows all again. Leaving the station does too.
    void eachPlateIsShownByItself()
    {
        drop({square()});
        desk().edit("plates", [](Job& job) {
            job.pieces[0].underprint().on = true;
            job.pieces[0].lines() = {{LineKind::Through, 3_mm}, {LineKind::Kiss, -(5_mm)}};
            job.pieces[0].copies = 1;
        });
        QVERIFY(settled());
        enter(Station::HandOff);
        auto* list = window_->findChild<SideList*>();
        const auto press = [&](const QString& row) {
            for (int k = 0; k < list->model()->rowCount(); ++k)
                if (const QModelIndex index = list->model()->index(k, 0); index.data(Qt::AccessibleTextRole).toString().startsWith(row)) {
                    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualRect(index).center());
                    return true;
                }
            return false;
        };
        const Layout& sheet = desk().shown()->derived.sheet;
        const Point middle = sheet.placements[0].toSheet({30, 30}), mark = sheet.marks[0].centre;
        // Where the square is dark, its kiss line, its through line, a mark.
        const auto seen = [&] {
            QVERIFY2(settled(), "not settled");
            QTest::qWait(200);
            const QImage image = window_->bench().grab().toImage();
            const auto dark = [&](Point mm) {
                int most = 0;
                const QPoint at = onBench(QPointF(mm.x, mm.y));
                for (int y = -1; y <= 1; ++y)
                    for (int x = -1; x <= 1; ++x)
                        most = std::max(most, 255 - qGray(image.pixel(at + QPoint(x, y))));
                return most > 60;
            };
            seen_ = {dark(middle), dark({middle.x - 15, middle.y}), dark({middle.x - 23, middle.y}), dark(mark)};
        };
        using Seen = std::vector<bool>;
        seen();
        QCOMPARE(seen_, Seen({true, true, true, true}));
        QVERIFY(press("1 copies") || press("1 copy"));
        seen();
        QCOMPARE(seen_, Seen({true, true, false, false}));
        QVERIFY(press("White"));
        seen();
        QCOMPARE(seen_, Seen({true, true, false, false}));
        QVERIFY(press("Through"));
        seen();
        QCOMPARE(seen_, Seen({false, false, true, false}));
        QVERIFY(press("Kiss"));
        seen();
        QCOMPARE(seen_, Seen({false, true, false, false}));
        QVERIFY(press(QStringLiteral("%1 marks").arg(sheet.marks.size())));
        seen();
        QCOMPARE(seen_, Seen({false, false, false, true}));
        QTest::keyClick(&window_->bench(), Qt::Key_Escape);
        seen();
        QCOMPARE(seen_, Seen({true, true, true, true}));
    }
    // The proof from the window, and the same from the headless front end: whose work, of what, and the job's own words.
    void theProofIsWritten()
    {
        drop({square()});
        enter(Station::HandOff);
        unfold();
        for (const char* name : {"hand-print", "hand-png", "hand-combined", "hand-eps", "hand-combined-svg", "hand-svg", "hand-dxf", "hand-hpgl", "hand-proof"})
            tick(name, name == QByteArray("hand-proof"));
        const QString folder = file("proofs");
        QVERIFY(QDir().mkpath(folder));
        type("hand-folder", qPrintable(folder));
        type("hand-maker", "Ferry Nine");
        type("hand-logo", qPrintable(square()));
        type("hand-material", "Birch ply");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        const QString said = run("pdftotext", {"-layout", folder + "/square-proof.pdf", "-"}).out;
        for (const char* words : {"Ferry Nine", "Birch ply", "Proof", "Through", "copies", "60.00"})
            QVERIFY2(said.contains(words), qPrintable(said));
        QVERIFY(run("pdfimages", {"-list", folder + "/square-proof.pdf"}).out.count("image") >= 2); // the picture and the logo
        type("hand-logo", "/nowhere/logo.png");
        QFile::remove(folder + "/square-proof.pdf");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("logo.png") && !QFile::exists(folder + "/square-proof.pdf"), qPrintable(notice()));
        const Ran made = batch({"sheet", square(), "--copies", "3", "--proof", folder + "/batch.pdf", "--maker", "Ferry Nine", "--material", "Birch ply"});
        QVERIFY2(made.code == 0, qPrintable(made.err));
        QVERIFY(run("pdftotext", {"-layout", folder + "/batch.pdf", "-"}).out.contains("3 copies"));
        QVERIFY(batch({"sheet", square(), "--proof", folder + "/batch.svg"}).err.contains("does not end in .pdf"));
        QSettings().clear();
    }

    // The printer's scale, typed, is undone in the print and nowhere else; the resolution and the hairline are what was typed.
    void typedNumbersReachTheFiles()
    {
        drop({square()});
        enter(Station::HandOff);
        unfold();
        type("hand-stretch-x", "183.6"); // of 180 mm
        type("hand-stretch-y", "254.8"); // of 260 mm
        type("hand-ppi", "127"); // five pixels a mm
        type("hand-hairline", "0.1mm");
        QVERIFY(std::abs(desk().job().handOff.stretchX - 102) < 1e-6 && std::abs(desk().job().handOff.stretchY - 98) < 1e-6 && desk().job().handOff.hairline == 100_um);
        const QString folder = file("typed");
        QVERIFY(QDir().mkpath(folder));
        find<QLineEdit>("hand-folder")->setText(folder);
        for (const char* name : {"hand-print", "hand-png", "hand-combined", "hand-eps", "hand-combined-svg", "hand-svg", "hand-dxf", "hand-hpgl", "hand-proof"})
            tick(name, name == QByteArray("hand-png") || name == QByteArray("hand-svg"));
        desk().edit("no marks", [](Job& job) { job.sheet.marks.style = MarkStyle::None; });
        QVERIFY(settled());
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        const cv::Mat page = cv::imread((folder + "/square-print.png").toStdString(), cv::IMREAD_UNCHANGED);
        QVERIFY(page.cols == 1050 && page.rows == 1485);
        const Rect ink = inkOf(page, 5);
        QVERIFY2(std::abs(ink.width() - 40 / 1.02) < 0.3 && std::abs(ink.height() - 40 / 0.98) < 0.3, qPrintable(QString("%1 x %2").arg(ink.width()).arg(ink.height())));
        const QByteArray svg = read(folder + "/square-cut.svg");
        QVERIFY(svg.contains("stroke-width=\"0.1\""));
        QSettings().remove("hand-off");
    }

    // The same without a window: what each option does to the files, and what is refused with which word.
    void optionsReachTheFiles()
    {
        const QStringList sheet{"sheet", square(), "--copies", "1", "--marks", "none"};
        Ran r = batch(sheet + QStringList{"--print", file("p.png"), "--print-ppi", "127", "--stretch", "102,98", "--cut", file("c.svg"), "--hairline", "0.2mm"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const Rect ink = inkOf(cv::imread(file("p.png").toStdString(), cv::IMREAD_UNCHANGED), 5);
        QVERIFY(std::abs(ink.width() - 40 / 1.02) < 0.3 && std::abs(ink.height() - 40 / 0.98) < 0.3);
        QVERIFY(read(file("c.svg")).contains("stroke-width=\"0.2\""));
        QCOMPARE(batch(sheet + QStringList{"--cut", file("d.svg")}).code, 0);
        QVERIFY(read(file("d.svg")).contains("stroke-width=\"0.0254\""));
        QCOMPARE(read(file("d.svg")).replace("0.0254", "0.2"), read(file("c.svg"))); // the cut is not stretched
        // All formats, in one go.
        r = batch(sheet + QStringList{"--out", file("a.svg"), "--out", file("a.pdf"), "--out", file("a.eps"), "--out", file("a.dxf"), "--out", file("a.plt"), "--out", file("a.png"), "--out", file("a.gcode"), "--out", file("a.yokai")});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        for (const Format& format : formats())
            QVERIFY2(QFileInfo(file(QString("a") + format.extension)).size() > 100, format.extension);
        const Job job = openProject(file("a.yokai").toStdString());
        QVERIFY(job.pieces.size() == 1 && job.pieces[0].copies == 1 && job.sheet.marks.style == MarkStyle::None);
        // The job that was written gives the same cut again.
        QCOMPARE(batch({"sheet", file("a.yokai"), "--cut", file("e.svg")}).code, 0);
        QCOMPARE(read(file("e.svg")), read(file("d.svg")));
        // One line of an outline, alone: its corner is the picture's.
        QCOMPARE(batch({"outline", square(), "--line", "kiss:1mm", "--out", file("o.plt")}).code, 0);
        const auto strokes = strokesOf(read(file("o.plt")));
        QVERIFY(strokes.size() == 1 && strokes[0].pen == 2);
        const Rect cut = boxOf(strokes[0].points);
        QVERIFY(std::abs(cut.x0 - 9) < 0.06 && std::abs(cut.y0 - 9) < 0.06 && std::abs(cut.x1 - 51) < 0.06 && std::abs(cut.y1 - 51) < 0.06);
        const QList<QStringList> refused{{"--stretch", "102"}, {"--stretch", "50,100"}, {"--stretch", "a,b"}, {"--hairline", "5mm"}, {"--hairline", "wide"}, {"--print-ppi", "0"}, {"--print-ppi", "9999"}};
        for (const QStringList& more : refused) {
            const Ran bad = batch(sheet + QStringList{"--print", file("never.png")} + more);
            QVERIFY2(bad.code == 2 && bad.err.count('\n') == 1 && bad.err.contains(more[0]) && !QFile::exists(file("never.png")), qPrintable(more.join(' ') + ": " + bad.err));
        }
        const Ran large = batch({"sheet", square(), "--copies", "1", "--paper", "A0", "--print", file("never.png"), "--print-ppi", "1200"});
        QVERIFY2(large.code == 2 && large.err.contains("lower resolution") && !QFile::exists(file("never.png")), qPrintable(large.err));
    }

    // The schema verb prints what is in docs/; a job's text holds what it says of it.
    void theSchemaIsPrinted()
    {
        const Ran r = batch({"schema"});
        QCOMPARE(r.code, 0);
        QCOMPARE(r.out.toUtf8(), read(QFINDTESTDATA("../docs/job.schema.json")));
        const QJsonObject schema = QJsonDocument::fromJson(r.out.toUtf8()).object();
        const QJsonObject properties = schema["properties"].toObject();
        for (const char* name : {"name", "pieces", "sheet", "placings", "hand_off", "cut", "check", "nested"})
            QVERIFY2(properties.contains(name), name);
        const QJsonObject hand = properties["hand_off"]["properties"].toObject();
        QCOMPARE(hand["ppi"]["maximum"].toDouble(), 2400.0);
        QCOMPARE(hand["hairline"]["maximum"].toInt(), 360'000); // a millimetre, in ticks
    }

    // Several sheets are numbered in every format, and each has its own copies; existing files are asked about once.
    void sheetsAreNumbered()
    {
        drop({square()});
        desk().editPiece("many", [](Piece& p) { p.copies = 60; });
        desk().edit("small", [](Job& job) {
            job.sheet.gap = 2_mm;
            job.name = "Many squares";
        });
        QVERIFY(settled());
        const int sheets = desk().shown()->derived.sheet.sheets;
        QVERIFY(sheets > 1);
        enter(Station::HandOff);
        const QString folder = file("many");
        QVERIFY(QDir().mkpath(folder));
        find<QLineEdit>("hand-folder")->setText(folder);
        for (const char* name : {"hand-print", "hand-png", "hand-combined", "hand-eps", "hand-combined-svg", "hand-svg", "hand-dxf", "hand-hpgl", "hand-proof"})
            tick(name, name == QByteArray("hand-hpgl"));
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        std::size_t copies = 0;
        for (int s = 1; s <= sheets; ++s)
            copies += strokesOf(read(folder + QString("/many-squares-cut-%1.plt").arg(s))).size();
        QCOMPARE(copies, std::size_t(60));
        const QByteArray before = read(folder + "/many-squares-cut-1.plt");
        desk().editLine("wider", [](LineSpec& line) { line.offset = 1_mm; });
        QVERIFY(settled());
        answer("replace-files", "Go back");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled() && answered_);
        QCOMPARE(read(folder + "/many-squares-cut-1.plt"), before);
        answer("replace-files", "Replace");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled() && answered_);
        QVERIFY(read(folder + "/many-squares-cut-1.plt") != before);
        QSettings().remove("hand-off");
    }

    // A piece that was mirrored, turned or moved by hand lies in every file where the bench shows it.
    void handPlacedCopiesLieWhereTheyAre()
    {
        drop({square()});
        desk().edit("place", [](Job& job) {
            Placing placing;
            placing.id = PlacingId{std::uint32_t(++job.ids)};
            placing.piece = job.pieces[0].id;
            placing.x = 120_mm;
            placing.y = 70_mm;
            placing.turn = 45;
            job.placings = {placing};
            job.sheet.marks.style = MarkStyle::None;
        });
        QVERIFY(settled());
        const Job job = desk().job();
        const Drawing drawing = drawSheet(job, desk().shown()->derived, 0);
        const auto stroke = strokesOf([&] {
            const Bytes b = written(*formatOf("x.plt"), drawing, Content::Cut);
            return QByteArray(reinterpret_cast<const char*>(b.data()), qsizetype(b.size()));
        }());
        QCOMPARE(stroke.size(), std::size_t(1));
        const Rect cut = boxOf(stroke[0].points);
        const Point middle{120, 297 - 70};
        QVERIFY(distance(cut.centre(), middle) < 0.05);
        // A square of 40 mm grown by 2 mm with round corners, on its corner.
        const double across = 40 * std::sqrt(2.0) + 4;
        QVERIFY2(std::abs(cut.width() - across) < 0.1 && std::abs(cut.height() - across) < 0.1, qPrintable(QString::number(cut.width())));
        Drawing coarse = drawing;
        coarse.ppi = 127;
        const Bytes png = written(*formatOf("x.png"), coarse, Content::Print);
        const cv::Mat page = cv::imdecode(png, cv::IMREAD_UNCHANGED);
        const Rect ink = inkOf(page, 5);
        QVERIFY(distance(ink.centre(), {120, 70}) < 0.3 && std::abs(ink.width() - 40 * std::sqrt(2.0)) < 0.5);
        // On the diagonal's ends there is ink, in the box's corners none.
        const auto alpha = [&](Point mm) { return page.at<cv::Vec4b>(int(mm.y * 5), int(mm.x * 5))[3]; };
        QVERIFY(alpha({120, 70 - 27}) > 200 && alpha({120 + 27, 70}) > 200 && alpha({120 + 20, 70 + 20}) == 0);
    }
};

DRIVEN_MAIN(TestHandOff)
#include "test_hand_off.moc"
