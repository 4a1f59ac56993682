// The real window, driven as a maker would: press, drag, type, and look at the job
// and at the files that come out.

#include "bench/bench.h"
#include "bench/chips.h"
#include "device/test_cut.h"
#include "formats/project/project.h"
#include "main_window.h"
#include "run.h"
#include "side/side_list.h"
#include "theme/controls.h"
#include "theme/theme.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QDropEvent>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSignalSpy>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <QWheelEvent>

using namespace yokai;
using namespace yokai::test;

class TestWindow : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::unique_ptr<MainWindow> window_;
    const QString pictures_ = QStringLiteral(YOKAI_DEMO_PICTURES "/");

    Studio& studio() { return window_->studio(); }
    template <class T> T* find(const char* name)
    {
        T* found = window_->findChild<T*>(QLatin1String(name));
        if (!found)
            qFatal("no %s in the window", name);
        return found;
    }
    bool settled(int ms = 60'000)
    {
        return QTest::qWaitFor([this] { return !studio().busy() && studio().upToDate() && (studio().shown() || studio().job().pieces.empty()); }, ms);
    }
    void drop(const QStringList& files)
    {
        QMimeData data;
        QList<QUrl> urls;
        for (const QString& f : files)
            urls << QUrl::fromLocalFile(f);
        data.setUrls(urls);
        QDragEnterEvent enter(QPoint(100, 100), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&window_->bench(), &enter);
        QDropEvent event(QPointF(100, 100), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&window_->bench(), &event);
        QVERIFY(event.isAccepted());
        QVERIFY(settled());
    }
    void type(const char* field, const char* text)
    {
        auto* edit = find<QLineEdit>(field);
        QTest::mouseClick(edit, Qt::LeftButton);
        edit->selectAll();
        QTest::keyClicks(edit, QLatin1String(text));
        QTest::keyClick(edit, Qt::Key_Return);
        QVERIFY(settled());
    }
    void enter(Station s)
    {
        QTest::mouseClick(window_->findChild<QWidget*>(QStringLiteral("station-%1").arg(int(s))), Qt::LeftButton, {}, QPoint(80, 16));
        QCOMPARE(int(studio().station()), int(s));
        QVERIFY(settled());
    }
    QString notice() { return find<QLabel>("notice-text")->text(); }

private slots:
    void initTestCase()
    {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("yokai-test");
        QSettings().clear();
        theme::install(*qApp);
    }
    void init()
    {
        window_ = std::make_unique<MainWindow>();
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    }
    void cleanup() { window_.reset(); }

    // From dropping a picture to the files on the disk and the cut on the stand-in.
    void fromPictureToProvenCut()
    {
        drop({pictures_ + "umbrella-imp.png"});
        QCOMPARE(studio().job().pieces.size(), std::size_t(1));
        QCOMPARE(int(studio().station()), int(Station::CutLines));
        QCOMPARE(int(studio().currentResult()->coverage->rule), int(KeepRule::Alpha));

        enter(Station::Artwork);
        type("artwork-width", "1 1/2 in");
        QCOMPARE(studio().job().pieces[0].artwork.side, Length::inches(1.5));
        QVERIFY(std::abs(find<NumberField>("artwork-height")->length().mm() - 38.1 * 945 / 733) < 0.001);
        const std::size_t nodes = studio().currentResult()->lines[0].nodes;
        QTest::mouseClick(find<QPushButton>("unit-in"), Qt::LeftButton);
        QTest::mouseClick(find<QPushButton>("unit-mm"), Qt::LeftButton);
        QCOMPARE(studio().job().pieces[0].artwork.side, Length::inches(1.5)); // looking at it in mm changed nothing
        QCOMPARE(studio().currentResult()->lines[0].nodes, nodes);

        enter(Station::CutLines);
        type("line-offset", "1+0.25mm");
        QCOMPARE(studio().currentResult()->lines[0].offset, Length::mm(1.25));

        enter(Station::Sheet);
        type("sheet-copies", "6");
        QCOMPARE(studio().shown()->derived.sheet.placements.size(), std::size_t(6));

        enter(Station::HandOff);
        find<QLineEdit>("hand-folder")->setText(dir_.path());
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("Wrote"), qPrintable(notice()));
        const Ran same = run("/usr/bin/python3", {QFINDTESTDATA("reference/geometry.py"), dir_.filePath("umbrella-imp-cut.svg"),
                                                  dir_.filePath("umbrella-imp-cut.dxf"), dir_.filePath("umbrella-imp-combined.pdf")});
        QVERIFY2(same.code == 0 && same.out.startsWith("12 lines"), qPrintable(same.out + same.err)); // an outer line and an opening a copy
        QCOMPARE(run("qpdf", {"--check", dir_.filePath("umbrella-imp-print.pdf")}).code, 0);

        enter(Station::Cut);
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(studio().testCut(), qPrintable(notice()));
        const auto fitted = studio().testCut();
        QCOMPARE(int(fitted->fit->model), int(FitModel::Affine));
        QVERIFY(std::abs(fitted->fit->scaleX - studio().job().cut.standIn.stretchX) < 5e-4);
        QVERIFY(std::abs(fitted->fit->turn - studio().job().cut.standIn.turn) < 0.03);
        QVERIFY2(fitted->worst < 0.1, qPrintable(QString::number(fitted->worst)));
        auto* onOff = find<Segmented>("cut-fit");
        QTest::mouseClick(onOff, Qt::LeftButton, {}, QPoint(onOff->width() - 8, 10));
        QVERIFY(settled());
        QVERIFY(!studio().testCut()); // another job, not tried yet
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(studio().testCut() && !studio().testCut()->fit);
        QVERIFY(studio().testCut()->worst > 20 * fitted->worst);
    }

    void draggingTheLineChangesTheOffset()
    {
        drop({pictures_ + "river-imp.png"});
        enter(Station::CutLines);
        Bench& bench = window_->bench();
        const PieceResult* r = studio().currentResult();
        // On the line at its rightmost place, pulled 1.5 mm outwards and back by undo.
        const Rect box = bounds(*r->lines[0].paths);
        Point at;
        for (const Point p : flatten((*r->lines[0].paths)[0], 0.01))
            if (p.x > box.x1 - 0.005)
                at = p;
        const auto screen = [&](double dx) { return bench.view().toScreen(QPointF(at.x + dx, at.y)).toPoint(); };
        QTest::mouseMove(&bench, screen(0));
        QTest::mousePress(&bench, Qt::LeftButton, {}, screen(0));
        for (double dx = 0.25; dx <= 1.5; dx += 0.25) {
            QMouseEvent move(QEvent::MouseMove, screen(dx), bench.mapToGlobal(screen(dx)), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&bench, &move);
            QTest::qWait(15);
        }
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, screen(1.5));
        QVERIFY(settled());
        const double now = studio().job().pieces[0].cutLines.lines[0].offset.mm();
        QVERIFY2(std::abs(now - 3.5) < 0.2, qPrintable(QString::number(now)));
        QCOMPARE(studio().currentResult()->lines[0].offset.mm(), now);
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QCOMPARE(studio().job().pieces[0].cutLines.lines[0].offset, Length::mm(2)); // the whole drag is one step
        QTest::mouseClick(find<QToolButton>("redo"), Qt::LeftButton);
        QCOMPARE(studio().job().pieces[0].cutLines.lines[0].offset.mm(), now);
        QVERIFY(settled());
    }

    void everythingUndoes()
    {
        drop({pictures_ + "moon-rabbit.png", pictures_ + "kettle-badger.jpg"});
        QCOMPARE(studio().job().pieces.size(), std::size_t(2));
        const Bytes before = writeProject(studio().job());
        int steps = 0;
        enter(Station::Keep);
        type("keep-smallest", "20");
        ++steps;
        auto* openings = find<Segmented>("keep-openings");
        QTest::mouseClick(openings, Qt::LeftButton, {}, QPoint(openings->width() - 8, 10));
        ++steps;
        enter(Station::CutLines);
        QTest::mouseClick(find<QAbstractButton>("line-add"), Qt::LeftButton);
        ++steps;
        enter(Station::Sheet);
        type("sheet-gap", "5");
        ++steps;
        studio().removePiece(0);
        ++steps;
        QVERIFY(settled());
        const Bytes after = writeProject(studio().job());
        QVERIFY(after != before);
        for (int i = 0; i < steps; ++i)
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(writeProject(studio().job()), before);
        for (int i = 0; i < steps; ++i)
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(writeProject(studio().job()), after);
        QVERIFY(settled());
    }

    void listAndBenchPointAtEachOther()
    {
        drop({pictures_ + "moon-rabbit.png"});
        enter(Station::Keep);
        auto* list = find<SideList>("side-list");
        QVERIFY(list->model()->rowCount() > 15);
        list->setCurrentIndex(list->model()->index(3, 0));
        QCOMPARE(studio().selectedParts(), std::vector{2});
        const Rect box = studio().currentResult()->parts->all[5].box;
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, window_->bench().view().toScreen(QPointF(box.centre().x, box.centre().y)).toPoint());
        QCOMPARE(studio().selectedParts(), std::vector{5});
        QCOMPARE(list->currentIndex().row(), 6);
        // A crumb kept by hand, and dropped again.
        const int kept = studio().currentResult()->parts->keptParts;
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(settled());
        QCOMPARE(studio().currentResult()->parts->keptParts, kept + 1);
        QTest::mouseClick(find<QToolButton>("undo"), Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(studio().currentResult()->parts->keptParts, kept);
    }

    void badInputLeavesTheJobAlone()
    {
        drop({pictures_ + "river-imp.png"});
        const Bytes before = writeProject(studio().job());
        write(dir_.filePath("empty.png"), {});
        write(dir_.filePath("text.jpg"), "not a picture");
        write(dir_.filePath("broken.yokai"), "PK broken");
        for (const char* name : {"empty.png", "text.jpg", "broken.yokai", "missing.png", "."}) {
            drop({dir_.filePath(QLatin1String(name))});
            QVERIFY2(notice().startsWith(QChar(0x25b2)) && notice().contains(';'), qPrintable(notice()));
            QCOMPARE(writeProject(studio().job()), before);
        }
        enter(Station::CutLines);
        type("line-offset", "two bananas");
        QCOMPARE(writeProject(studio().job()), before);
        QVERIFY(find<QLineEdit>("line-offset")->property("bad").toBool());
        enter(Station::Keep);
        type("keep-smallest", "900000");
        QVERIFY(studio().currentResult()->problem);
        QVERIFY(studio().currentPicture()->working); // the picture is still there to be seen
        enter(Station::HandOff);
        QVERIFY(!find<QPushButton>("hand-write")->isEnabled());
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        find<QLineEdit>("hand-folder")->setText(dir_.filePath("nowhere/at/all"));
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY2(notice().contains("folder exists"), qPrintable(notice()));
    }

    void savedJobsComeBack()
    {
        drop({YOKAI_DEMO_JOB});
        QCOMPARE(studio().job().pieces.size(), std::size_t(4));
        QVERIFY(!studio().modified());
        studio().edit("rename", [](Job& j) { j.name = "Second deck"; });
        QVERIFY(window_->isWindowModified());
        studio().save(dir_.filePath("second.yokai"));
        QVERIFY(settled());
        QVERIFY(!studio().modified());
        const Bytes saved = writeProject(studio().job());
        studio().newJob();
        QVERIFY(studio().job().pieces.empty());
        drop({dir_.filePath("second.yokai")});
        QCOMPARE(writeProject(studio().job()), saved);
    }

    void theBenchZoomsToThePointer()
    {
        drop({pictures_ + "river-imp.png"});
        Bench& bench = window_->bench();
        const QPoint at(300, 240);
        const QPointF before = bench.view().toMm(at);
        QWheelEvent wheel(at, bench.mapToGlobal(at), {}, QPoint(0, 360), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        const double scale = bench.view().scale;
        QApplication::sendEvent(&bench, &wheel);
        QVERIFY(bench.view().scale > 1.5 * scale);
        QVERIFY(QLineF(before, bench.view().toMm(at)).length() < 1e-6);
        // Space and drag moves what lies there along.
        QTest::keyPress(&bench, Qt::Key_Space);
        QTest::mousePress(&bench, Qt::LeftButton, {}, at);
        QMouseEvent move(QEvent::MouseMove, at + QPoint(60, -25), bench.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&bench, &move);
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, at + QPoint(60, -25));
        QTest::keyRelease(&bench, Qt::Key_Space);
        QVERIFY(QLineF(before, bench.view().toMm(at + QPoint(60, -25))).length() < 1e-6);
        QTest::keyClick(&bench, Qt::Key_F);
        QVERIFY(std::abs(bench.view().scale - scale) < 1e-9);
    }

    void numbersStepScrubAndScroll()
    {
        drop({pictures_ + "river-imp.png"});
        enter(Station::CutLines);
        auto* field = find<NumberField>("line-offset");
        const auto offset = [&] { return studio().job().pieces[0].cutLines.lines[0].offset; };
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClick(field, Qt::Key_Up);
        QCOMPARE(offset(), Length::um(2100));
        QTest::keyClick(field, Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(offset(), Length::um(2090));
        QWheelEvent wheel(QPointF(9, 9), field->mapToGlobal(QPointF(9, 9)), {}, QPoint(0, -120), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(field, &wheel);
        QCOMPARE(offset(), Length::um(2000));
        auto* slider = find<BeadSlider>("line-slider");
        QTest::mouseClick(slider, Qt::LeftButton, {}, QPoint(slider->width() - 2, 12));
        QCOMPARE(offset(), Length::mm(10));
        ScrubLabel* label = nullptr;
        for (ScrubLabel* l : window_->findChildren<ScrubLabel*>())
            if (l->buddy() == field)
                label = l;
        QVERIFY(label);
        QTest::mousePress(label, Qt::LeftButton, {}, QPoint(5, 5));
        QMouseEvent move(QEvent::MouseMove, QPointF(-35, 5), label->mapToGlobal(QPointF(-35, 5)), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(label, &move);
        QTest::mouseRelease(label, Qt::LeftButton, {}, QPoint(-35, 5));
        QCOMPARE(offset(), Length::mm(8));
        QVERIFY(settled());
        QCOMPARE(studio().currentResult()->lines[0].offset, Length::mm(8));
    }

    void cornersJoinsAndRadiiReachTheLine()
    {
        drop({pictures_ + "umbrella-imp.png"});
        enter(Station::CutLines);
        const double round = studio().currentResult()->lines[0].area;
        auto* corners = find<Segmented>("corners");
        corners->setFocus();
        QTest::keyClick(corners, Qt::Key_Right);
        QVERIFY(settled());
        QVERIFY(studio().currentResult()->lines[0].area > round + 5); // tips drawn out
        QTest::keyClick(corners, Qt::Key_Right);
        QVERIFY(settled());
        QVERIFY(studio().currentResult()->lines[0].area < round - 5); // tips cut flat
        QTest::keyClick(corners, Qt::Key_Left);
        QTest::keyClick(corners, Qt::Key_Left);
        type("round-inside", "1.5mm");
        QVERIFY(studio().currentResult()->lines[0].area > round + 5); // inside corners filled
        type("join-gap", "6mm");
        QCOMPARE(studio().currentResult()->lines[0].paths->size(), std::size_t(1)); // the crook has closed
    }

    void pastingAPicture()
    {
        QImage image(300, 200, QImage::Format_ARGB32);
        image.fill(Qt::white);
        for (int y = 60; y < 140; ++y)
            for (int x = 80; x < 220; ++x)
                image.setPixelColor(x, y, Qt::darkBlue);
        QApplication::clipboard()->setImage(image);
        QTest::keyClick(window_.get(), Qt::Key_V, Qt::ControlModifier);
        QVERIFY(QTest::qWaitFor([&] { return !studio().job().pieces.empty(); }, 5000));
        QVERIFY(settled());
        QCOMPARE(int(studio().currentResult()->coverage->rule), int(KeepRule::Paper));
        QCOMPARE(studio().currentResult()->parts->keptParts, 1);
        QCOMPARE(studio().job().pieces[0].artwork.picture.info.ppi, 300.0);
    }

    // The window's thread stays free while a heavy job is worked on.
    void theThreadStaysFree()
    {
        QImage big(2480, 3508, QImage::Format_ARGB32);
        big.fill(Qt::transparent);
        for (int y = 0; y < big.height(); ++y)
            for (int x = 0; x < big.width(); ++x)
                if ((x % 400 - 200) * (x % 400 - 200) + (y % 400 - 200) * (y % 400 - 200) < 150 * 150)
                    big.setPixel(x, y, 0xff336699);
        QVERIFY(big.save(dir_.filePath("big.png")));
        drop({dir_.filePath("big.png")});
        qint64 longest = 0;
        QElapsedTimer beat;
        QTimer timer;
        connect(&timer, &QTimer::timeout, this, [&] { longest = std::max(longest, beat.restart()); });
        for (int i = 0; i < 25; ++i) {
            studio().editPiece(
                "slide", [&](Piece& p) { p.cutLines.lines[0].offset = Length::um(1000 + 40 * i); }, "slide");
            if (i == 0) {
                timer.start(1);
                beat.start();
            }
            QTest::qWait(16);
        }
        QVERIFY(settled());
        timer.stop();
        qInfo("longest pause of the window's thread: %lld ms", longest);
        QVERIFY(studio().shown()->derived.pieces[0].lines[0].offset == Length::um(1960));
    }
};

QTEST_MAIN(TestWindow)
#include "test_window.moc"
