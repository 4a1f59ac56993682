// Touch-up in the window: each tool by real presses and drags, the list of edits, and the findings
// that lead to their place.
#include "driver.h"

#include "desk/findings.h"
#include "desk/line_edits.h"
#include "side/side_list.h"
#include "side/side_rows.h"
#include "words.h"

#include <numbers>

using namespace yokai;
using namespace yokai::test;

class TestEdits : public Driver {
    Q_OBJECT

    const std::vector<Edit>& edits() { return piece().lines()[0].edits; }
    const Paths& paths() { return *layer().lines[0].paths; }
    double area() { return areaOf(paths()); }
    void press(QPointF mm)
    {
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, {}, onBench(mm));
        QVERIFY(settled());
    }
    int row(SideRow::Of of, int nth = 0)
    {
        const std::vector<SideRow> rows = sideRows(desk());
        for (int i = 0; i < int(rows.size()); ++i)
            if (rows[std::size_t(i)].of == of && nth-- == 0)
                return i;
        return -1;
    }
    QModelIndex inList(int row) { return window_->findChild<SideList*>()->model()->index(row, 0); }
    void touchUp()
    {
        drop({boxes()});
        enter(Station::TouchUp);
        window_->bench().fit();
    }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    // The line of 2 mm runs round the dark box of 15..45 by 10..30 mm, and round the small one.
    void aTabIsPressedOnTheLine()
    {
        touchUp();
        const double before = area();
        click("touch-tab");
        type("touch-tab-across", "8");
        press({30, 8});
        QCOMPARE(edits().size(), std::size_t(1));
        QCOMPARE(edits()[0].size, 8_mm);
        QCOMPARE(paths().size(), std::size_t(3)); // two outlines and the hole
        QVERIFY(area() > before + 10);
        QCOMPARE(desk().history().canUndo(), true);
        // It keeps its place when the line moves.
        enter(Station::CutLines);
        type("line-offset", "2.3");
        QCOMPARE(paths().size(), std::size_t(3));
        QVERIFY(std::abs(layer().lines[0].edits[0].at.x - 30) < 0.1 && layer().lines[0].edits[0].fate == EditFate::Held);
        desk().undo();
        desk().undo();
        QVERIFY(settled());
        QVERIFY(edits().empty() && std::abs(area() - before) < 1e-9);
        desk().redo();
        QVERIFY(settled());
        QCOMPARE(paths().size(), std::size_t(3));
    }

    void cornersHolesAndOutlines()
    {
        touchUp();
        desk().editLine("sharp", [](LineSpec& l) { l.corners = Corners::Sharp; });
        QVERIFY(settled());
        const double sharp = area();
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_R);
        type("touch-radius", "3");
        press({13, 8});
        QCOMPARE(edits().size(), std::size_t(1));
        // A quarter of a circle of 3 mm takes the place of a square of that side.
        QVERIFY2(std::abs(sharp - area() - 9 * (1 - std::numbers::pi / 4)) < 0.05, qPrintable(QString::number(sharp - area())));
        press({30, 20}); // no corner: nothing happens, and why is said
        QCOMPARE(edits().size(), std::size_t(1));

        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_H);
        press({20, 13});
        QCOMPARE(paths().size(), std::size_t(3));
        QVERIFY(edits().back().kind == EditKind::Hole);
        const CutLine& line = layer().lines[0];
        QVERIFY(line.holes.size() == 1 && distance(line.holes[0], {20, 13}) < 0.1);

        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_D);
        press({2, 20}); // the small box's line
        QCOMPARE(paths().size(), std::size_t(2));
        QVERIFY(edits().back().kind == EditKind::Drop);
    }

    void aStretchIsDraggedStraight()
    {
        drop({pictures_ + "river-imp.png"});
        enter(Station::TouchUp);
        window_->bench().fit();
        const Path outer = paths()[0];
        const PathPlace a{0, 0.5, pointOn(outer.start, outer.segments[0], 0.5)}, b = along(outer, a, 9);
        click("touch-straighten");
        drag({{a.at.x, a.at.y}, {b.at.x, b.at.y}});
        QCOMPARE(edits().size(), std::size_t(1));
        // The middle of the straight lies on the line now.
        const Point middle = mix(a.at, b.at, 0.5);
        QVERIFY(nearestPlace({outer}, middle)->away > 0.15);
        QVERIFY2(nearestPlace(paths(), middle)->away < 0.1, qPrintable(QString::number(nearestPlace(paths(), middle)->away)));
        // Esc in the middle leaves the job as it was.
        Bench& bench = window_->bench();
        const Job before = desk().job();
        QTest::mousePress(&bench, Qt::LeftButton, {}, onBench({b.at.x, b.at.y}));
        QTest::keyClick(&bench, Qt::Key_Escape);
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, onBench({a.at.x, a.at.y}));
        QVERIFY(settled() && desk().job() == before);
    }

    void nodesAreDraggedNudgedAndTaken()
    {
        drop({pictures_ + "river-imp.png"});
        enter(Station::TouchUp);
        Bench& bench = window_->bench();
        bench.fit();
        const Path before = paths()[0];
        std::size_t smooth = 0;
        while (turnAt(before, smooth) > 0.01)
            ++smooth;
        const Point node = before.segments[smooth].end;
        const QPointF at{node.x, node.y}, to = at + QPointF(1, -0.5);
        drag({at, to});
        QCOMPARE(edits().size(), std::size_t(1));
        const double pixel = 1 / bench.view().scale;
        QVERIFY(nearestPlace(paths(), {to.x(), to.y()})->away < 2 * pixel);
        QCOMPARE(paths()[0].segments.size(), before.segments.size());
        // The same node again is the same edit, another step.
        const Point moved = std::get<NodesSelected>(desk().selection()).at.at(0);
        bench.setFocus();
        QTest::keyClick(&bench, Qt::Key_Right);
        QVERIFY(settled());
        QTest::keyClick(&bench, Qt::Key_Up, Qt::ShiftModifier);
        QVERIFY(settled());
        QCOMPARE(edits().size(), std::size_t(1));
        QVERIFY(distance(std::get<NodesSelected>(desk().selection()).at.at(0), moved + Point{0.1, -0.01}) < 1e-6);
        QVERIFY(nearestPlace(paths(), moved + Point{0.1, -0.01})->away < 0.01);
        desk().undo();
        desk().undo();
        QVERIFY(settled() && nearestPlace(paths(), moved)->away < 0.01 && edits().size() == 1);
        desk().undo();
        QVERIFY(settled() && edits().empty());
        // One is taken out; the outline has one less and stays near.
        press(at);
        bench.setFocus();
        QTest::keyClick(&bench, Qt::Key_Delete);
        QVERIFY(settled());
        QCOMPARE(paths()[0].segments.size(), before.segments.size() - 1);
        // And in a picture seen in a mirror.
        desk().undo();
        desk().editPiece("mirror", [](Piece& p) { p.artwork.mirrorAcross(); });
        QVERIFY(settled());
        bench.fit();
        const Path mirror = paths()[0];
        smooth = 0;
        while (turnAt(mirror, smooth) > 0.01)
            ++smooth;
        const QPointF from{mirror.segments[smooth].end.x, mirror.segments[smooth].end.y};
        drag({from, from + QPointF(0.8, 0.8)}, Qt::ControlModifier); // not drawn to what is near
        QVERIFY(layer().lines[0].edits[0].fate == EditFate::Held);
        QVERIFY(nearestPlace(paths(), {from.x() + 0.8, from.y() + 0.8})->away < 2 * pixel);
        desk().editPiece("mirror", [](Piece& p) { p.artwork.mirrorAcross(); });
        QVERIFY(settled());
        QVERIFY(layer().lines[0].edits[0].fate == EditFate::Held);
        QVERIFY2(nearestPlace(paths(), {result().width - from.x() - 0.8, from.y() + 0.8})->away < 3 * pixel, "where it was, the other way round");
    }

    void theListHoldsEveryEdit()
    {
        touchUp();
        click("touch-tab");
        press({30, 8});
        press({13, 20});
        click("touch-tab"); // put down
        QCOMPARE(edits().size(), std::size_t(2));
        const double both = area();
        auto* list = window_->findChild<SideList*>();
        const int first = row(SideRow::Of::Edit);
        QVERIFY(first >= 0 && row(SideRow::Of::Edit, 1) == first + 1);
        list->setFocus();
        list->setCurrentIndex(inList(first));
        QCOMPARE(std::get<EditSelected>(desk().selection()).edit, edits()[0].id);
        QTest::keyClick(list, Qt::Key_Return); // off, and on again
        QVERIFY(settled() && !edits()[0].on && area() < both - 10);
        list->setCurrentIndex(inList(row(SideRow::Of::Edit)));
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(settled() && edits()[0].on && std::abs(area() - both) < 1e-9);
        list->setFocus();
        list->setCurrentIndex(inList(row(SideRow::Of::Edit)));
        const EditId other = edits()[1].id;
        QTest::keyClick(list, Qt::Key_Delete);
        QVERIFY(settled());
        QVERIFY(edits().size() == 1 && edits()[0].id == other);
        // One that loses its place is said, and is still there.
        desk().editPiece("crop", [](Piece& p) { p.artwork.cropTo({25, 0, 60, 40}); });
        QVERIFY(settled());
        QVERIFY(std::any_of(desk().shown()->derived.findings.begin(), desk().shown()->derived.findings.end(), [](const Finding& f) { return f.code == "lost-edit"; }));
        QVERIFY(sideRows(desk())[std::size_t(row(SideRow::Of::Edit))].detail.contains("lost its place"));
        QVERIFY(!layer().lines[0].edits[0].ghost.empty());
    }

    void areasAndNodesAreAdded()
    {
        touchUp();
        const double before = area();
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_X);
        drag({{28, 4}, {34, 4}, {34, 10}, {28, 10}}); // 2 mm deep into the line's upper side at y = 8
        QCOMPARE(edits().size(), std::size_t(1));
        QVERIFY2(std::abs(before - area() - 12) < 0.6, qPrintable(QString::number(before - area())));
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key_A);
        drag({{46, 18}, {50, 18}, {50, 22}, {46, 22}});
        QVERIFY2(std::abs(before - area() - 12 + 12) < 1, qPrintable(QString::number(before - area()))); // 3 of its 4 mm lie outside
        // An area of the picture stays with it in a new size.
        desk().editPiece("larger", [](Piece& p) { p.artwork.setWidth(90_mm); });
        QVERIFY(settled());
        for (const EditOutcome& o : layer().lines[0].edits)
            QVERIFY(o.fate == EditFate::Held);
        desk().undo();
        QVERIFY(settled());
        click("touch-add-node");
        const std::size_t nodes = layer().lines[0].nodes;
        press({20, 32});
        QCOMPARE(layer().lines[0].nodes, nodes + 1);
        QVERIFY(std::abs(std::get<NodesSelected>(desk().selection()).at.at(0).x - 20) < 0.2);
    }

    void aLostEditIsPlacedAgain()
    {
        touchUp();
        click("touch-tab");
        press({13, 20});
        click("touch-tab");
        desk().editPiece("crop", [](Piece& p) { p.artwork.cropTo({25, 0, 60, 40}); });
        QVERIFY(settled());
        window_->bench().fit();
        QVERIFY(layer().lines[0].edits[0].fate == EditFate::NoPlace);
        auto* list = window_->findChild<SideList*>();
        const QModelIndex index = inList(row(SideRow::Of::Edit));
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, static_cast<const SideDelegate*>(list->itemDelegate())->pressBox(list->rowAt(index), list->visualRect(index)).center());
        QVERIFY(desk().hand().hold == Hold::PlaceEdit);
        press({10, 8});
        QVERIFY(layer().lines[0].edits[0].fate == EditFate::Held);
        QVERIFY(desk().hand().hold == Hold::Nothing);
        QCOMPARE(edits().size(), std::size_t(1));
        desk().undo();
        QVERIFY(settled() && layer().lines[0].edits[0].fate == EditFate::NoPlace);
    }

    void aTabIsDraggedAlongTheLine()
    {
        touchUp();
        desk().setUnit(Unit::Inch);
        click("touch-tab");
        press({30, 8});
        desk().setUnit(Unit::Mm);
        QCOMPARE(edits()[0].size, Length::inches(0.42)); // as it comes in inches
        QCOMPARE(edits()[0].hole, Length::inches(0.2));
        click("touch-tab");
        const Point at = layer().lines[0].edits[0].at;
        const EditId id = edits()[0].id;
        drag({{at.x, at.y}, {36, 5}, {40, 7.5}});
        QVERIFY(edits().size() == 1 && edits()[0].id == id);
        QVERIFY2(std::abs(layer().lines[0].edits[0].at.x - 40) < 0.2, qPrintable(QString::number(layer().lines[0].edits[0].at.x)));
        desk().undo();
        QVERIFY(settled() && std::abs(layer().lines[0].edits[0].at.x - at.x) < 1e-6);
    }

    void findingsLeadToTheirPlace()
    {
        drop({YOKAI_DEMO_JOB});
        desk().setPiece(0);
        enter(Station::TouchUp);
        std::vector<std::size_t> here = findingsAt(desk(), Station::TouchUp);
        const std::size_t all = here.size();
        // One edit of the demo has no place, which the list of edits says.
        QCOMPARE(std::erase_if(here, [&](std::size_t k) { return desk().shown()->derived.findings[k].code == "lost-edit"; }), std::size_t(1));
        QVERIFY(here.size() > 3);
        auto* list = window_->findChild<SideList*>();
        for (const int nth : {0, 3}) {
            list->setCurrentIndex(inList(row(SideRow::Of::Finding, nth)));
            QTest::qWait(20);
            const Finding& f = desk().shown()->derived.findings[here[std::size_t(nth)]];
            const QPointF at = window_->bench().view().toScreen({f.at.x, f.at.y});
            QVERIFY(window_->bench().rect().adjusted(40, 40, -40, -40).contains(at.toPoint()));
            QVERIFY(window_->bench().view().scale >= 20);
            QVERIFY(std::get<FindingSelected>(desk().selection()).is(f));
        }
        // A larger tool finds more, none finds nothing of it.
        unfold();
        type("tool-radius", "0");
        QCOMPARE(findingsAt(desk(), Station::TouchUp).size(), std::size_t(1));
        desk().undo();
        QVERIFY(settled());
        QCOMPARE(findingsAt(desk(), Station::TouchUp).size(), all);
    }

    // One press mends one, or all of a kind; one step each.
    void onePressMends()
    {
        drop({YOKAI_DEMO_JOB});
        desk().setPiece(2);
        enter(Station::TouchUp);
        const auto tight = [&] {
            int n = 0;
            for (const std::size_t k : findingsAt(desk(), Station::TouchUp))
                n += desk().shown()->derived.findings[k].code == "tight-corner";
            return n;
        };
        const int before = tight();
        QVERIFY(before >= 4);
        auto* list = window_->findChild<SideList*>();
        const auto pressOf = [&](SideRow::Of of) {
            const QModelIndex index = inList(row(of));
            const auto* delegate = static_cast<const SideDelegate*>(list->itemDelegate());
            list->scrollTo(index);
            return delegate->pressBox(list->rowAt(index), list->visualRect(index)).center();
        };
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, pressOf(SideRow::Of::Finding));
        QVERIFY(settled());
        QCOMPARE(tight(), before - 1);
        QCOMPARE(edits().size(), std::size_t(1));
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, pressOf(SideRow::Of::Kind));
        QVERIFY(settled());
        QVERIFY2(tight() == 0, qPrintable(QString::number(tight())));
        QCOMPARE(edits().size(), std::size_t(before));
        desk().undo();
        desk().undo();
        QVERIFY(settled());
        QVERIFY(tight() == before && edits().empty());
        // By the keyboard too.
        list->setFocus();
        list->setCurrentIndex(inList(row(SideRow::Of::Finding)));
        QTest::keyClick(list, Qt::Key_Return);
        QVERIFY(settled());
        QCOMPARE(tight(), before - 1);
    }

    void bridgesAreWritten()
    {
        touchUp();
        type("line-bridges", "3");
        type("bridge-width", "1");
        QCOMPARE(piece().lines()[0].bridges, 3);
        const CutLine& line = layer().lines[0];
        for (const Path& path : *line.paths) {
            const Paths pieces = broken(path, breaksOf(line, path));
            QCOMPARE(pieces.size(), std::size_t(3));
            QVERIFY(std::abs(length(path) - lengthOf(pieces) - 3) < 0.01);
        }
    }
};

DRIVEN_MAIN(TestEdits)
#include "test_edits.moc"
