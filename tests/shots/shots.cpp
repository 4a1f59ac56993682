// Takes a picture of each main view of the demo job, by driving the real window.
//   yokai-shots JOB FOLDER [--dark] [--text PX] [--only NAME] [--suffix TEXT]

#include "bench/bench.h"
#include "desk/jogging.h"
#include "desk/machining.h"
#include "desk/piece_edits.h"
#include "job/colour_layers.h"
#include "machine/library.h"
#include "main_window.h"
#include "theme/theme.h"

#include <QApplication>
#include <QDialog>
#include <QDir>
#include <QElapsedTimer>
#include <QFileDialog>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTest>
#include <QTimer>

using namespace yokai;

namespace {

bool settle(Desk& desk, int ms = 60'000)
{
    QElapsedTimer waited;
    waited.start();
    do
        QTest::qWait(20);
    while ((desk.busy() || desk.machining().busy() || !desk.upToDate() || (desk.shown() && desk.shown()->nesting)) && waited.elapsed() < ms);
    QTest::qWait(150);
    return desk.upToDate() && !desk.busy() && !desk.machining().busy();
}

// Where the bed's corners are in it, nearest left first, round.
QPolygonF photographed(const BedPicture& bed, const Machine& machine, const QString& file)
{
    const double w = machine.bed.width.mm(), d = machine.bed.depth.mm();
    const QTransform toView(bed.pxPerMm, 0, 0, -bed.pxPerMm, -bed.corner.x * bed.pxPerMm, bed.corner.y * bed.pxPerMm);
    const QPolygonF corners({{330, 2650}, {3420, 2770}, {3190, 260}, {520, 330}});
    QTransform slant, onBed;
    QTransform::quadToQuad(toView.map(QPolygonF({{0, 0}, {w, 0}, {w, d}, {0, d}})), corners, slant);
    QTransform::quadToQuad(QPolygonF({{0, 0}, {w, 0}, {w, d}, {0, d}}), corners, onBed);
    QImage photo(3700, 3000, QImage::Format_RGB32);
    photo.fill(QColor(96, 84, 70));
    QPainter p(&photo);
    p.setRenderHints(QPainter::SmoothPixmapTransform | QPainter::Antialiasing);
    p.setTransform(onBed);
    p.fillRect(QRectF(0, 0, w, d), QColor(64, 68, 74));
    p.setTransform(slant);
    p.drawImage(QPointF(), bed.image);
    p.end();
    photo.save(file);
    return corners;
}

bool writeLines(const QString& path)
{
    QFile file(path);
    return file.open(QIODevice::WriteOnly) && file.write("<svg xmlns='http://www.w3.org/2000/svg' width='180' height='120'><rect x='10' y='10' width='160' height='100' rx='20'/></svg>") > 0;
}

} // namespace

int main(int argc, char** argv)
{
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    QApplication::setOrganizationName(QStringLiteral("yokai-shots"));
    QSettings().clear();
    theme::install(app);
    const QStringList args = QApplication::arguments();
    theme::setTextSize(args.contains("--text") ? args.value(args.indexOf("--text") + 1).toInt() : theme::usualText);
    if (args.size() < 3) {
        qWarning("yokai-shots JOB FOLDER [--dark] [--text PX] [--only NAME] [--suffix TEXT]");
        return 2;
    }
    const QString only = args.contains("--only") ? args.value(args.indexOf("--only") + 1) : QString();
    const QString suffix = args.contains("--suffix") ? args.value(args.indexOf("--suffix") + 1) : QString();
    QDir().mkpath(args[2]);
    MainWindow window;
    if (args.contains("--dark"))
        theme::setDark(true);
    window.show();
    Desk& desk = window.desk();
    bool good = true;
    const auto shot = [&](const QString& name) {
        if (!only.isEmpty() && only != name)
            return;
        QTest::qWait(400); // the bench is drawn on a thread of its own
        good &= window.grab().save(QStringLiteral("%1/%2%3.png").arg(args[2], name, suffix));
    };
    QTest::qWait(100);
    shot("empty");
    if (only == "scan") { // of a scanner that SANE is set up with
        window.findChild<QAction*>("scan")->trigger();
        auto* dialog = window.findChild<QDialog*>("scan", Qt::FindDirectChildrenOnly);
        auto* preview = dialog->findChild<QPushButton*>("scan-preview");
        good &= QTest::qWaitFor([&] { return preview->isEnabled(); }, 20'000);
        preview->click();
        good &= QTest::qWaitFor([&] { return preview->isEnabled(); }, 20'000);
        QTest::qWait(200);
        good &= dialog->grab().save(QStringLiteral("%1/scan%2.png").arg(args[2], suffix));
        return good ? 0 : 1;
    }
    if (args[1] != "-")
        window.files().open({args[1]});
    good &= settle(desk);
    const struct {
        const char* name;
        Station station;
        int piece;
    } views[] = {{"artwork", Station::Artwork, 1}, {"keep", Station::Keep, 2},   {"cut-lines", Station::CutLines, 0}, {"touch-up", Station::TouchUp, 0},
                 {"bleed", Station::Bleed, 2},     {"sheet", Station::Sheet, 0}, {"hand-off", Station::HandOff, 0}};
    for (const auto& v : views) {
        desk.setPiece(v.piece);
        desk.setStation(v.station);
        if (v.station == Station::HandOff)
            window.findChild<QLineEdit*>("hand-folder")->setText(QStringLiteral("Ferry Nine/stickers"));
        if (v.station == Station::Keep && desk.layerResult() && desk.layerResult()->parts && desk.layerResult()->parts->all.size() > 1)
            desk.select(PartsSelected{{1}});
        settle(desk);
        shot(v.name);
    }
    if (desk.currentLayer()->engrave) { // and so has one that is engraved
        desk.setPiece(0);
        desk.setStation(Station::Bleed);
        settle(desk);
        shot("engrave");
        if (only == "cut-engrave") {
            desk.setStation(Station::Cut);
            settle(desk);
            shot(only);
        }
        return good ? 0 : 1;
    }
    if (isLayered(*desk.currentPiece())) { // a job of colour layers has views of its own
        desk.setStation(Station::Keep);
        desk.setLayer(desk.currentPiece()->layers[desk.currentPiece()->layers.size() / 2].id);
        settle(desk);
        shot("layers");
        Hand hand = desk.hand();
        hand.lifts = true;
        desk.setHand(hand);
        settle(desk);
        shot("layers-lifted");
        return good ? 0 : 1;
    }
    if (only == "drawing-units") { // asked of a drawing that says no size
        const QString drawing = QDir(args[2]).absoluteFilePath(QStringLiteral("lines.svg"));
        good &= writeLines(drawing);
        desk.setPiece(0);
        desk.setStation(Station::CutLines);
        settle(desk);
        QTimer answers;
        QObject::connect(&answers, &QTimer::timeout, [&] {
            auto* modal = QApplication::activeModalWidget();
            if (auto* files = qobject_cast<QFileDialog*>(modal)) {
                files->findChild<QLineEdit*>()->setText(drawing);
                QMetaObject::invokeMethod(files, "accept");
            } else if (auto* question = qobject_cast<QDialog*>(modal)) {
                answers.stop();
                good &= question->grab().save(QStringLiteral("%1/drawing-units%2.png").arg(args[2], suffix));
                question->reject();
            }
        });
        answers.start(300);
        window.findChild<QAbstractButton*>("line-drawing")->click();
        good &= QTest::qWaitFor([&] { return !answers.isActive(); }, 20'000);
        return good ? 0 : 1;
    }
    if (only == "artwork-tilt") {
        desk.setPiece(0);
        desk.setStation(Station::Artwork);
        settle(desk);
        window.findChild<QAbstractButton*>("artwork-tilt")->click();
        shot(only);
        return good ? 0 : 1;
    }
    desk.setPiece(2);
    desk.setStation(Station::TouchUp);
    settle(desk);
    desk.editPiece("guide", [](Piece& piece) { piece.guides.push_back({{}, {0, 150}, {10, 150}}); });
    desk.hold(Hold::AddArea);
    Hand drawing = desk.hand();
    drawing.drawnAs = DrawnAs::Lines;
    drawing.sketch = {{{34, 20}, {44, 14}, {50, 24}}, {{34, 20}, {44, 14}, {50, 24}}};
    desk.setHand(drawing);
    settle(desk);
    shot("touch-up-drawing");
    desk.hold(Hold::AddArea);
    desk.undo();
    desk.setPiece(1);
    desk.setStation(Station::Artwork);
    desk.hold(Hold::Frame);
    settle(desk);
    shot("artwork-crop");
    desk.setStation(Station::Keep);
    desk.hold(Hold::RubOut);
    edits::brush(desk, {{2, 24}, {6, 33}, {10, 38}});
    desk.hold(Hold::RubOut);
    settle(desk);
    desk.select(EditSelected{desk.currentLayer()->keep.touches[0].id});
    shot("keep-by-hand");
    desk.undo();
    desk.setStation(Station::Cut);
    settle(desk);
    if (only.isEmpty() || only == "cut-machine") {
        desk.edit("machine", [](Job& job) {
            job.cut.plan.machine = sampleMachines().front();
            job.cut.plan.material = sampleMaterials().front();
            job.cut.plan.sheetX = job.cut.plan.sheetY = 25_mm;
        });
        settle(desk);
        window.findChild<QPushButton*>("cut-run")->click();
        good &= settle(desk);
        good &= desk.testCut() != nullptr;
        shot("cut-machine");
        desk.undo();
    }
    // The marks found before anything is cut, and the cut while it goes on.
    if (only.isEmpty() || only == "cut-marks" || only == "cut-running" || only == "cut-stopped") {
        desk.edit("machine", [](Job& job) {
            job.cut.plan.machine = sampleMachines().front();
            job.cut.plan.material = sampleMaterials().front();
            job.cut.plan.sheetX = job.cut.plan.sheetY = 25_mm;
            job.cut.standIn.trueTime = true;
        });
        settle(desk);
        window.findChild<QPushButton*>("cut-find")->click();
        good &= settle(desk);
        good &= desk.machining().onBed().fit.has_value();
        shot("cut-marks");
        window.findChild<QPushButton*>("cut-run")->click();
        constexpr int someSeconds = 25'000; // ms: into the second operation
        QTest::qWait(someSeconds);
        shot("cut-running");
        desk.machining().stop();
        good &= settle(desk);
        if (only == "cut-stopped")
            shot(only);
        desk.undo();
    }
    // A photo of the bed with its corners shown, as a camera at the side would take it of what the stand-in has.
    if (only.isEmpty() || only == "cut-photo") {
        desk.edit("by picture", [](Job& job) {
            job.cut.plan.machine = sampleMachines()[2];
            job.cut.plan.sheetX = 60_mm;
            job.cut.plan.sheetY = 40_mm;
        });
        settle(desk);
        desk.machining().findMarks();
        settle(desk);
        good &= desk.machining().onBed().picture != nullptr;
        const QString file = QStringLiteral("%1/photo.png").arg(QDir::tempPath());
        const QPolygonF corners = photographed(*desk.machining().onBed().picture, *desk.job().cut.plan.machine, file);
        desk.edit("by picture", [](Job& job) { job.cut.marksBy = MarksBy::Picture; });
        settle(desk);
        desk.machining().openPhoto(file);
        settle(desk);
        for (std::size_t k = 0; k < 4; ++k)
            desk.machining().setCorner(k, {corners[int(k)].x(), corners[int(k)].y()});
        settle(desk);
        shot("cut-photo");
        QFile::remove(file);
        desk.undo();
        desk.undo();
        desk.machining().forgetMarks();
    }
    if (only.isEmpty() || only == "cut-by-hand") {
        desk.edit("by hand", [](Job& job) {
            job.cut.plan.machine = sampleMachines().front();
            job.cut.plan.sheetX = job.cut.plan.sheetY = 25_mm;
        });
        settle(desk);
        desk.machining().findMarks();
        settle(desk);
        const std::vector<MarkPair> true_ = desk.machining().onBed().pairs();
        desk.machining().forgetMarks();
        desk.edit("by hand", [](Job& job) { job.cut.marksBy = MarksBy::Hand; });
        settle(desk);
        for (std::size_t mark = 0; mark < 4; ++mark) {
            edits::goNearMark(desk);
            settle(desk);
            const auto tenths = [](double mm) { return std::round(mm * 10) / 10; };
            const Point off = true_[mark].measured - desk.machining().onBed().head->at;
            desk.machining().jog({tenths(off.x), tenths(off.y)});
            settle(desk);
            edits::takeMark(desk);
        }
        edits::goNearMark(desk);
        settle(desk);
        shot("cut-by-hand");
        desk.undo();
        desk.undo();
    }
    if (only == "cut-operation" || only == "cut-patch") {
        desk.edit("machine", [](Job& job) {
            job.cut.plan.machine = sampleMachines().front();
            job.cut.plan.material = sampleMaterials().front();
            job.cut.plan.sheetX = job.cut.plan.sheetY = 25_mm;
        });
        settle(desk);
        window.findChild<QAbstractButton*>(only == "cut-patch" ? "fold-cut-patch" : "fold-cut-operation")->setChecked(true);
        desk.select(OperationSelected{5});
        settle(desk);
        if (only == "cut-patch") {
            desk.machining().cutPatch();
            settle(desk);
            desk.machining().choosePatch(7);
        }
        QTest::qWait(300);
        shot(only);
        window.findChild<QAbstractButton*>(only == "cut-patch" ? "fold-cut-patch" : "fold-cut-operation")->setChecked(false);
        desk.undo();
    }
    for (const bool fitted : {true, false}) {
        const QString name = fitted ? "cut" : "cut-without-fit";
        if (!only.isEmpty() && only != name)
            continue;
        if (desk.job().cut.useFit != fitted)
            desk.edit("fit", [&](Job& job) { job.cut.useFit = fitted; });
        settle(desk);
        window.findChild<QPushButton*>("cut-run")->click();
        good &= settle(desk);
        good &= desk.testCut() != nullptr;
        shot(name);
    }
    return good ? 0 : 1;
}
