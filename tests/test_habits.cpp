// What a maker relies on without thinking of it: nothing is lost, nothing stale goes out,
// a gesture is one step, and everything can be stopped.

#include "driver.h"
#include "trail/trail.h"

#include <QAccessible>
#include <QElapsedTimer>
#include <QFileDialog>
#include <QLocale>

#include <random>

using namespace yokai;
using namespace yokai::test;

class TestHabits : public Driver {
    Q_OBJECT

    // A picture heavy enough to be stopped in the middle of.
    QString heavy()
    {
        return painted("heavy.png", {3600, 5000}, 23622, Qt::white, [](QPainter& p) {
            for (int i = 0; i < 60; ++i) {
                p.setBrush(QColor(40 + 3 * i, 80, 120));
                p.drawEllipse(QPointF(320 + (i % 6) * 590, 260 + double(i / 6) * 490), 270, 220);
            }
        });
    }
    Length offset() { return desk().job().pieces[0].lines()[0].offset; }
    void send(QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons)
    {
        Bench& bench = window_->bench();
        QMouseEvent event(type, at, bench.mapToGlobal(at), button, buttons, Qt::NoModifier);
        QApplication::sendEvent(&bench, &event);
    }
    void undoByKey() { QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier); }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    // Stop leaves the old result on the screen, says so, and lets none of it out.
    void stoppedIsStale()
    {
        drop({heavy()});
        enter(Station::HandOff);
        QVERIFY(find<QPushButton>("hand-write")->isEnabled());
        desk().editLayer("rule", [](Layer& l) { l.keep.level = 12; });
        QVERIFY(!desk().upToDate());
        desk().stop();
        QTRY_VERIFY(desk().stalled());
        QVERIFY(!desk().current() && !find<QPushButton>("hand-write")->isEnabled());
        enter_(Station::Cut);
        QVERIFY(!find<QPushButton>("cut-run")->isEnabled());
        auto* resume = find<QToolButton>("resume");
        QVERIFY(resume->isVisible());
        QTest::mouseClick(resume, Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(desk().current() && find<QPushButton>("cut-run")->isEnabled() && !resume->isVisible());
        QCOMPARE(desk().layerResult()->coverage->level, 12.0);
    }
    void enter_(Station s) { desk().setStation(s); }

    // What is changed while a job is being saved is not saved.
    void editsDuringASaveAreNotSaved()
    {
        drop({boxes()});
        window_->files().save(dir_.filePath("during.yokai"));
        desk().editLine("offset", [](LineSpec& l) { l.offset = 4_mm; });
        QVERIFY(settled());
        QVERIFY(desk().modified() && window_->isWindowModified());
        QCOMPARE(openProject(dir_.filePath("during.yokai").toStdString()).pieces[0].lines()[0].offset, 2_mm);
        undoByKey(); // back to what was saved
        QVERIFY(settled());
        QVERIFY(!desk().modified());
    }

    // What is typed counts without Return: for a key of the window, for a press that takes no focus, and for closing.
    void whatIsTypedCounts()
    {
        drop({boxes()});
        enter_(Station::CutLines);
        QVERIFY(settled());
        const auto typed = [&](const char* text) {
            auto* field = find<QLineEdit>("line-offset");
            QTest::mouseClick(field, Qt::LeftButton);
            field->selectAll();
            QTest::keyClicks(field, text);
            QVERIFY(field->hasFocus() && field->isModified());
        };
        const auto offset = [](const Job& job) { return job.pieces[0].layers[0].lines[0].offset.mm(); };
        const QString path = dir_.filePath("typed.yokai");
        window_->files().save(path);
        QVERIFY(settled());
        typed("3.5");
        QTest::keyClick(window_->windowHandle(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(settled());
        QCOMPARE(offset(openProject(path.toStdString())), 3.5);
        typed("4.5");
        QTest::mouseClick(find<QAbstractButton>("undo"), Qt::LeftButton); // of what was typed
        QVERIFY(settled());
        QCOMPARE(offset(desk().job()), 3.5);
        desk().redo();
        QVERIFY(settled());
        QCOMPARE(offset(desk().job()), 4.5);
        typed("5.5");
        answer("not-saved", "Save");
        window_->close();
        QVERIFY(answered_ && settled());
        QCOMPARE(offset(openProject(path.toStdString())), 5.5);
    }

    // A cut tried while the job is changed is not shown as the new job's.
    void aCutIsOfItsOwnJob()
    {
        drop({YOKAI_DEMO_JOB});
        enter(Station::Cut);
        QTest::mouseClick(find<QPushButton>("cut-run"), Qt::LeftButton);
        QTRY_VERIFY(desk().machining().busy());
        desk().edit("gap", [](Job& j) { j.sheet.gap = 4_mm; });
        QVERIFY(settled());
        QVERIFY(!desk().testCut());
        undoByKey(); // the job it was made with
        QVERIFY(settled());
        QVERIFY(desk().testCut());
    }

    // A job dropped over one that is not saved asks; going back leaves all as it was.
    void nothingUnsavedIsReplacedUnasked()
    {
        drop({boxes()});
        desk().editLine("offset", [](LineSpec& l) { l.offset = 5_mm; });
        const Job before = desk().job();
        answer("not-saved", "Go back");
        drop({YOKAI_DEMO_JOB});
        QVERIFY(answered_ && desk().job() == before && desk().history().canUndo());
        // Closing asks too.
        answer("not-saved", "Go back");
        window_->close();
        QVERIFY(answered_ && window_->isVisible());
        // Saved first, it is then replaced, and lies on the disk.
        window_->files().save(dir_.filePath("kept.yokai"));
        QVERIFY(settled());
        desk().editLine("offset", [](LineSpec& l) { l.offset = 6_mm; });
        answer("not-saved", "Save");
        drop({YOKAI_DEMO_JOB});
        QTRY_COMPARE(desk().job().pieces.size(), std::size_t(4));
        QVERIFY(settled());
        QCOMPARE(openProject(dir_.filePath("kept.yokai").toStdString()).pieces[0].lines()[0].offset, 6_mm);
        // Discarded on closing, it is gone; nothing was changed, nothing is asked.
        desk().edit("gap", [](Job& j) { j.sheet.gap = 7_mm; });
        answer("not-saved", "Discard");
        window_->close();
        QVERIFY(answered_);
        QTRY_VERIFY(!window_->isVisible());
    }

    // By keys alone, and at the largest text: Enter gives the first answer, Escape goes back, and every answer can be read.
    void questionsAreAnsweredByKeys()
    {
        drop({boxes()});
        desk().editLine("offset", [](LineSpec& l) { l.offset = 5_mm; });
        const Job before = desk().job();
        theme::setTextSize(theme::largestText);
        bool fits = true;
        const auto by = [&](Qt::Key key) {
            return [&fits, key](QDialog& box) {
                for (QPushButton* b : box.findChildren<QPushButton*>())
                    fits = fits && b->width() >= b->sizeHint().width() && box.rect().contains(b->geometry());
                QTest::keyClick(&box, key);
            };
        };
        atQuestion("not-saved", by(Qt::Key_Escape));
        drop({YOKAI_DEMO_JOB});
        QVERIFY(answered_ && fits && desk().job() == before);
        window_->files().save(dir_.filePath("keys.yokai"));
        QVERIFY(settled());
        desk().editLine("offset", [](LineSpec& l) { l.offset = 6_mm; });
        atQuestion("not-saved", by(Qt::Key_Return));
        drop({YOKAI_DEMO_JOB});
        QTRY_COMPARE(desk().job().pieces.size(), std::size_t(4));
        QVERIFY(settled());
        QVERIFY(fits && openProject(dir_.filePath("keys.yokai").toStdString()).pieces[0].lines()[0].offset == 6_mm);
        theme::setTextSize(theme::usualText);
    }

    void filesAreNotReplacedUnasked()
    {
        drop({boxes()});
        enter(Station::HandOff);
        const QString folder = dir_.filePath("hand");
        QDir().mkpath(folder);
        find<QLineEdit>("hand-folder")->setText(folder);
        for (const char* id : {"hand-print", "hand-combined", "hand-dxf"})
            QTest::mouseClick(find<QWidget>(id), Qt::LeftButton, {}, QPoint(8, 8));
        const QString file = folder + "/" + QDir(folder).entryList().value(0, "boxes-0-cut.svg").replace(".", "boxes-0-cut.svg");
        write(file, "mine");
        answer("replace-files", "Go back");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(answered_);
        QCOMPARE(read(file), QByteArray("mine"));
        answer("replace-files", "Replace");
        QTest::mouseClick(find<QPushButton>("hand-write"), Qt::LeftButton);
        QVERIFY(settled());
        QVERIFY(read(file).startsWith("<?xml"));
    }

    // The name is whole before it is asked whether to replace it.
    void savingAppendsItsEndingFirst()
    {
        drop({boxes()});
        write(dir_.filePath("there.yokai"), "somebody's");
        bool asked = false;
        QTimer timer;
        connect(&timer, &QTimer::timeout, this, [&] {
            if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget())) {
                asked = true;
                box->reject();
                return;
            }
            if (auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget())) {
                if (asked) {
                    dialog->reject();
                    return;
                }
                dialog->setDirectory(dir_.path());
                dialog->findChild<QLineEdit*>("fileNameEdit")->setText("there");
                QMetaObject::invokeMethod(dialog, "accept", Qt::QueuedConnection); // a timer does not fire inside itself
            }
        });
        timer.start(50);
        window_->saveJobAs();
        QVERIFY(asked);
        QVERIFY(settled());
        QCOMPARE(read(dir_.filePath("there.yokai")), QByteArray("somebody's"));
    }

    // Two drags of a slider are two steps; Esc in the middle of one leaves the job as it was.
    void aGestureIsOneStep()
    {
        drop({boxes()});
        enter(Station::CutLines);
        auto* slider = find<BeadSlider>("line-offset-slider");
        const auto dragTo = [&](double from, double to, bool escape) {
            const int y = slider->height() / 2, w = slider->width();
            QTest::mousePress(slider, Qt::LeftButton, {}, QPoint(int(w * from), y));
            for (int k = 1; k <= 5; ++k) {
                const QPointF at(w * (from + (to - from) * k / 5), y);
                QMouseEvent move(QEvent::MouseMove, at, slider->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
                QApplication::sendEvent(slider, &move);
                QTest::qWait(5);
            }
            if (escape)
                QTest::keyClick(slider, Qt::Key_Escape);
            QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(int(w * to), y));
        };
        dragTo(0.5, 0.7, false);
        const Length first = offset();
        dragTo(0.7, 0.9, false);
        const Length second = offset();
        QVERIFY(first > 2_mm && second > first);
        dragTo(0.9, 0.2, true);
        QCOMPARE(offset(), second);
        undoByKey();
        QCOMPARE(offset(), first);
        undoByKey();
        QCOMPARE(offset(), 2_mm);
        QVERIFY(settled());
        QCOMPARE(desk().lineResult()->offset, 2_mm);
    }

    // A second button pressed during a stroke changes nothing of it; Esc gives it up.
    void aSecondButtonDoesNotLoseAStroke()
    {
        drop({boxes()});
        enter(Station::Keep);
        QTest::keyClick(&window_->bench(), Qt::Key_R);
        QCOMPARE(int(desk().hand().hold), int(Hold::RubOut));
        const auto at = [&](double x, double y) { return window_->bench().view().toScreen(QPointF(x, y)); };
        send(QEvent::MouseButtonPress, at(30, 8), Qt::LeftButton, Qt::LeftButton);
        send(QEvent::MouseMove, at(30, 16), Qt::NoButton, Qt::LeftButton);
        send(QEvent::MouseButtonPress, at(30, 18), Qt::RightButton, Qt::LeftButton | Qt::RightButton);
        send(QEvent::MouseButtonRelease, at(30, 20), Qt::RightButton, Qt::LeftButton);
        send(QEvent::MouseMove, at(30, 32), Qt::NoButton, Qt::LeftButton);
        QVERIFY(piece().keep().touches.empty()); // not before the release
        send(QEvent::MouseButtonRelease, at(30, 32), Qt::LeftButton, Qt::NoButton);
        QVERIFY(settled());
        QCOMPARE(piece().keep().touches.size(), std::size_t(1));
        QCOMPARE(layer().parts->keptParts, 3);
        // Given up by Esc: no stroke, and no ghost of one.
        QEvent leave(QEvent::Leave);
        QApplication::sendEvent(&window_->bench(), &leave);
        const QImage before = window_->bench().grab().toImage();
        send(QEvent::MouseButtonPress, at(20, 12), Qt::LeftButton, Qt::LeftButton);
        send(QEvent::MouseMove, at(45, 12), Qt::NoButton, Qt::LeftButton);
        QTest::keyClick(&window_->bench(), Qt::Key_Escape);
        send(QEvent::MouseButtonRelease, at(45, 12), Qt::LeftButton, Qt::NoButton);
        QVERIFY(settled());
        QCOMPARE(piece().keep().touches.size(), std::size_t(1));
        QApplication::sendEvent(&window_->bench(), &leave);
        QCOMPARE(window_->bench().grab().toImage(), before);
        QCOMPARE(int(desk().hand().hold), int(Hold::RubOut)); // the tool itself is still in hand
    }

    // Random presses, moves, keys and changes of focus and station: it lives, holds no draft, and
    // everything can be undone to the beginning.
    void randomButtonsOnTheBench()
    {
        const Job first = desk().job();
        drop({boxes()});
        QTimer nothingChosen; // an empty bench asks for pictures when it is pressed
        connect(&nothingChosen, &QTimer::timeout, this, [] {
            if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget()))
                dialog->reject();
        });
        nothingChosen.start(5);
        std::mt19937 random(20261125);
        const auto pick = [&](auto... values) {
            const std::initializer_list<std::common_type_t<decltype(values)...>> all{values...};
            return *(all.begin() + int(random() % all.size()));
        };
        Qt::MouseButtons down;
        for (int i = 0; i < 900; ++i) {
            const QPointF at(40 + random() % 640, 40 + random() % 560);
            const auto button = pick(Qt::LeftButton, Qt::LeftButton, Qt::RightButton, Qt::MiddleButton);
            switch (random() % 12) {
            case 0:
            case 1:
            case 2:
                if (!(down & button)) {
                    down |= button;
                    send(QEvent::MouseButtonPress, at, button, down);
                }
                break;
            case 3:
            case 4:
                if (down & button) {
                    down &= ~Qt::MouseButtons(button);
                    send(QEvent::MouseButtonRelease, at, button, down);
                }
                break;
            case 5:
            case 6:
            case 7:
                send(QEvent::MouseMove, at, Qt::NoButton, down);
                break;
            case 8:
                QTest::keyClick(&window_->bench(),
                                pick(Qt::Key_R, Qt::Key_A, Qt::Key_L, Qt::Key_P, Qt::Key_G, Qt::Key_C, Qt::Key_X, Qt::Key_O, Qt::Key_Escape));
                break;
            case 9:
                QTest::keyClick(&window_->bench(), pick(Qt::Key_Return, Qt::Key_Delete, Qt::Key_F, Qt::Key_T, Qt::Key_Left, Qt::Key_Plus, Qt::Key_BracketLeft));
                break;
            case 10:
                desk().setStation(Station(random() % 5));
                break;
            default:
                find<QToolButton>("menu")->setFocus();
                window_->bench().setFocus();
            }
            if (random() % 40 == 0)
                undoByKey();
        }
        window_->bench().giveUp();
        QVERIFY(!desk().trying());
        QVERIFY(settled(120'000));
        while (desk().history().canUndo())
            desk().undo();
        QVERIFY(settled(120'000));
        QVERIFY(desk().job() == first);
    }

    // Undo across pieces shows the piece it is about, with nothing of the other selected.
    void undoAcrossPieces()
    {
        drop({pictures_ + "moon-rabbit.png", pictures_ + "kettle-badger.jpg"});
        enter(Station::Keep);
        desk().setPiece(0);
        type("keep-smallest", "3");
        desk().setPiece(1);
        QVERIFY(settled());
        desk().select(PartsSelected{{0, 1}});
        undoByKey();
        QCOMPARE(desk().piece(), 0);
        QVERIFY(desk().selectedParts().empty());
        QVERIFY(settled());
        // A duplicate is another piece, with names of its own.
        QTest::keyClick(window_.get(), Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(desk().job().pieces.size(), std::size_t(3));
        QCOMPARE(desk().piece(), 1);
        QVERIFY(desk().job().pieces[0].id != desk().job().pieces[1].id);
        QVERIFY(desk().job().pieces[0].lines()[0].id != desk().job().pieces[1].lines()[0].id);
        QVERIFY(settled());
    }

    void allStationsAreAlwaysThere_data() { textSizes(); }
    // All eight stations are on the screen, whatever unfolds, at 1280x800 and smaller; the window
    // fits its screen.
    void allStationsAreAlwaysThere()
    {
        QFETCH(int, size);
        withTextOf(size);
        drop({boxes()});
        desk().editLayer("lines", [](Layer& l) { l.lines.resize(6); });
        QVERIFY(window_->frameGeometry().height() <= window_->screen()->availableGeometry().height());
        for (const QSize screen : {QSize(1280, 772), QSize(960, 620)}) {
            window_->resize(screen.expandedTo(window_->minimumSize()));
            for (int s = 0; s < stationCount; ++s) {
                enter(Station(s));
                unfold();
                for (const StationCard* card : window_->trail().cards()) {
                    const QRect at(card->mapTo(window_.get(), QPoint()), card->size());
                    QVERIFY2(window_->rect().contains(at) && card->height() >= 20 &&
                                 window_->trail().geometry().contains(card->geometry().translated(window_->trail().pos())),
                             qPrintable(QString("%1 at %2x%3 with %4 open").arg(card->accessibleName()).arg(screen.width()).arg(screen.height()).arg(s)));
                }
            }
        }
        for (QAbstractButton* fold : window_->trail().findChildren<QAbstractButton*>())
            if (fold->objectName().startsWith("fold-"))
                fold->setChecked(false);
    }

    // What we draw ourselves says what it is, and can be pressed, by those who do not see it.
    void drawnControlsSpeak()
    {
        drop({YOKAI_DEMO_JOB});
        enter(Station::CutLines);
        auto* corners = QAccessible::queryAccessibleInterface(find<Segmented>("line-corners"));
        QCOMPARE(corners->text(QAccessible::Name), QString("Corners"));
        QCOMPARE(corners->childCount(), 3);
        QCOMPARE(corners->child(1)->text(QAccessible::Name), QString("Sharp"));
        QCOMPARE(int(corners->child(1)->role()), int(QAccessible::RadioButton));
        QVERIFY(corners->child(0)->state().checked && !corners->child(1)->state().checked);
        corners->child(1)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QVERIFY(settled());
        QCOMPARE(int(piece().lines()[0].corners), int(Corners::Sharp));
        QVERIFY(corners->child(1)->state().checked);
        auto* chips = QAccessible::queryAccessibleInterface(find<Chips>("chips"));
        QCOMPARE(chips->childCount(), 5);
        QVERIFY(chips->child(0)->state().selected);
        chips->child(2)->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
        QCOMPARE(desk().piece(), 2);
        auto* lines = QAccessible::queryAccessibleInterface(find<QWidget>("line-rows"));
        QCOMPARE(lines->childCount(), int(piece().lines().size()));
        QVERIFY(lines->child(0)->text(QAccessible::Name).startsWith("Kiss"));
        QVERIFY(settled());
    }

    // A screen says how large its pixels are; at 100 % a mm on it is a mm.
    void trueSizeIsTrue()
    {
        drop({boxes()});
        QTest::keyClick(&window_->bench(), Qt::Key_T);
        const double dpi = window_->screen()->physicalDotsPerInch();
        if (dpi > 40 && dpi < 1000)
            QVERIFY(std::abs(window_->bench().view().scale - dpi / 25.4) < 1e-6);
        bool hundred = false;
        for (const QLabel* l : window_->findChildren<QLabel*>())
            hundred |= l->text() == "100 %";
        QVERIFY(hundred);
    }

    // The locale's decimal sign in and out; files stay as they are.
    void decimalCommas()
    {
        drop({boxes()});
        const Bytes before = writeProject(desk().job());
        QLocale::setDefault(QLocale(QLocale::German, QLocale::Germany));
        desk().setUnit(Unit::Inch);
        desk().setUnit(Unit::Mm);
        enter(Station::CutLines);
        auto* field = find<NumberField>("line-offset");
        QCOMPARE(field->text(), QString("2,00 mm"));
        type("line-offset", "2,25");
        QCOMPARE(offset(), Length::um(2250));
        QCOMPARE(field->text(), QString("2,25 mm"));
        type("line-offset", "2");
        QCOMPARE(writeProject(desk().job()), before);
        QLocale::setDefault(QLocale::c());
    }

    // Clicking meets shapes, not boxes: in the box of a ring, but in its opening.
    void clickingMeetsShapes()
    {
        drop({painted("ring.png", {600, 600}, 10'000, Qt::transparent, [](QPainter& p) {
            p.setPen(QPen(Qt::darkBlue, 60));
            p.drawEllipse(QPointF(300, 300), 220, 220);
        })});
        enter(Station::Keep);
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({30, 52}));
        QCOMPARE(desk().selectedParts(), std::vector{0});
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({30, 30}));
        QCOMPARE(desk().selectedParts(), std::vector{1}); // the opening
        QVERIFY(layer().parts->all[1].opening);
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench({7, 7}));
        QVERIFY(desk().selectedParts().empty()); // the corner of its box
    }

    // While a drag goes on something is seen of it, however long a run takes.
    void aLongDragIsSeen()
    {
        drop({heavy()});
        enter(Station::Keep);
        int seen = 0;
        connect(&desk(), &Desk::shownChanged, this, [&] { ++seen; });
        for (int i = 0; seen < 2 && i < 500; ++i) { // a new value long before the run of the last can end
            desk().tryOut([i](Job& j) { j.pieces[0].keep().level = 6 + 0.01 * i; });
            QTest::qWait(40);
        }
        QVERIFY2(seen >= 2, qPrintable(QString::number(seen)));
        desk().drop();
        QVERIFY(settled());
        QVERIFY(!piece().keep().level);
        disconnect(&desk(), &Desk::shownChanged, this, nullptr);
    }
};

DRIVEN_MAIN(TestHabits)
#include "test_habits.moc"
