// Copies placed by hand on the sheets, as a maker does it: press, drag, keys and presses; and what comes of orders and recipes
// in the window.

#include "desk/placings.h"
#include "desk/recipes.h"
#include "driver.h"
#include "trail/rows.h"

using namespace yokai;
using namespace yokai::test;

class TestPlacing : public Driver {
    Q_OBJECT
    const Layout& layout() { return desk().shown()->derived.sheet; }
    Rect box(const Placement& p) { return edits::boxOf(desk(), p); }
    // The middle of a copy on the sheet, wherever it is hit; the first of a piece.
    Point middleOf(std::size_t k) { return box(layout().placements[k]).centre(); }
    void press(std::size_t k, Qt::KeyboardModifiers modifiers = {})
    {
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, modifiers, onBench(q(middleOf(k))));
    }
    void dragFrom(Point from, Point to, Qt::KeyboardModifiers modifiers = {})
    {
        QTest::mousePress(&window_->bench(), Qt::LeftButton, modifiers, onBench(q(from)));
        moveTo(mix(from, to, 0.5), modifiers);
        moveTo(to, modifiers);
        QTest::mouseRelease(&window_->bench(), Qt::LeftButton, modifiers, onBench(q(to)));
        QVERIFY(settled());
    }
    void moveTo(Point to, Qt::KeyboardModifiers modifiers)
    {
        QMouseEvent event(QEvent::MouseMove, QPointF(onBench(q(to))), window_->bench().mapToGlobal(QPointF(onBench(q(to)))), Qt::NoButton, Qt::LeftButton, modifiers);
        QApplication::sendEvent(&window_->bench(), &event);
    }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = {})
    {
        QTest::keyClick(&window_->bench(), key, modifiers);
        QVERIFY(settled());
    }
    void pressButton(const char* name)
    {
        auto* button = find<QAbstractButton>(name);
        QVERIFY2(button && button->isEnabled(), name);
        QTest::mouseClick(button, Qt::LeftButton);
        QVERIFY(settled());
    }
    void openFold(const QString& id)
    {
        for (auto* fold : window_->findChildren<Fold*>())
            if (fold->objectName().contains(id) && !fold->isChecked())
                fold->click();
    }
    std::vector<CopiesSelected::Copy> selected()
    {
        const auto* copies = std::get_if<CopiesSelected>(&desk().selection());
        return copies ? copies->copies : std::vector<CopiesSelected::Copy>{};
    }

