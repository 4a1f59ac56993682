// The Cut station at work on a machine: a stand-in of its own at a port, reached as any machine is. Marks found, tried, cut, held,
// stopped and gone on with, by the window's own buttons and keys.

#include "device/gcode_machine.h"
#include "device/stand_in.h"
#include "driver.h"
#include "desk/operation_edits.h"
#include "formats/machine/own_files.h"
#include "formats/pdf/pdf.h"
#include "formats/program/program.h"
#include "machine/library.h"
#include "run.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QInputDialog>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QMenu>
#include <QProcess>
#include <QStandardPaths>

#include <csignal>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

class TestMachining : public Driver {
    Q_OBJECT

    std::unique_ptr<StandIn> there_;
    QString file(const QString& name) const { return dir_.filePath(name); }
    Machining& machining() { return desk().machining(); }
    const OnBed& bed() { return machining().onBed(); }

    // Six boxes on a sheet, for the machine that is chosen; and that machine at a port, with the sheet printed and laid in.
    // Where it is laid in from where the job says.
    Point strays_;
    void sheetOnMachine(QStringList options = {}, const QString& lies = "1.002,0.999,0.8,0.1", int machineRow = 1, Point strays = {1.5, -0.9})
    {
        strays_ = strays;
        drop({square()});
        enter(Station::Sheet);
        type("sheet-copies", "6");
        enter(Station::Cut);
        choose("cut-machine", machineRow);
        const PlanSpec& plan = desk().job().cut.plan;
        const QString askew = QStringLiteral("%1,%2,%3").arg(lies).arg(plan.sheetX.mm() + strays_.x).arg(plan.sheetY.mm() + strays_.y);
        const Bytes machine = writeMachine(*desk().job().cut.plan.machine), print = writePdf(drawSheet(desk().job(), desk().shown()->derived, 0, Content::Print, {}), Content::Print, {});
        writeFile(file("machine.json").toStdString(), machine);
        writeFile(file("print.pdf").toStdString(), print);
        options << "--machine=" + file("machine.json") << "--sheet=" + file("print.pdf") << "--askew=" + askew << "--link=" + file("port") << "--report=" + file("report.json") << "--picture=" + file("cut.png");
        there_ = std::make_unique<StandIn>(YOKAI_STANDIN, options);
        port(there_->port());
    }
    // As a maker types it.
    void port(const QString& name)
    {
        QTimer typed;
        connect(&typed, &QTimer::timeout, this, [&] {
            if (auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget())) {
                typed.stop();
                dialog->setTextValue(name);
                dialog->accept();
            }
        });
        typed.start(10);
        auto* box = find<QComboBox>("cut-port");
        box->setCurrentIndex(box->count() - 1);
        emit box->activated(box->count() - 1);
        QCOMPARE(machining().port(), name);
        QCOMPARE(box->currentText(), name);
    }
    // What the stand-in did, once it is ended.
    QJsonArray cuts()
    {
        there_.reset();
        const Bytes bytes = readFile(file("report.json").toStdString());
        return QJsonDocument::fromJson(QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size()))).object()["cuts"].toArray();
    }
    double cutLength()
    {
        double out = 0;
        for (const QJsonValue cut : cuts()) {
            const QJsonArray p = cut.toObject()["sheet_mm"].toArray();
            for (qsizetype k = 1; k < p.size(); ++k)
                out += std::hypot(p[k].toArray()[0].toDouble() - p[k - 1].toArray()[0].toDouble(), p[k].toArray()[1].toDouble() - p[k - 1].toArray()[1].toDouble());
        }
        return out;
    }
    double plannedLength()
    {
        double out = 0;
        for (const Planned::Line& line : bed().planned->lines)
            for (std::size_t k = 1; k < line.points.size(); ++k)
                out += distance(line.points[k - 1], line.points[k]);
        return out;
    }
    // Selects a row of the side list as a press does.
    // The one file that is kept there; empty: none.
    std::filesystem::path kept(const char* folder)
    {
        std::filesystem::path out;
        if (std::filesystem::exists(ownFolder() / folder))
            for (const auto& entry : std::filesystem::directory_iterator(ownFolder() / folder))
                out = entry.path();
        return out;
    }
    QString row(const QString& beginning)
    {
        auto* list = window_->findChild<SideList*>();
        for (int k = 0; k < list->model()->rowCount(); ++k)
            if (const SideRow& r = list->rowAt(list->model()->index(k, 0)); r.title.startsWith(beginning))
                return r.title + " | " + r.detail;
        return {};
    }

    void chooseBy(int index)
    {
        auto* by = find<Segmented>("cut-marks-by");
        by->setFocus();
        while (by->current() != index)
            QTest::keyClick(by, by->current() < index ? Qt::Key_Right : Qt::Key_Left);
        QVERIFY(settled());
        QCOMPARE(int(desk().job().cut.marksBy), index);
    }
    // Where the sheet lies as sheetOnMachine() laid it: stretched, skewed, turned, moved.
    Point onBed(Point design)
    {
        const double turn = 0.8 * std::numbers::pi / 180, skew = 0.1 * std::numbers::pi / 180;
        const Layout& sheet = desk().shown()->derived.sheet;
        const Point middle{sheet.width / 2, sheet.height / 2}, off = design - middle;
        const Point p{1.002 * off.x + 0.999 * std::sin(skew) * off.y, 0.999 * std::cos(skew) * off.y};
        const PlanSpec& plan = desk().job().cut.plan;
        return Affine::turn(turn)(p) + middle + Point{plan.sheetX.mm(), plan.sheetY.mm()} + strays_;
    }
    // The bed of 10 px a mm from a camera at the side: a projective picture of what the stand-in's camera sees.
    QPolygonF photoCorners_;
    QString slantedPhoto()
    {
        GcodeMachine machine(there_->port());
        machine.greet({});
        const auto view = machine.figures("$YVIEW=" + file("view.png"), "VIEW", 3, {});
        const QImage seen(file("view.png"));
        const Machine& m = *desk().job().cut.plan.machine;
        const double w = m.bed.width.mm(), d = m.bed.depth.mm();
        QTransform toView = QTransform(view[2], 0, 0, -view[2], -view[0] * view[2], view[1] * view[2]), slant;
        const QPolygonF bed({{0, 0}, {w, 0}, {w, d}, {0, d}}), inPhoto({{310, 3650}, {2700, 3720}, {2560, 190}, {420, 260}});
        if (!QTransform::quadToQuad(toView.map(bed), inPhoto, slant))
            qFatal("no such view");
        QImage photo(3000, 4000, QImage::Format_RGB32);
        photo.fill(QColor(70, 60, 50));
        QPainter p(&photo);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.setTransform(slant);
        p.drawImage(QPointF(), seen);
        p.end();
        photo.save(file("photo.png"));
        photoCorners_ = inPhoto;
        return file("photo.png");
    }

private slots:
    void initTestCase()
    {
        start();
        qputenv("XDG_DATA_HOME", dir_.path().toUtf8());
    }
    void init()
    {
        // A cut that a test left behind is none of the next one's.
        std::filesystem::remove_all((QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + "/cut").toStdString());
        open();
    }
    void cleanup()
    {
        close();
        there_.reset();
        QSettings().clear();
        std::filesystem::remove_all(ownFolder());
    }

    // Find, run round, try with the tool up, cut; each shows what it did, and only the cut cuts.
    void findTryAndCut()
    {
        sheetOnMachine();
        QTRY_VERIFY(bed().planned);
        QVERIFY2(row("Outer through").contains(" g"), qPrintable(row("Outer through"))); // all settings at a glance
        QVERIFY(!find<QPushButton>("cut-round")->isEnabled());
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        QVERIFY(std::abs(bed().fit->turn - 0.8) < 0.03);
        QCOMPARE(bed().pairs().size(), desk().shown()->derived.sheet.marks.size());
        QVERIFY2(row("Mark 2").contains("found at"), qPrintable(row("Mark 2")));
        click("cut-round");
        click("cut-faint");
        QVERIFY2(notice().isEmpty() || !notice().contains("error"), qPrintable(notice()));
        QVERIFY(bed().head && !bed().under);
        const double planned = plannedLength();
        click("cut-run");
        QVERIFY2(notice().contains("Cut: "), qPrintable(notice()));
        const double cut = cutLength(); // once, whatever went before
        QVERIFY2(std::abs(cut / planned - 1) < 0.01, qPrintable(QString("%1 of %2").arg(cut).arg(planned)));
        QVERIFY(!machining().left());
    }

    // A file dialog of the window's own, answered as a maker types a name.
    void fileDialog(const QString& name)
    {
        auto* timer = new QTimer(window_.get());
        connect(timer, &QTimer::timeout, this, [timer, name] {
            auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            if (!dialog)
                return;
            timer->deleteLater();
            dialog->setDirectory(QFileInfo(name).absolutePath());
            dialog->findChild<QLineEdit*>("fileNameEdit")->setText(QFileInfo(name).fileName());
            QMetaObject::invokeMethod(dialog, "accept", Qt::QueuedConnection); // a timer does not fire inside itself
        });
        timer->start(20);
    }

    // While it cuts: the head moves on the bench, the strip says what is done and left; held it stands, stopped its tool is up at once.
    void heldAndStopped()
    {
        sheetOnMachine({"--pace=8"});
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(bed().under && bed().under->runs > 0, 60'000);
        auto* text = find<QLabel>("progress-text");
        QTRY_VERIFY2(text->isVisible() && text->text().contains("left") && text->text().contains(" of 6"), qPrintable(text->text()));
        auto* hold = find<QToolButton>("hold");
        QVERIFY(hold->isVisible());
        QTest::mouseClick(hold, Qt::LeftButton);
        QCOMPARE(hold->text(), QString("Resume"));
        QTRY_COMPARE(int(bed().head->state), int(MachineState::Hold));
        QTest::qWait(300);
        const Point held = bed().head->at;
        QTest::qWait(500);
        QCOMPARE(bed().head->at, held);
        QTest::mouseClick(hold, Qt::LeftButton);
        QTRY_VERIFY(!(bed().head->at == held));
        // Closing asks first.
        answer("still-cutting", "Go back");
        window_->close();
        QVERIFY(answered_ && window_->isVisible() && bed().under);
        QElapsedTimer time;
        time.start();
        QTest::mouseClick(find<QToolButton>("stop"), Qt::LeftButton);
        QTRY_VERIFY(!machining().busy());
        QVERIFY(time.elapsed() < 2000);
        QVERIFY2(notice().contains("Stopped, with the tool up"), qPrintable(notice()));
        QVERIFY(!bed().under && !hold->isVisible());
        // And it can be gone on with from the place, also after the head was moved away.
        QVERIFY(machining().left());
        // The bench shows what of it is done.
        QVERIFY(bed().stopped && bed().stopped->runs == machining().left()->runs && bed().stopped->runs < 6);
        const double planned = plannedLength();
        // To begin anew would cut twice what is cut; it is asked first.
        answer("cut-left", "Go back");
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(answered_ && !machining().busy() && machining().left());
        machining().jog({5, 5});
        QVERIFY(settled());
        QTest::mouseClick(find<QPushButton>("cut-go-on"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Cut: 6") && !machining().left(), qPrintable(notice()));
        QVERIFY(!bed().stopped);
        const double cut = cutLength();
        QVERIFY2(std::abs(cut / planned - 1) < 0.01, qPrintable(QString("%1 of %2").arg(cut).arg(planned)));
    }

    // A plotter that reads HPGL: jogged to the marks, tried, held, stopped, gone on with, as any other.
    void aPlotterIsDrivenTheSame()
    {
        sheetOnMachine({"--pace=10"}, "1,1,0,0", 2, {1, 0});
        QCOMPARE(int(desk().job().cut.plan.machine->dialect), int(Dialect::Hpgl));
        // It has no words for an eye: none is offered.
        QVERIFY(!find<Segmented>("cut-marks-by")->isVisible());
        QCOMPARE(int(desk().job().cut.marksBy), int(MarksBy::Picture));
        auto* by = find<Segmented>("cut-marks-by-sight");
        QVERIFY(by->isVisible() && by->count() == 2);
        by->setFocus();
        QTest::keyClick(by, Qt::Key_Right);
        QVERIFY(settled());
        QCOMPARE(int(desk().job().cut.marksBy), int(MarksBy::Hand));
        auto* steps = find<Segmented>("jog-step");
        while (steps->current() != 2)
            QTest::keyClick(steps, steps->current() < 2 ? Qt::Key_Right : Qt::Key_Left);
        for (int mark = 0; mark < 2; ++mark) {
            click("mark-near");
            window_->bench().setFocus();
            if (mark == 0) { // the next is expected where this one lies
                QTest::keyClick(&window_->bench(), Qt::Key_Right);
                QVERIFY(settled());
            }
            const Point truth = bed().marks[std::size_t(mark)].design + Point{1, 0};
            QVERIFY2(distance(bed().head->at, truth) < 0.02, qPrintable(QString("%1, %2 for %3, %4").arg(bed().head->at.x).arg(bed().head->at.y).arg(truth.x).arg(truth.y)));
            QTest::keyClick(&window_->bench(), Qt::Key_Return);
        }
        QVERIFY2(bed().fit, qPrintable(bed().refusal));
        const double planned = plannedLength();
        click("cut-round");
        click("cut-faint");
        answer("doubtful-fit", "Cut all the same"); // two marks prove nothing of each other
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(bed().under && bed().under->runs > 0, 60'000);
        auto* hold = find<QToolButton>("hold");
        QTest::mouseClick(hold, Qt::LeftButton);
        QTest::qWait(200);
        const std::size_t held = bed().under->runs;
        QTest::qWait(400);
        QCOMPARE(bed().under->runs, held);
        QTest::mouseClick(hold, Qt::LeftButton);
        QTRY_VERIFY(bed().under && bed().under->runs > held);
        QTest::mouseClick(find<QToolButton>("stop"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Stopped, with the tool up") && machining().left(), qPrintable(notice()));
        QTest::mouseClick(find<QPushButton>("cut-go-on"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Cut: 6"), qPrintable(notice()));
        const double cut = cutLength();
        QVERIFY2(std::abs(cut / planned - 1) < 0.01, qPrintable(QString("%1 of %2").arg(cut).arg(planned)));
    }

    // The stand-in's camera sees the whole bed, and its picture is as good as a photo whose corners are set; also of one that reads HPGL.
    void marksByItsCamera()
    {
        drop({square()});
        enter(Station::Cut);
        for (const int machine : {4, 2}) {
            choose("cut-machine", machine);
            if (machine == 4) {
                QCOMPARE(int(desk().job().cut.plan.machine->eye.kind), int(Eye::Camera));
                chooseBy(1);
            }
            click("cut-find");
            QVERIFY2(bed().fit && bed().picture && bed().fit->worst < 0.15, qPrintable(notice()));
            QVERIFY(std::abs(bed().fit->turn - desk().job().cut.standIn.turn) < 0.05);
            click("cut-run");
            QVERIFY2(desk().testCut(), qPrintable(notice()));
            QVERIFY2(desk().testCut()->worst < 0.15, qPrintable(QString::number(desk().testCut()->worst)));
        }
    }

    // Marks and fit are of one sheet, laid in once: forgotten when it is cut, and when the sheet, the machine or the place is another.
    void marksEndWithTheirSheet()
    {
        drop({square()});
        enter(Station::Sheet);
        type("sheet-copies", "40"); // on two sheets
        enter(Station::Cut);
        choose("cut-machine", 1);
        QVERIFY(desk().shown()->derived.sheet.sheets > 1);
        const auto take = [&] {
            for (int k = 0; k < int(bed().marks.size()); ++k)
                machining().take(k, bed().marks[std::size_t(k)].design + Point{20, 20});
            QVERIFY(bed().fit);
        };
        take();
        desk().setSheet(1);
        QVERIFY(settled());
        QVERIFY(!bed().fit && !bed().measured());
        take();
        type("cut-sheet-x", "40");
        QVERIFY(!bed().fit && !bed().measured());
        take();
        choose("cut-machine", 4);
        QVERIFY(!bed().fit && !bed().measured());
        take();
        type("sheet-copies", "3");
        desk().start(Job(desk().job()), {}); // another job, whose marks lie in the same places
        QVERIFY(settled());
        QVERIFY(!bed().fit && !bed().measured());
        // And on a port, when it is cut.
        close();
        open();
        sheetOnMachine();
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        click("cut-run");
        QVERIFY2(notice().contains("Cut: 6"), qPrintable(notice()));
        QVERIFY(!bed().fit && !bed().measured());
    }

    // Held and stopped, the next run does not stand still; keys hold and stop it from anywhere.
    void keysStopTheMachine()
    {
        sheetOnMachine({"--pace=8"});
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_Return, Qt::ControlModifier);
        QTRY_VERIFY_WITH_TIMEOUT(bed().under && bed().under->runs > 0, 60'000);
        desk().setStation(Station::Artwork);
        QTest::keyClick(&window_->bench(), Qt::Key_H, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_VERIFY(bed().under && bed().under->held);
        QTest::keyClick(&window_->bench(), Qt::Key_Pause);
        QTRY_VERIFY(!machining().busy());
        QVERIFY2(notice().contains("Stopped, with the tool up"), qPrintable(notice()));
        enter(Station::Cut);
        QTest::mouseClick(find<QPushButton>("cut-go-on"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Cut: 6"), qPrintable(notice()));
    }

    // The job becomes another while a doubtful fit is asked about: nothing is cut by an answer to what is no more.
    void anAnswerIsToWhatWasAsked()
    {
        sheetOnMachine();
        machining().take(0, onBed(bed().marks[0].design));
        machining().take(1, onBed(bed().marks[1].design));
        QVERIFY(!bed().doubts.empty());
        QTimer later;
        connect(&later, &QTimer::timeout, this, [&] {
            if (auto* dialog = QApplication::activeModalWidget(); dialog && dialog->objectName() == "doubtful-fit") {
                later.stop();
                desk().edit("name", [](Job& job) { job.pieces.clear(); });
                for (QAbstractButton* button : dialog->findChildren<QAbstractButton*>())
                    if (button->text().contains("Cut"))
                        return button->click();
            }
        });
        later.start(10);
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(!machining().busy());
        QCOMPARE(cutLength(), 0.0);
    }

    // Told to end by the system, the program ends by itself, and says by which signal.
    void theSystemEndsIt()
    {
        for (const int signal : {SIGTERM, SIGHUP, SIGINT}) {
            QProcess yokai;
            yokai.start(QCoreApplication::applicationDirPath() + "/../src/window/yokai", {YOKAI_DEMO_JOB});
            QVERIFY(yokai.waitForStarted());
            QTest::qWait(1500);
            ::kill(pid_t(yokai.processId()), signal);
            QVERIFY(yokai.waitForFinished(15'000));
            QVERIFY(yokai.exitStatus() == QProcess::NormalExit);
            QCOMPARE(yokai.exitCode(), 128 + signal);
        }
    }

    // A jog that is held ends when anything else takes the focus.
    void aJogEndsWithTheFocus()
    {
        sheetOnMachine({"--pace=1"});
        chooseBy(2);
        Hand hand = desk().hand();
        hand.jog = Length(); // for as long as it is held
        desk().setHand(hand);
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        window_->bench().setFocus();
        QTest::keyPress(&window_->bench(), Qt::Key_Right);
        QTRY_VERIFY(bed().head && bed().head->at.x > 1);
        find<QComboBox>("cut-port")->setFocus(); // the key is let go elsewhere
        QTRY_VERIFY_WITH_TIMEOUT(!machining().busy(), 2000);
        const Point stands = bed().head->at;
        QTest::qWait(300);
        QVERIFY(distance(bed().head->at, stands) < 1e-6 && stands.x < 200);
        QTest::keyRelease(&window_->bench(), Qt::Key_Right);
    }

    // A mirrored sheet is mirrored in all that is done with it: its marks are found where they are.
    void aMirroredSheetIsMirroredEverywhere()
    {
        drop({square()});
        desk().edit("mirror", [](Job& job) { job.sheet.mirror = SheetMirror::Both; });
        QVERIFY(settled());
        enter(Station::Cut);
        const Layout& sheet = desk().shown()->derived.sheet;
        QCOMPARE(bed().marks.size(), sheet.marks.size());
        for (std::size_t k = 0; k < sheet.marks.size(); ++k)
            QVERIFY(std::abs(bed().marks[k].design.x - (sheet.width - sheet.marks[k].centre.x)) < 1e-9);
        click("cut-find");
        QVERIFY2(bed().fit && bed().fit->leftOut.empty() && bed().pairs().size() == 5, qPrintable(notice()));
        click("cut-run");
        QVERIFY2(desk().testCut() && desk().testCut()->worst < 0.2, qPrintable(notice()));
    }

    // What the very first start asks: once a machine is chosen for new jobs, it is asked no more.
    void theFirstStartAsksOnce()
    {
        window_->offerMachine();
        auto* choose = find<QPushButton>("notice-press");
        QTRY_VERIFY(choose->isVisible());
        QTimer chosen;
        connect(&chosen, &QTimer::timeout, this, [&] {
            if (auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) {
                chosen.stop();
                for (QAction* a : menu->actions())
                    if (a->text().startsWith("Lantern")) {
                        a->trigger();
                        menu->close();
                        return;
                    }
                menu->close();
            }
        });
        chosen.start(20);
        QTest::mouseClick(choose, Qt::LeftButton);
        QTRY_VERIFY(desk().job().cut.plan.machine && desk().job().cut.plan.machine->name.starts_with("Lantern"));
        close();
        open();
        QVERIFY(desk().job().cut.plan.machine && desk().job().cut.plan.machine->name.starts_with("Lantern"));
        window_->offerMachine();
        QVERIFY(!find<QPushButton>("notice-press")->isVisible());
    }

    // The link is lost and stays lost; another window goes on, and nothing is cut twice.
    void anotherWindowGoesOn()
    {
        sheetOnMachine({"--fault=link@150:25"});
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        const double planned = plannedLength();
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !machining().busy(); }, 60'000));
        QVERIFY2(notice().contains("check the cable"), qPrintable(notice()));
        close();
        open();
        drop({square()});
        enter(Station::Cut);
        auto* goOn = find<QPushButton>("cut-go-on");
        QVERIFY(goOn->isVisible());
        QVERIFY(machining().left() && machining().left()->runs < 6);
        QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(there_->port()), 30'000); // it is plugged in again
        QTest::mouseClick(goOn, Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Cut: 6"), qPrintable(notice()));
        const double cut = cutLength();
        QVERIFY2(std::abs(cut / planned - 1) < 0.01, qPrintable(QString("%1 of %2").arg(cut).arg(planned)));
        QVERIFY(!goOn->isVisible() && !machining().left());
    }

    // Stopped while the cable is out, the window does not say that the tool is up, and what is left can be gone on with.
    void stoppedWhileTheCableIsOut()
    {
        sheetOnMachine({"--fault=link@150:60", "--pace=20"});
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!QFile::exists(there_->port()), 30'000);
        QTest::qWait(500);
        QVERIFY(machining().busy());
        QTest::mouseClick(find<QToolButton>("stop"), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return !machining().busy(); }, 20'000));
        QVERIFY2(notice().contains("see for yourself") && !notice().contains("with the tool up"), qPrintable(notice()));
        QVERIFY(machining().left() && find<QPushButton>("cut-go-on")->isVisible());
    }

    // Two marks taken with the arrow keys: near them by a press, then in steps, then finer ones.
    void marksByHand()
    {
        sheetOnMachine();
        chooseBy(2);
        Bench& bench = window_->bench();
        for (int mark = 0; mark < 2; ++mark) {
            click("mark-near");
            const Point near = bed().head->at;
            const Point truth = onBed(bed().marks[std::size_t(mark)].design); // the eye is the maker's
            bench.setFocus();
            for (const auto& [index, step] : {std::pair(3, 10.0), std::pair(2, 1.0), std::pair(1, 0.5), std::pair(0, 0.1)}) {
                auto* steps = find<Segmented>("jog-step");
                while (steps->current() != index)
                    QTest::keyClick(steps, steps->current() < index ? Qt::Key_Right : Qt::Key_Left);
                bench.setFocus();
                for (const auto& [axis, less, more] : {std::tuple(0, Qt::Key_Left, Qt::Key_Right), std::tuple(1, Qt::Key_Down, Qt::Key_Up)})
                    for (;;) {
                        const double off = axis == 0 ? truth.x - bed().head->at.x : truth.y - bed().head->at.y;
                        if (std::abs(off) <= step / 2 + 1e-9)
                            break;
                        QTest::keyClick(&bench, off < 0 ? less : more);
                        QVERIFY(settled());
                    }
            }
            QVERIFY(distance(bed().head->at, truth) < 0.08);
            QVERIFY(distance(near, truth) < 8);
            QTest::keyClick(&bench, Qt::Key_Return);
            QVERIFY(bed().marks[std::size_t(mark)].measured);
        }
        QVERIFY2(bed().fit, qPrintable(bed().refusal));
        QVERIFY(std::abs(bed().fit->turn - 0.8) < 0.05);
        // Held, it goes until it is let go.
        auto* steps = find<Segmented>("jog-step");
        while (steps->current() != 4)
            QTest::keyClick(steps, Qt::Key_Right);
        const double x = bed().head->at.x;
        auto* right = find<IconButton>("jog-right");
        QTest::mousePress(right, Qt::LeftButton);
        QTest::qWait(300);
        QTest::mouseRelease(right, Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(bed().head->at.x > x + 1 && bed().head->at.x < desk().job().cut.plan.machine->bed.width.mm() + 0.01);
        QCOMPARE(int(bed().head->state), int(MachineState::Idle));
    }

    // A photo of the bed, taken at a slant: its corners are set by hand once, the marks found, one of them put right by hand.
    void marksInAPicture()
    {
        sheetOnMachine({"--light=0.3,4"});
        chooseBy(1);
        // What the machine's user would see: the bed with the sheet as the stand-in has them, as a camera at the side sees it.
        const QString photo = slantedPhoto();
        machining().openPhoto(photo);
        QVERIFY(settled());
        QVERIFY(bed().corners && !bed().measured());
        for (std::size_t k = 0; k < 4; ++k)
            drag({{(*bed().corners)[k].x, (*bed().corners)[k].y}, photoCorners_[k]});
        // To a pixel of the screen; with Shift it follows a tenth as far, under the loupe.
        for (std::size_t k = 0; k < 4; ++k) {
            const QPointF now((*bed().corners)[k].x, (*bed().corners)[k].y);
            QVERIFY(QLineF(now, photoCorners_[k]).length() < 8);
            drag({now, now + (photoCorners_[k] - now) * 10}, Qt::ShiftModifier);
            const Point placed = (*bed().corners)[k];
            QVERIFY2(distance(placed, {photoCorners_[k].x(), photoCorners_[k].y()}) < 1, qPrintable(QString::number(distance(placed, {photoCorners_[k].x(), photoCorners_[k].y()}))));
        }
        click("cut-find");
        QVERIFY2(bed().fit, qPrintable(notice()));
        QVERIFY(!bed().corners && bed().picture);
        const auto truth = [&](std::size_t k) { return onBed(bed().marks[k].design); };
        for (std::size_t k = 0; k < bed().marks.size(); ++k)
            QVERIFY2(distance(*bed().marks[k].measured, truth(k)) < 0.15, qPrintable(QString("%1: %2").arg(k + 1).arg(distance(*bed().marks[k].measured, truth(k)))));
        // Forgotten, and pointed at: its middle is found again.
        machining().take(2, std::nullopt);
        const Point near = truth(2) + Point{2, 1.5};
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({near.x, -near.y}));
        QVERIFY2(bed().marks[2].measured && distance(*bed().marks[2].measured, truth(2)) < 0.15, qPrintable(notice()));
        // The next photo of the same camera is seen as this one was.
        machining().forgetMarks();
        machining().openPhoto(photo);
        QVERIFY(settled());
        QTRY_VERIFY(!machining().busy() && bed().fit);
    }

    // Nothing was printed here: crosses drawn by hand in a scan are its marks, and no ink.
    void featuresAsMarks()
    {
        drop({painted("patch.png", {1200, 1200}, 10'000, Qt::white, [](QPainter& p) {
            p.setBrush(QColor(60, 90, 40));
            p.setPen(Qt::NoPen);
            p.drawEllipse(QPointF(600, 600), 350, 280);
            p.setPen(QPen(Qt::black, 7));
            for (const QPointF at : {QPointF(100, 130), QPointF(1090, 100), QPointF(1100, 1080)}) {
                p.drawLine(at - QPointF(30, 4), at + QPointF(30, 4));
                p.drawLine(at - QPointF(-3, 30), at + QPointF(-3, 30));
            }
        })});
        enter(Station::Sheet);
        unfold();
        choose("sheet-marks", 3);
        QCOMPARE(int(desk().job().sheet.marks.style), int(MarkStyle::InPicture));
        QVERIFY(desk().shown()->derived.sheet.marks.empty());
        desk().hold(Hold::MarkFeature);
        const Placement place = desk().shown()->derived.sheet.placements.front();
        const Point crosses[] = {{10, 13}, {109, 10}, {110, 108}};
        for (const Point cross : crosses) {
            const Point at = desk().shown()->derived.sheet.placements.front().toSheet(cross);
            QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({at.x + 2, at.y - 1}));
            QVERIFY(settled());
        }
        const auto& marks = desk().shown()->derived.sheet.marks;
        QCOMPARE(marks.size(), std::size_t(3));
        for (std::size_t k = 0; k < 3; ++k)
            QVERIFY2(distance(marks[k].centre, place.toSheet(crosses[k])) < 0.1, qPrintable(QString::number(distance(marks[k].centre, place.toSheet(crosses[k])))));
        QVERIFY(drawSheet(desk().job(), desk().shown()->derived, 0, Content::Print, {}).marks.empty() || inkOf(marks[0]).empty());
        // The thing is there: it is not printed, and yet there is something to fit to.
        QVERIFY(drawSheet(desk().job(), desk().shown()->derived, 0, Content::Print, {}).images.empty());
        QVERIFY(!desk().shown()->derived.pieces[0].layer().isPrinted && desk().shown()->derived.printed && desk().shown()->derived.isBlank());
        // They are the picture's, and go where it goes: moved, turned, made smaller, cropped.
        const Job asMarked = desk().job();
        const auto goAlong = [&](const char* how, const std::function<void(Piece&)>& change) {
            desk().editPiece(how, change);
            QVERIFY(settled());
            const Derived& now = desk().shown()->derived;
            QCOMPARE(now.sheet.marks.size(), std::size_t(3));
            for (std::size_t k = 0; k < 3; ++k) {
                const Point wanted = now.sheet.placements.front().toSheet(now.pieces[0].sourceToMm(crosses[k] * 10));
                QVERIFY2(distance(now.sheet.marks[k].centre, wanted) < 0.1, how);
            }
            QVERIFY(std::none_of(now.findings.begin(), now.findings.end(), [](const Finding& f) { return f.code == "feature-off"; }));
        };
        goAlong("turn", [](Piece& p) { p.artwork.turnRight(); });
        goAlong("size", [](Piece& p) { p.artwork.setWidth(80_mm); });
        goAlong("crop", [](Piece& p) { p.artwork.cropTo({2, 2, 79, 79}); });
        desk().edit("move", [](Job& job) { job.placings.push_back({PlacingId{99}, job.pieces[0].id, 0, 110_mm, 150_mm, 30, false, true}); });
        goAlong("moved", [](Piece&) {});
        // One that lies off its feature is an error; dragged near, it snaps to it as where it is pressed.
        desk().editPiece("off", [](Piece& p) { p.features[0] = p.features[0] + Point{14, 0}; });
        QVERIFY(settled());
        const auto& findings = desk().shown()->derived.findings;
        const auto off = std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.code == "feature-off"; });
        QVERIFY(off != findings.end() && off->severity == Severity::Error && off->value > 0.5 && off->value < 1.5);
        const Point from = desk().shown()->derived.sheet.marks[0].centre;
        desk().hold(Hold::Nothing);
        drag({{from.x, from.y}, {from.x + 0.5, from.y - 0.5}, {from.x + 1, from.y - 1}});
        QVERIFY(settled());
        QVERIFY2(distance(desk().job().pieces[0].features[0], crosses[0] * 10) < 1.5, qPrintable(QString("%1 %2").arg(desk().job().pieces[0].features[0].x).arg(desk().job().pieces[0].features[0].y)));
        desk().edit("as it was marked", [&](Job& job) { job = asMarked; });
        QVERIFY(settled());
        // The simulator lays the thing on its bed, its crosses too.
        enter(Station::Cut);
        choose("cut-machine", 1);
        chooseBy(2);
        machining().goTo(machining().onBed().marks[0].design);
        QVERIFY(settled());
        QVERIFY(bed().picture);
        const PlanSpec& plan = desk().job().cut.plan;
        const StandInSpec& lies = desk().job().cut.standIn;
        int dark = 255;
        for (int dx = -40; dx <= 40; ++dx)
            for (int dy = -40; dy <= 40; ++dy) {
                const BedPicture& p = *bed().picture;
                const Point at = bed().marks[0].design + Point{plan.sheetX.mm() + lies.shiftX.mm() + dx * 0.1, plan.sheetY.mm() + lies.shiftY.mm() + dy * 0.1};
                dark = std::min(dark, qGray(p.image.pixel(int((at.x - p.corner.x) * p.pxPerMm), int((p.corner.y - at.y) * p.pxPerMm))));
            }
        QVERIFY2(dark < 90, qPrintable(QString::number(dark)));
        enter(Station::Sheet);
        const Point at = desk().shown()->derived.sheet.marks[1].centre;
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({at.x, at.y}));
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_Delete);
        QVERIFY(settled());
        QCOMPARE(desk().shown()->derived.sheet.marks.size(), std::size_t(2));
    }

    // One tick at Artwork: what a flat scan shows lies on a sheet as large as it, where it shows it.
    void theScanIsTheSheet()
    {
        drop({painted("mat.png", {1500, 1200}, 10'000, Qt::white, [](QPainter& p) {
            p.setBrush(QColor(60, 90, 40));
            p.drawEllipse(QPointF(400, 700), 250, 280);
        })});
        enter(Station::Artwork);
        auto* tick = find<QCheckBox>("artwork-is-sheet");
        QVERIFY(tick->isVisible() && !tick->isChecked());
        QTest::mouseClick(tick, Qt::LeftButton, {}, QPoint(8, 8));
        QVERIFY(settled());
        QVERIFY(tick->isChecked() && desk().job().pieces[0].artwork.lies());
        QVERIFY(std::abs(desk().job().sheet.width() - 150) < 1e-6 && std::abs(desk().job().sheet.height() - 120) < 1e-6);
        enter(Station::Sheet);
        const Derived& d = desk().shown()->derived;
        QCOMPARE(d.sheet.placements.size(), std::size_t(1));
        QVERIFY(d.sheet.placements[0].lies && !d.pieces[0].layer().isPrinted);
        const Rect box = mapped(d.sheet.placements[0].toSheet, d.pieces[0].layer().kept);
        QVERIFY2(distance(box.centre(), {40, 70}) < 0.1 && std::abs(box.width() - 50) < 0.2, qPrintable(QString("%1 %2 %3").arg(box.centre().x).arg(box.centre().y).arg(box.width())));
        enter(Station::Artwork);
        QTest::mouseClick(tick, Qt::LeftButton, {}, QPoint(8, 8));
        QVERIFY(settled());
        QVERIFY(!desk().job().pieces[0].artwork.lies() && std::abs(desk().shown()->derived.pieces[0].width - 150) < 0.1);
    }

    // Operations are chosen in the list, and say in the panel how they are done: speeds in any of four units, first what is wanted first.
    void operations()
    {
        sheetOnMachine();
        choose("cut-material", 1);
        unfold();
        QTRY_VERIFY(bed().planned);
        select("Outer through");
        const std::size_t outer = 5;
        auto* speed = find<NumberField>("operation-speed");
        QVERIFY(speed->isVisible() && speed->property("automatic").toBool());
        const double before = bed().planned->plan.seconds;
        type("operation-speed", "600 mm/min");
        QCOMPARE(desk().job().cut.plan.operations[outer].settings->speed, Speed::mmPerSecond(10));
        QCOMPARE(speed->text(), QString("600 mm/min")); // as the maker counts
        QTest::mouseClick(find<QPushButton>("unit-in"), Qt::LeftButton);
        QTest::mouseClick(find<QPushButton>("unit-mm"), Qt::LeftButton);
        QCOMPARE(desk().job().cut.plan.operations[outer].settings->speed, Speed::mmPerSecond(10));
        type("operation-speed", "0.5 in/s");
        QCOMPARE(desk().job().cut.plan.operations[outer].settings->speed, Speed::of(0.5, SpeedUnit::InchPerSecond));
        type("operation-passes", "3");
        QTRY_VERIFY(bed().planned->plan.seconds > 1.5 * before);
        QVERIFY2(row("Outer through").contains("3 passes"), qPrintable(row("Outer through")));
        click("operation-earlier");
        QCOMPARE(int(desk().job().cut.plan.operations[4].operation), int(Operation::OuterThrough));
        QCOMPARE(edits::selectedOperation(desk()), 4); // stays selected
        click("operation-keep");
        QVERIFY(!desk().job().cut.plan.operations[4].settings);
        QCOMPARE(desk().job().cut.plan.material->of(Process::Through).passes, 3);
        QCOMPARE(openMaterial(kept("materials")).of(Process::Through).passes, 3);
        auto* does = find<Segmented>("operation-does");
        QTest::mouseClick(does, Qt::LeftButton, {}, QPoint(does->width() / 2, 10));
        QVERIFY(settled());
        QVERIFY(desk().job().cut.plan.operations[4].guide);
        QTRY_VERIFY(bed().planned->lines.empty());
        QVERIFY2(row("Outer through").contains("guide only"), qPrintable(row("Outer through")));

        // A line with an operation of its own is cut in its own turn.
        enter(Station::CutLines);
        unfold();
        auto* of = find<QComboBox>("line-operation");
        of->setCurrentIndex(of->count() - 1);
        emit of->activated(of->count() - 1);
        QVERIFY(settled());
        const auto own = std::find_if(desk().job().cut.plan.operations.begin(), desk().job().cut.plan.operations.end(), [](const OperationStep& s) { return !s.name.empty(); });
        QVERIFY(own != desk().job().cut.plan.operations.end() && own->lines == std::vector<LineId>{desk().currentLine()->id});
        enter(Station::Cut);
        QTRY_COMPARE(bed().planned->lines.size(), std::size_t(18)); // six squares three times
        select("Outer through, own 1");
        click("operation-remove");
        QTRY_VERIFY(bed().planned->lines.empty());
    }

    // A machine of one's own: changed in the window, kept, brought to another job.
    void ownMachines()
    {
        drop({square()});
        enter(Station::Cut);
        QCOMPARE(desk().job().cut.plan.machine, std::nullopt);
        choose("cut-machine", 2);
        unfold();
        type("machine-name", "Willow, the old cutter");
        type("machine-width", "12 in");
        type("machine-top-speed", "4 in/s");
        type("machine-kerf", "0.15");
        const Machine mine = *desk().job().cut.plan.machine;
        QCOMPARE(mine.bed.width, Length::inches(12));
        QCOMPARE(mine.motion.topSpeed, Speed::of(4, SpeedUnit::InchPerSecond));
        click("machine-keep");
        QCOMPARE(openMachine(kept("machines")), mine);
        // A job to come begins with it.
        auto* list = find<QComboBox>("cut-machine");
        QVERIFY(list->findText("Willow, the old cutter") > 0);
        list->setCurrentText("Willow, the old cutter");
        emit list->activated(list->currentIndex());
        close();
        open();
        QCOMPARE(desk().job().cut.plan.machine, mine);
        drop({square()});
        enter(Station::Cut);
        unfold();
        click("machine-forget");
        QVERIFY(kept("machines").empty());
        // To another computer and back.
        fileDialog(file("mine.json"));
        click("machine-export");
        QCOMPARE(openMachine(file("mine.json").toStdString()), mine);
        choose("cut-machine", 1);
        fileDialog(file("mine.json"));
        click("machine-import");
        QCOMPARE(desk().job().cut.plan.machine, mine);
        QCOMPARE(openMachine(kept("machines")), mine);
        write(file("broken.json"), "{\"yokai_machine\":1,\"kind\":\"spoon\"}");
        fileDialog(file("broken.json"));
        click("machine-import");
        QVERIFY2(notice().contains("cutter or laser"), qPrintable(notice()));
        QCOMPARE(desk().job().cut.plan.machine, mine);
    }

    // The square that came out right is pressed, and the material has its settings: in the job and among those that are kept.
    void testPatch()
    {
        sheetOnMachine();
        choose("cut-material", 1);
        unfold();
        type("patch-columns", "4");
        type("patch-rows", "3");
        type("patch-slowest", "10 mm/s");
        type("patch-fastest", "40 mm/s");
        type("patch-least", "60");
        type("patch-most", "180");
        click("patch-cut");
        QVERIFY2(bed().patch, qPrintable(notice()));
        QCOMPARE(bed().patch->patch.squares.size(), std::size_t(12));
        const Point at = bed().patch->square(6).centre(); // third column, second row
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({at.x, -at.y}));
        QVERIFY(settled());
        const ProcessSettings got = desk().job().cut.plan.material->of(Process::Through);
        QCOMPARE(got.speed, Speed::mmPerSecond(30));
        QCOMPARE(got.force, 120.0);
        QCOMPARE(openMaterial(kept("materials")).of(Process::Through), got);
        // What was cut: labels, and every square at its own force, where the bench shows it.
        const QJsonArray made = cuts();
        int found = 0;
        for (const QJsonValue cut : made) {
            const QJsonArray first = cut.toObject()["bed_mm"].toArray().first().toArray();
            const Rect box = bed().patch->square(6);
            if (box.grown(0.3).contains({first[0].toDouble(), first[1].toDouble()})) {
                ++found;
                QCOMPARE(cut.toObject()["power"].toDouble(), std::round(120 / desk().job().cut.plan.machine->tool.forceMost * desk().job().cut.plan.machine->tool.powerMost));
            }
        }
        QCOMPARE(found, got.passes);
        QVERIFY(made.size() > 12);
    }

    // 100 000 lines on their way, and the window is as quick as ever.
    void streamingLeavesTheWindowFree()
    {
        drop({pictures_ + "umbrella-imp.png"});
        desk().edit("much", [](Job& job) {
            job.sheet.media = mediaFrom("1200x1000");
            job.sheet.marks.style = MarkStyle::None;
            job.cut.useFit = false;
            job.cut.plan.machine = sampleMachines().front();
            job.cut.plan.machine->bed.width = job.cut.plan.machine->bed.depth = Length::mm(1300);
            job.cut.plan.machine->arcs = false;
            job.cut.plan.machine->tolerance = Length::um(1);
            for (OperationStep& step : job.cut.plan.operations) {
                step.settings = ProcessSettings{};
                step.settings->passes = 2;
            }
        });
        enter(Station::Sheet);
        type("sheet-copies", "140");
        enter(Station::Cut);
        QTRY_VERIFY_WITH_TIMEOUT(bed().planned && bed().planned->plan.runs.size() > 250, 30'000);
        const std::size_t lines = gcodeOf(bed().planned->plan).lines.size();
        qInfo("%zu lines", lines);
        QVERIFY(lines > 100'000);
        Pauses pauses;
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(bed().under && bed().under->runs > 5, 120'000);
        QVERIFY(bed().picture && bed().picture->image.width() / bed().picture->pxPerMm > 1200); // as large as it is
        pauses.take();
        for (int n = 0; n < 40 && machining().busy(); ++n) {
            QMouseEvent move(QEvent::MouseMove, QPointF(200 + 5 * n, 300), window_->bench().mapToGlobal(QPointF(200 + 5 * n, 300)), Qt::NoButton, Qt::NoButton, {});
            QApplication::sendEvent(&window_->bench(), &move);
            QTest::qWait(50);
        }
        const Pauses::Longest longest = pauses.take();
        qInfo("longest pause of the window's thread: %lld ms, %.1f ms of work", longest.clock, longest.worked);
        QVERIFY(longest.fair());
        machining().stop();
        QVERIFY(settled());
    }

    // A mark dragged where it does not belong is left out, which is said; nothing is cut before the maker has agreed.
    void doubtfulFitsAsk()
    {
        sheetOnMachine();
        click("cut-find");
        QVERIFY2(bed().fit && bed().doubts.empty(), qPrintable(notice()));
        const Point at = *bed().marks[1].measured;
        drag({{at.x, -at.y}, {at.x + 3, -at.y - 2}});
        QVERIFY(distance(*bed().marks[1].measured, at + Point{3, 2}) < 1);
        QVERIFY(!bed().doubts.empty());
        QVERIFY2(row("Mark 2").contains("left out"), qPrintable(row("Mark 2")));
        answer("doubtful-fit", "Go back");
        click("cut-run");
        QVERIFY(answered_);
        answer("doubtful-fit", "Cut all the same");
        click("cut-run");
        QVERIFY(answered_);
        QCOMPARE(cuts().size(), qsizetype(6 + 1)); // and the strokes that draw the blade into its heading
    }
};

DRIVEN_MAIN(TestMachining)
#include "test_machining.moc"