private slots:
    void initTestCase() { start(); }
    void init()
    {
        open();
        drop({boxes()});
        desk().editPiece("six", [](Piece& p) { p.copies = 6; });
        QVERIFY(settled());
        enter(Station::Sheet);
        window_->bench().fit();
    }
    void cleanup() { window_.reset(); }

    // A copy is dragged: it stays put while the rest is laid out again round it; undo takes it back.
    void aCopyIsDragged()
    {
        const Point from = middleOf(0), to{105, 200};
        const double width = box(layout().placements[0]).width();
        dragFrom(from, to, Qt::ControlModifier); // nothing pulls
        QCOMPARE(desk().job().placings.size(), 1u);
        const Placing& placing = desk().job().placings[0];
        QVERIFY(distance({placing.x.mm(), placing.y.mm()}, to) < 1);
        QCOMPARE(layout().placed[0], 6);
        QCOMPARE(selected().size(), 1u);
        const Rect own = box(layout().placements[0]);
        desk().edit("gap", [](Job& job) { job.sheet.gap = 7_mm; });
        QVERIFY(settled());
        QVERIFY(box(layout().placements[0]) == own && std::abs(own.width() - width) < 1e-9);
        for (std::size_t k = 1; k < layout().placements.size(); ++k)
            QVERIFY(!box(layout().placements[k]).grown(7 - 1e-6).overlaps(own));
        desk().undo();
        desk().undo();
        QVERIFY(settled());
        QVERIFY(desk().job().placings.empty());
    }

    // What is carried follows the pointer before it is let go, all of it where it will lie; Esc gives it up.
    void whatIsCarriedIsSeen()
    {
        press(0);
        press(1, Qt::ShiftModifier);
        const Point one = middleOf(0), other = middleOf(1), by{60, 150};
        const auto inkAt = [&](Point mm) {
            const QImage image = window_->bench().grab().toImage();
            const QPoint at = onBench(q(mm)) * image.devicePixelRatio();
            return qGray(image.pixel(at)) < 240;
        };
        const auto seen = [&] { return inkAt(one + by + Point{4, 4}) && inkAt(other + by + Point{4, 4}); };
        QVERIFY(QTest::qWaitFor([&] { return !inkAt(one + by) && !inkAt(other + by); }, 5'000));
        QTest::mousePress(&window_->bench(), Qt::LeftButton, Qt::ControlModifier, onBench(q(one)));
        moveTo(one + by * 0.5, Qt::ControlModifier);
        moveTo(one + by, Qt::ControlModifier);
        QVERIFY(QTest::qWaitFor(seen, 5'000));
        QTest::keyClick(&window_->bench(), Qt::Key_Escape);
        QVERIFY(!seen());
        QTest::mouseRelease(&window_->bench(), Qt::LeftButton, {}, onBench(q(one + by)));
        QVERIFY(desk().job().placings.empty());
    }

    // Near the margin, the sheet's middle and other copies it is pulled there; Shift keeps to one axis.
    void copiesArePulled()
    {
        const Rect area = layoutArea(desk().job().sheet);
        Rect own = box(layout().placements[0]);
        const double pixel = 1 / window_->bench().view().scale;
        dragFrom(own.centre(), {area.x1 - own.width() / 2 - 3 * pixel, 180});
        own = box(layout().placements[0]);
        QVERIFY(std::abs(own.x1 - area.x1) < 1e-3);
        dragFrom(own.centre(), {105 + 4 * pixel, 180 + 2 * pixel});
        QVERIFY(std::abs(box(layout().placements[0]).centre().x - 105) < 1e-3);
        const Rect before = box(layout().placements[0]);
        dragFrom(before.centre(), before.centre() + Point{-30, 6}, Qt::ShiftModifier | Qt::ControlModifier);
        QVERIFY(std::abs(box(layout().placements[0]).y0 - before.y0) < 1e-3 && std::abs(box(layout().placements[0]).x0 - before.x0 + 30) < 1);
    }

    // Several by Shift, by a box and by Ctrl+A; keys nudge, turn, mirror and remove; one gesture is one step.
    void keysWorkOnTheSelected()
    {
        press(0);
        press(1, Qt::ShiftModifier);
        QCOMPARE(selected().size(), 2u);
        const Rect first = box(layout().placements[0]), second = box(layout().placements[1]);
        key(Qt::Key_Right);
        key(Qt::Key_Right);
        key(Qt::Key_Down, Qt::ShiftModifier);
        const auto copies = edits::selectedCopies(desk());
        QCOMPARE(copies.size(), 2u);
        QVERIFY(distance({box(copies[0]).x0, box(copies[0]).y0}, Point{first.x0 + 2, first.y0 + 0.1}) < 1e-3);
        QVERIFY(distance({box(copies[1]).x0, box(copies[1]).y0}, Point{second.x0 + 2, second.y0 + 0.1}) < 1e-3);
        key(Qt::Key_R);
        Rect both = box(edits::selectedCopies(desk())[0]);
        both.add(box(edits::selectedCopies(desk())[1]));
        QVERIFY(std::abs(both.height() - (second.x1 - first.x0)) < 1e-3); // about the middle of both
        key(Qt::Key_M);
        QVERIFY(desk().job().placings[0].mirror && desk().job().placings[1].mirror);
        QTest::keyClick(&window_->bench(), Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(selected().size(), layout().placements.size());
        desk().select({});
        press(0);
        press(1, Qt::ShiftModifier);
        const int before = *desk().job().pieces[0].copies;
        key(Qt::Key_Delete);
        QCOMPARE(*desk().job().pieces[0].copies, before - 2);
        QVERIFY(desk().job().placings.empty() && layout().placements.size() == 4);
        QTest::keyClick(&window_->bench(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        QCOMPARE(layout().placements.size(), 6u);
        // A box round all of them.
        desk().select({});
        for (int k = 0; k < 3; ++k)
            QTest::keyClick(&window_->bench(), Qt::Key_Minus);
        dragFrom({-90, -60}, {208, 240});
        QCOMPARE(selected().size(), 6u);
        key(Qt::Key_Escape);
        QVERIFY(selected().empty());
    }

    // The presses of the panel: aligned to one another and to the margin, spread, duplicated, a mirrored one beside, locked, grouped, laid out again.
    void pressesOfThePanel()
    {
        openFold("sheet-hand");
        dragFrom(middleOf(0), {60, 150}, Qt::ControlModifier);
        press(1);
        dragFrom(middleOf(1), {100, 170}, Qt::ControlModifier);
        press(2);
        dragFrom(middleOf(2), {160, 210}, Qt::ControlModifier);
        QCOMPARE(desk().job().placings.size(), 3u);
        press(0);
        press(1, Qt::ShiftModifier);
        press(2, Qt::ShiftModifier);
        pressButton("sheet-align-top");
        for (const Placement& p : edits::selectedCopies(desk()))
            QVERIFY(std::abs(box(p).y0 - box(layout().placements[0]).y0) < 1e-3);
        pressButton("sheet-spread-across");
        const auto spread = edits::selectedCopies(desk());
        QVERIFY(std::abs((box(spread[1]).x0 - box(spread[0]).x1) - (box(spread[2]).x0 - box(spread[1]).x1)) < 1e-3);
        find<QComboBox>("sheet-align-to")->setCurrentIndex(3);
        pressButton("sheet-align-bottom");
        for (const Placement& p : edits::selectedCopies(desk()))
            QVERIFY(std::abs(box(p).y1 - layoutArea(desk().job().sheet).y1) < 1e-3);
        pressButton("sheet-group");
        press(0);
        QCOMPARE(selected().size(), 3u);
        pressButton("sheet-ungroup");
        press(0);
        QCOMPARE(selected().size(), 1u);
        pressButton("sheet-lock");
        const Rect own = box(layout().placements[0]);
        dragFrom(own.centre(), own.centre() + Point{20, -30}, Qt::ControlModifier);
        QVERIFY(box(layout().placements[0]) == own);
        pressButton("sheet-lock");
        auto* across = find<NumberField>("place-x");
        QTest::mouseClick(across, Qt::LeftButton);
        across->selectAll();
        QTest::keyClicks(across, "40");
        QTest::keyClick(across, Qt::Key_Return);
        QVERIFY(settled());
        QVERIFY(std::abs(box(layout().placements[0]).centre().x - 40) < 1e-3);
        const std::size_t copies = layout().placements.size();
        pressButton("sheet-copy-mirrored");
        QVERIFY(layout().placements.size() == copies + 1 && desk().job().placings.back().mirror);
        pressButton("sheet-copy-across");
        QCOMPARE(layout().placements.size(), copies + 2);
        pressButton("sheet-lay-again"); // the selected one alone
        QCOMPARE(desk().job().placings.size(), 4u);
        desk().select({});
        QVERIFY(settled());
        pressButton("sheet-lay-again");
        QVERIFY(desk().job().placings.empty() && layout().placements.size() == copies + 2);
    }

    // Put onto another it is an error, nearer than the gap a warning, beyond the margin an error; each said once, and gone when mended.
    void badPlacesAreFound()
    {
        const auto found = [&](const char* code) {
            int n = 0;
            for (const Finding& f : desk().shown()->derived.findings)
                n += f.code == code;
            return n;
        };
        dragFrom(middleOf(0), {100, 200}, Qt::ControlModifier);
        QVERIFY(!found("copies-close") && !found("outside-reach"));
        const Rect own = box(layout().placements[0]);
        dragFrom(middleOf(1), own.centre() + Point{5, 0}, Qt::ControlModifier);
        QCOMPARE(found("copies-close"), 1);
        edits::moveCopies(desk(), {own.width() - 5 + 1.5, 0});
        QVERIFY(settled());
        QCOMPARE(found("copies-close"), 1);
        for (const Finding& f : desk().shown()->derived.findings)
            if (f.code == "copies-close")
                QVERIFY(f.severity == Severity::Warning && f.value > 0.5 && f.value < 3 && f.limit == 3);
        edits::moveCopies(desk(), {200, 0});
        QVERIFY(settled());
        QVERIFY(!found("copies-close") && found("outside-reach") == 1);
        for (const auto& [at, button] : {std::pair(Station::HandOff, "hand-write"), std::pair(Station::Cut, "cut-run")}) {
            enter(at);
            QVERIFY(!find<QPushButton>(button)->isEnabled());
            const auto notes = window_->findChildren<QLabel*>();
            QVERIFY(std::any_of(notes.begin(), notes.end(), [](const QLabel* l) { return l->isVisible() && l->text().startsWith("A copy of") && l->text().endsWith("nothing is printed or cut."); }));
        }
        desk().undo();
        QVERIFY(settled() && find<QPushButton>("cut-run")->isEnabled());
    }

    // The knob turns, by whole steps with Shift; a copy let go over the next sheet lies there.
    void copiesGoToOtherSheets()
    {
        desk().editPiece("many", [](Piece& p) { p.copies = 60; });
        QVERIFY(settled());
        QVERIFY(layout().sheets > 1);
        press(3);
        const Rect own = box(layout().placements[3]);
        const double away = 26 / window_->bench().view().scale;
        const Point knob{own.centre().x, own.y0 - away};
        dragFrom(knob, own.centre() + Point{own.height() / 2 + away, 1}, Qt::ShiftModifier);
        QCOMPARE(desk().job().placings.size(), 1u);
        QCOMPARE(desk().job().placings[0].turn, 90.0);
        QTest::keyClick(&window_->bench(), Qt::Key_Minus);
        QTest::keyClick(&window_->bench(), Qt::Key_Minus);
        dragFrom(box(layout().placements[0]).centre(), {210 + 20 + 100, 200}, Qt::ControlModifier);
        QCOMPARE(desk().job().placings[0].sheet, 1);
        QVERIFY(std::abs(desk().job().placings[0].x.mm() - 100) < 2);
        QVERIFY(std::any_of(layout().on(1).begin(), layout().on(1).end(), [](const Placement& p) { return bool(p.placing); }));
        QTest::keyClick(&window_->bench(), Qt::Key_PageDown);
        QCOMPARE(desk().sheet(), 1);
        bool listed = false;
        for (int k = 0; k < window_->findChild<SideList*>()->model()->rowCount(); ++k)
            listed = listed || window_->findChild<SideList*>()->model()->index(k, 0).data(Qt::AccessibleTextRole).toString().contains("Sheet 2");
        QVERIFY(listed);
    }

    // A mark is dragged; every sheet has it there, print and cut alike.
    void aMarkIsDragged()
    {
        const Point was = layout().marks[1].centre;
        dragFrom(was, was + Point{-20, 4});
        QVERIFY(distance(layout().marks[1].centre, was + Point{-20, 4}) < 1 && layout().marks[0].centre == (Point{12, 12}));
        desk().undo();
        QVERIFY(settled() && layout().marks[1].centre == was);
    }

    // Nested, something better is shown while it is looked for; stopped, the best is kept and may be written. At the piece's own
    // stations nothing is nested.
    void nestingIsStopped()
    {
        enter(Station::CutLines);
        desk().edit("nest", [](Job& job) {
            job.sheet.layout = LayoutKind::Nest;
            job.sheet.nest.seconds = 120;
            job.pieces[0].copies.reset();
        });
        QVERIFY(settled());
        QVERIFY(layout().waits && layout().placements.empty());
        enter(Station::Sheet);
        QVERIFY(QTest::qWaitFor([&] { return desk().shown()->nesting && !layout().placements.empty(); }, 30'000));
        QVERIFY(!desk().current());
        desk().stop();
        QVERIFY(QTest::qWaitFor([&] { return desk().current(); }, 10'000));
        QVERIFY(layout().placements.size() > 10 && !layout().waits);
        const Layout best = layout();
        enter(Station::CutLines);
        enter(Station::HandOff);
        QVERIFY(desk().current() && layout().placements.size() == best.placements.size());
        // It is saved and opened as it is: 120 s are not spent again.
        window_->files().save(dir_.filePath("nested.yokai"));
        QVERIFY(settled());
        desk().edit("rows", [](Job& job) { job.sheet.layout = LayoutKind::Grid; });
        QVERIFY(settled());
        window_->files().save(dir_.filePath("rows.yokai"));
        QVERIFY(settled());
        window_->files().open({dir_.filePath("nested.yokai")});
        QVERIFY(settled());
        enter(Station::Sheet);
        QVERIFY(QTest::qWaitFor([&] { return desk().current() && layout().placements.size() == best.placements.size(); }, 20'000));
        for (std::size_t k = 0; k < best.placements.size(); ++k)
            QVERIFY(layout().placements[k].toSheet == best.placements[k].toSheet);
    }

    // Gone to the sheet while what was changed before is still worked on, it is laid out there all the same.
    void aStationIsEnteredInBetween()
    {
        enter(Station::CutLines);
        desk().edit("nest", [](Job& job) {
            job.sheet.layout = LayoutKind::Nest;
            job.sheet.nest.seconds = 1;
        });
        desk().setStation(Station::Sheet);
        QVERIFY(QTest::qWaitFor([&] { return desk().current() && layout().placements.size() == 6; }, 20'000));
    }

    // An order list dropped on the window becomes pieces with their counts and sizes; a bad row is named and adds nothing.
    void anOrderIsDropped()
    {
        const std::size_t before = desk().job().pieces.size();
        write(dir_.filePath("order.csv"), QByteArray("file,copies,width\n" YOKAI_DEMO_PICTURES "/river-imp.png,25,30mm\n" YOKAI_DEMO_PICTURES "/moon-rabbit.png,8,\n"));
        drop({dir_.filePath("order.csv")});
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), before + 2);
        QVERIFY(desk().job().pieces[before].copies == 25 && std::abs(desk().job().pieces[before].artwork.width() - 30) < 1e-9);
        write(dir_.filePath("bad.csv"), "missing.png,2\n");
        drop({dir_.filePath("bad.csv")});
        QVERIFY(settled());
        QCOMPARE(desk().job().pieces.size(), before + 2);
        QVERIFY2(notice().contains("ine 1 of 'bad.csv'"), qPrintable(notice()));
    }

    // A size of one's own and a layout of marks, kept under names, used again in another job, dropped.
    void sizesAndMarksAreKept()
    {
        openFold("sheet-margins");
        openFold("sheet-marks-fold");
        desk().edit("own", [](Job& job) {
            job.sheet.media = {"custom", 123_mm, 456_mm};
            job.sheet.marks.style = MarkStyle::Crosses;
            job.sheet.marks.count = 7;
        });
        QVERIFY(settled());
        const Job wanted = desk().job();
        for (const char* name : {"kept-sizes-name", "kept-marks-name"})
            QTest::keyClicks(find<QLineEdit>(name), "Boat / 7");
        pressButton("kept-sizes-keep");
        pressButton("kept-marks-keep");
        desk().edit("other", [](Job& job) { job.sheet = SheetSpec{}; });
        QVERIFY(settled());
        QCOMPARE(find<QComboBox>("kept-sizes-list")->currentText(), QString("Boat / 7"));
        pressButton("kept-sizes-use");
        pressButton("kept-marks-use");
        QVERIFY(desk().job().sheet.media == wanted.sheet.media && desk().job().sheet.marks == wanted.sheet.marks);
        desk().undo();
        QVERIFY(settled() && desk().job().sheet.marks == MarkSpec{});
        pressButton("kept-marks-drop");
        QVERIFY(!find<QAbstractButton>("kept-marks-use")->isEnabled());
        pressButton("kept-sizes-drop");
    }

    // A recipe is kept, put on another piece, and on each new one.
    void aRecipeIsKept()
    {
        enter(Station::Artwork);
        openFold("recipe");
        desk().editPiece("settings", [](Piece& p) {
            p.lines() = {{LineKind::Kiss, 1_mm}, {LineKind::Through, 3_mm}};
            p.bleed().distance = 2_mm;
        });
        QVERIFY(settled());
        QTest::keyClicks(find<QLineEdit>("recipe-name"), "Stand: 3 mm");
        pressButton("recipe-keep");
        QCOMPARE(recipes::names(), QStringList{"Stand: 3 mm"});
        QTest::mouseClick(find<QAbstractButton>("recipe-on-new"), Qt::LeftButton, {}, QPoint(8, 8));
        drop({QStringLiteral(YOKAI_DEMO_PICTURES) + "/river-imp.png"});
        QVERIFY(settled());
        QVERIFY(desk().currentPiece()->lines().size() == 2 && desk().currentPiece()->bleed().distance == 2_mm);
        enter(Station::Artwork);
        desk().editPiece("other", [](Piece& p) { p.lines() = {{LineKind::Through, 5_mm}}; });
        QVERIFY(settled());
        pressButton("recipe-use");
        QCOMPARE(desk().currentPiece()->lines().size(), 2u);
        desk().undo();
        QVERIFY(settled());
        QCOMPARE(desk().currentPiece()->lines().size(), 1u);
        pressButton("recipe-drop");
        QVERIFY(recipes::names().isEmpty() && recipes::forNew().isEmpty());
    }
};

DRIVEN_MAIN(TestPlacing)
#include "test_placing.moc"
