// Touch-up in the window: nodes by box, lasso and handles; stretches, areas, guides and bridges, drawn with the
// pointer and the keys.
#include "driver.h"

#include "desk/guides.h"
#include "desk/node_edits.h"
#include "path/crossings.h"

#include <numbers>

using namespace yokai;
using namespace yokai::test;

class TestDrawingByHand : public Driver {
    Q_OBJECT

    const std::vector<Edit>& edits() { return piece().lines()[0].edits; }
    const Paths& paths() { return *layer().lines[0].paths; }
    double area() { return areaOf(paths()); }
    std::size_t chosen()
    {
        std::size_t n = 0;
        for (const edits::NodesOn& on : edits::selectedNodes(desk()))
            n += on.nodes.size();
        return n;
    }
    void press(QPointF mm, Qt::KeyboardModifiers keys = {})
    {
        QTest::mouseMove(&window_->bench(), onBench(mm));
        QTest::mouseClick(&window_->bench(), Qt::LeftButton, keys, onBench(mm));
        QVERIFY(settled());
    }
    void key(int key)
    {
        window_->bench().setFocus();
        QTest::keyClick(&window_->bench(), Qt::Key(key));
        QVERIFY(settled());
    }
    // The line of 2 mm runs round the dark box of 15..45 by 10..30 mm, with sharp corners: four nodes at least.
    void touchUp()
    {
        drop({boxes()});
        enter(Station::TouchUp);
        desk().editLine("sharp", [](LineSpec& l) { l.corners = Corners::Sharp; });
        QVERIFY(settled());
        window_->bench().fit();
    }
    bool sound()
    {
        std::vector<Polyline> lines;
        for (const Path& path : paths()) {
            if (!path.closed)
                return false;
            lines.push_back(flatten(path, 0.005));
        }
        return crossingsAmong(lines, std::vector<bool>(lines.size(), true)).empty();
    }
    // Whether the through line's colour is to be seen there.
    bool lineAt(QPointF mm)
    {
        QTest::qWait(300); // the bench is drawn on a thread of its own
        const QImage image = window_->bench().grab().toImage();
        const QPoint at = onBench(mm);
        const QColor line = theme::lineColour(LineKind::Through);
        for (int y = at.y() - 2; y <= at.y() + 2; ++y)
            for (int x = at.x() - 2; x <= at.x() + 2; ++x)
                if (const QColor c = image.pixelColor(x, y); std::abs(c.red() - line.red()) + std::abs(c.green() - line.green()) + std::abs(c.blue() - line.blue()) < 40)
                    return true;
        return false;
    }
    void drawnAs(DrawnAs as) { choose("touch-drawn-as", int(as)); }

private slots:
    void initTestCase() { start(); }
    void init() { open(); }
    void cleanup() { close(); }

    void nodesByBoxAndLasso()
    {
        touchUp();
        drag({{40, 4}, {52, 14}}); // the corner at 47, 8
        QCOMPARE(chosen(), std::size_t(1));
        drag({{40, 26}, {52, 36}}, Qt::ShiftModifier); // and the one at 47, 32
        QCOMPARE(chosen(), std::size_t(2));
        const double before = area();
        key(Qt::Key_Right);
        QVERIFY2(std::abs(area() - before - 2.4) < 0.1, qPrintable(QString::number(area() - before))); // 24 mm by 0.1
        QCOMPARE(chosen(), std::size_t(2));
        desk().undo();
        QVERIFY(settled() && std::abs(area() - before) < 1e-9);
        // What it touches: the whole right side, by its ends.
        QTest::keyClick(find<Segmented>("touch-select-by"), Qt::Key_Right);
        QVERIFY(desk().hand().hold == Hold::NodeLasso);
        QTest::keyClick(find<Segmented>("touch-takes"), Qt::Key_Right);
        QVERIFY(desk().hand().takes == Takes::Touched);
        drag({{44, 18}, {50, 18}, {50, 22}, {44, 22}});
        QCOMPARE(chosen(), std::size_t(2));
        key(Qt::Key_Escape); // the lasso is put down, what it selected stays
        QVERIFY(desk().hand().hold == Hold::Nothing && chosen() == 2);
        // Dragged together by one of them, as one step.
        const std::size_t steps = edits().size();
        drag({{47, 8}, {50, 8}}, Qt::ControlModifier);
        QVERIFY2(std::abs(area() - before - 72) < 1.5, qPrintable(QString::number(area() - before)));
        QVERIFY(sound() && edits().size() > steps);
        desk().undo();
        QVERIFY(settled() && edits().size() == steps);
        press({30, 20}); // beside all: nothing is selected
        QCOMPARE(chosen(), std::size_t(0));
    }

    void handlesAndKindsOfNodes()
    {
        touchUp();
        const double before = area();
        // The right side becomes a curve, by its two corners.
        press({47, 8});
        press({47, 32}, Qt::ShiftModifier);
        click("touch-make-curved");
        const auto curves = [&] {
            std::size_t n = 0;
            for (const Path& path : paths())
                for (const Segment& s : path.segments)
                    n += !s.line;
            return n;
        };
        QVERIFY(curves() > 0);
        QCOMPARE(chosen(), std::size_t(2));
        click("touch-make-straight");
        QVERIFY(curves() == 0 && std::abs(area() - before) < 0.01);
        press({30, 20});
        press({47, 8});
        click("touch-make-curved");
        const auto on = edits::selectedNodes(desk());
        QCOMPARE(on.size(), std::size_t(1));
        const double bulged = area();
        const Point handle = handleOf(edits::pathOf(desk(), on[0]), on[0].nodes[0], Handle::After);
        drag({{handle.x, handle.y}, {handle.x + 2, handle.y}}, Qt::ControlModifier | Qt::AltModifier);
        QVERIFY(std::abs(area() - bulged) > 0.5);
        QVERIFY(sound());
        const double pulled = area();
        click("touch-node-smooth");
        QVERIFY(std::abs(area() - pulled) > 0.1);
        const auto turn = [&] {
            const auto now = edits::selectedNodes(desk());
            return turnAt(edits::pathOf(desk(), now.at(0)), now[0].nodes[0]);
        };
        QVERIFY2(turn() < 0.01, qPrintable(QString::number(turn())));
        click("touch-node-corner");
        QVERIFY(turn() > 0.5);
        press({30, 20});
        QVERIFY(!find<QAbstractButton>("touch-node-corner")->isEnabled()); // nothing is selected
    }

    // A stretch is deleted, and its ends are joined again; another is bridged, another drawn.
    void stretchesBecomeWhatIsChosen()
    {
        touchUp();
        const double before = area();
        key(Qt::Key_S);
        choose("touch-stretch-as", int(StretchAs::Nothing));
        drag({{25, 8}, {35, 8}});
        QVERIFY(edits().size() == 1 && edits()[0].kind == EditKind::Open);
        const auto open = [&] { return std::count_if(paths().begin(), paths().end(), [](const Path& p) { return !p.closed; }); };
        QCOMPARE(open(), 1);
        QVERIFY(!lineAt({30, 8})); // nor is anything drawn there
        QVERIFY(lineAt({20, 8}));
        QVERIFY(std::any_of(desk().shown()->derived.findings.begin(), desk().shown()->derived.findings.end(), [](const Finding& f) { return f.code == "open-line"; }));
        key(Qt::Key_J);
        drag({{25, 8}, {35, 8}});
        QCOMPARE(open(), 0);
        QVERIFY(lineAt({30, 8}));
        QVERIFY(std::abs(area() - before) < 0.01 && sound());
        key(Qt::Key_S);
        choose("touch-stretch-as", int(StretchAs::Drawn));
        drag({{20, 32}, {22, 36}, {26, 37}, {30, 32}});
        QVERIFY2(area() > before + 20 && area() < before + 45, qPrintable(QString::number(area() - before)));
        QVERIFY(sound());
        const double drawn = area();
        choose("touch-stretch-as", int(StretchAs::Smooth));
        drag({{47, 28}, {43, 32}}); // over the corner
        QVERIFY2(area() < drawn - 1 && sound(), qPrintable(QString::number(area() - drawn)));
        QCOMPARE(edits().size(), std::size_t(4));
    }

    void lumpsAreBrushedAway()
    {
        drop({pictures_ + "kettle-badger.jpg"});
        enter(Station::TouchUp);
        window_->bench().fit();
        const Path outer = paths()[0];
        const PathPlace a = along(outer, {0, 0, outer.start}, 5), b = along(outer, a, 4), c = along(outer, a, 8);
        key(Qt::Key_U);
        type("touch-smooth-brush", "3");
        Bench& bench = window_->bench();
        const Job before = desk().job();
        // It is tried while the brush moves, and Esc leaves the job as it was.
        QTest::mousePress(&bench, Qt::LeftButton, {}, onBench({a.at.x, a.at.y}));
        QTest::mouseMove(&bench, onBench({b.at.x, b.at.y}));
        QMouseEvent move(QEvent::MouseMove, onBench({b.at.x, b.at.y}), bench.mapToGlobal(onBench({b.at.x, b.at.y})), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&bench, &move);
        QVERIFY(desk().trying());
        QTest::keyClick(&bench, Qt::Key_Escape);
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, onBench({b.at.x, b.at.y}));
        QVERIFY(settled() && desk().job() == before);
        drag({{a.at.x, a.at.y}, {b.at.x, b.at.y}, {c.at.x, c.at.y}});
        QVERIFY(edits().size() == 1 && edits()[0].kind == EditKind::Smooth);
        const EditOutcome& outcome = layer().lines[0].edits[0];
        QVERIFY(outcome.fate == EditFate::Held);
        QVERIFY2(outcome.strayed >= 0 && outcome.strayed < 0.5, qPrintable(QString::number(outcome.strayed)));
        QVERIFY(sound());
        desk().undo();
        QVERIFY(settled() && edits().empty());
    }

    // Simplified: what was dragged along, what is selected, or all of an outline. The rest stays.
    void simplifyingTakesWhatIsMeant()
    {
        drop({pictures_ + "umbrella-imp.png"});
        enter(Station::TouchUp);
        window_->bench().fit();
        const Path before = paths()[0];
        const std::size_t all = before.segments.size();
        const auto there = [&](std::size_t node) { return before.segments[node].end; };
        const auto stayed = [&](std::size_t from, std::size_t to) { // nodes from..to are where they were
            for (std::size_t k = from; k <= to; ++k)
                if (nearestPlace(paths(), there(k))->away > 1e-6)
                    return false;
            return true;
        };
        std::vector<Point> some;
        for (std::size_t k = 2; k <= 12; ++k)
            some.push_back(there(k));
        desk().select(NodesSelected{layer().lines[0].id, some});
        key(Qt::Key_M);
        type("touch-simplify-stray", "0.3");
        press({there(6).x, there(6).y});
        QCOMPARE(edits().size(), std::size_t(1));
        QVERIFY(!(edits()[0].from == edits()[0].to));
        const std::size_t fewer = paths()[0].segments.size();
        QVERIFY2(fewer < all && stayed(13, all - 1), qPrintable(QString::number(fewer)));
        press({there(20).x, there(20).y}); // nothing is selected now but the edit: all of it
        QVERIFY(edits()[1].from == edits()[1].to);
        QVERIFY(paths()[0].segments.size() < fewer && sound());
    }

    // Straight lines that close at the first place; Backspace takes one back; a length and an angle are typed.
    void anOutlineIsDrawn()
    {
        touchUp();
        const double before = area();
        key(Qt::Key_X);
        drawnAs(DrawnAs::Lines);
        press({20, 14});
        press({30, 14});
        press({33, 30});
        key(Qt::Key_Backspace);
        QCOMPARE(desk().hand().sketch.at.size(), std::size_t(2));
        type("touch-leg", "12");
        type("touch-angle", "0");
        QVERIFY(distance(desk().hand().sketch.at[1], desk().hand().sketch.at[0] + Point{12, 0}) < 1e-6);
        window_->bench().setFocus();
        const Point second = desk().hand().sketch.at[1];
        press({second.x + 0.6, 24}, Qt::ShiftModifier); // held to 15 degrees: straight down
        QVERIFY(std::abs(desk().hand().sketch.at[2].x - second.x) < 1e-6);
        press({20, 14});
        QCOMPARE(edits().size(), std::size_t(1));
        QVERIFY(edits()[0].kind == EditKind::TakeAway && desk().hand().sketch.at.empty());
        const double triangle = 12 * 10 / 2.0;
        QVERIFY2(std::abs(before - area() - triangle) < 1, qPrintable(QString::number(before - area())));
        QVERIFY(sound());
        // Esc drops what is being drawn, and then puts the tool down.
        press({22, 16});
        key(Qt::Key_Escape);
        QVERIFY(desk().hand().sketch.at.empty() && desk().hand().hold == Hold::TakeArea);
        key(Qt::Key_Escape);
        QVERIFY(desk().hand().hold == Hold::Nothing);
    }

    void figuresAreDrawn()
    {
        touchUp();
        const double before = area();
        key(Qt::Key_W);
        drawnAs(DrawnAs::Circle);
        drag({{54, 36}, {56, 36}}, Qt::ControlModifier);
        QVERIFY2(std::abs(area() - before - 4 * std::numbers::pi) < 0.5, qPrintable(QString::number(area() - before)));
        QCOMPARE(paths().size(), std::size_t(3));
        key(Qt::Key_A);
        drawnAs(DrawnAs::Box);
        drag({{44, 15}, {52, 20}}, Qt::ControlModifier);
        QVERIFY2(std::abs(area() - before - 4 * std::numbers::pi - 25) < 1, qPrintable(QString::number(area() - before)));
        drawnAs(DrawnAs::RoundedBox);
        type("touch-box-radius", "1");
        drag({{44, 24}, {52, 29}}, Qt::ControlModifier);
        key(Qt::Key_X);
        drawnAs(DrawnAs::Ellipse);
        drag({{20, 14}, {30, 20}}, Qt::ControlModifier);
        drawnAs(DrawnAs::Brush);
        type("touch-brush", "2");
        const double unbrushed = area();
        drag({{20, 25}, {38, 25}});
        const double stroke = 18 * 2 + std::numbers::pi;
        QVERIFY2(std::abs(unbrushed - area() - stroke) < 0.6, qPrintable(QString::number(unbrushed - area())));
        drawnAs(DrawnAs::Curves);
        drag({{34, 12}, {36, 12}});
        drag({{38, 16}, {38, 18}});
        drag({{34, 20}, {32, 20}});
        press({34, 12});
        QCOMPARE(edits().size(), std::size_t(6));
        for (const EditOutcome& o : layer().lines[0].edits)
            QVERIFY(o.fate == EditFate::Held);
        QVERIFY(sound());
        for (int k = 0; k < 6; ++k)
            desk().undo();
        QVERIFY(settled() && std::abs(area() - before) < 1e-9);
    }

    // A patch outlined by hand: what was drawn is kept, and the line runs its distance round it.
    void aDrawnShapeIsKept()
    {
        touchUp();
        key(Qt::Key_Q);
        drawnAs(DrawnAs::Ellipse);
        drag({{12, 6}, {48, 34}}, Qt::ControlModifier);
        QVERIFY(piece().keep().rule == KeepRule::All && piece().keep().onlyInside.size() == 1);
        const double wanted = std::numbers::pi * 18 * 14;
        QVERIFY2(std::abs(keptArea() - wanted) < 3, qPrintable(QString::number(keptArea() - wanted)));
        QCOMPARE(paths().size(), std::size_t(1));
        QVERIFY(std::abs(bounds(paths()).width() - 40) < 0.3);
        desk().undo();
        QVERIFY(settled() && piece().keep().onlyInside.empty());
    }

    void guidesAndSnapping()
    {
        touchUp();
        Bench& bench = window_->bench();
        // Out of the upper ruler, onto 12 mm.
        const QPoint ruler(onBench({30, 12}).x(), 6);
        QTest::mousePress(&bench, Qt::LeftButton, {}, ruler);
        for (const QPoint at : {ruler + QPoint(0, 40), onBench({30, 12})}) {
            QMouseEvent move(QEvent::MouseMove, at, bench.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(&bench, &move);
        }
        QTest::mouseRelease(&bench, Qt::LeftButton, {}, onBench({30, 12}));
        QVERIFY(settled());
        QCOMPARE(piece().guides.size(), std::size_t(1));
        const StraightGuide level = edits::guides(desk())[0].line;
        QVERIFY(std::abs(level.a.y - 12) < 0.2 && std::abs(level.a.y - level.b.y) < 1e-9);
        // Between two places; held upright.
        key(Qt::Key_G);
        drag({{20, 14}, {20.3, 26}}, Qt::ShiftModifier);
        QCOMPARE(piece().guides.size(), std::size_t(2));
        const StraightGuide upright = edits::guides(desk())[1].line;
        QVERIFY(std::abs(upright.a.x - upright.b.x) < 1e-9);
        // A box is drawn from where they cross: exactly, though it was pressed beside it.
        key(Qt::Key_X);
        drawnAs(DrawnAs::Box);
        const double pixel = 1 / bench.view().scale;
        drag({{20 + 4 * pixel, level.a.y - 4 * pixel}, {30, 24}});
        const Rect box = bounds(*desk().layerResult()->lines[0].paths);
        QVERIFY(!box.empty());
        bool there = false;
        for (const Path& path : paths())
            for (const Segment& s : path.segments)
                there = there || distance(s.end, {upright.a.x, level.a.y}) < 1e-6;
        QVERIFY(there);
        // It stays in the picture when that is cropped, and goes on a press of Delete.
        key(Qt::Key_Escape);
        desk().editPiece("crop", [](Piece& p) { p.artwork.cropTo({2, 2, 58, 38}); });
        QVERIFY(settled());
        QVERIFY(std::abs(edits::guides(desk())[0].line.a.y - level.a.y + 2) < 0.01);
        desk().undo();
        QVERIFY(settled());
        press({55, level.a.y});
        QVERIFY(std::holds_alternative<GuideSelected>(desk().selection()));
        key(Qt::Key_Delete);
        QCOMPARE(piece().guides.size(), std::size_t(1));
    }

    void bridgesAreDragged()
    {
        touchUp();
        type("line-bridges", "3");
        const Path& path = paths()[0];
        const std::vector<Point> spread = bridgesOn(layer().lines[0], path);
        QCOMPARE(spread.size(), std::size_t(3));
        const Point to = along(path, *nearestPlace({path}, spread[0]), 4).at;
        drag({{spread[0].x, spread[0].y}, {to.x, to.y}});
        QVERIFY(edits().size() == 1 && edits()[0].kind == EditKind::Bridge);
        const std::vector<Point> now = bridgesOn(layer().lines[0], paths()[0]);
        QCOMPARE(now.size(), std::size_t(3));
        QVERIFY(std::any_of(now.begin(), now.end(), [&](Point p) { return distance(p, to) < 0.2; }));
        // The same one again is the same edit.
        const Point there = *std::min_element(now.begin(), now.end(), [&](Point a, Point b) { return distance(a, to) < distance(b, to); });
        const Point back = along(paths()[0], *nearestPlace({paths()[0]}, there), -2).at;
        drag({{there.x, there.y}, {back.x, back.y}});
        QCOMPARE(edits().size(), std::size_t(1));
        QVERIFY(std::abs(length(paths()[0]) - lengthOf(broken(paths()[0], breaksOf(layer().lines[0], paths()[0]))) - 1.5) < 0.01);
    }

    // As the handbook counts them: from an outline with three notches to a clean one with a tab.
    void aNotchedOutlineIsCleanInNineActs()
    {
        drop({painted(QStringLiteral("notched.png"), {400, 400}, 10'000, Qt::white, [](QPainter& p) {
            p.setRenderHint(QPainter::Antialiasing);
            p.setPen(Qt::NoPen);
            p.setBrush(QColor(30, 90, 60));
            p.drawEllipse(QPointF(200, 200), 150, 150);
            p.setBrush(Qt::white);
            for (const double turn : {60.0, 180.0, 300.0}) {
                p.save();
                p.translate(200, 200);
                p.rotate(turn);
                p.drawPolygon(QPolygonF{{-22, -155}, {22, -155}, {12, -100}, {-12, -100}});
                p.restore();
            }
        })});
        int acts = 0;
        enter(Station::TouchUp);
        ++acts;
        window_->bench().fit();
        const auto rim = [](double degrees) {
            const double a = degrees * std::numbers::pi / 180;
            return QPointF(20 + 17 * std::sin(a), 20 - 17 * std::cos(a));
        };
        key(Qt::Key_S);
        ++acts;
        choose("touch-stretch-as", int(StretchAs::Smooth));
        ++acts;
        for (const double turn : {60.0, 180.0, 300.0}) {
            drag({rim(turn - 15), rim(turn + 15)});
            ++acts;
        }
        key(Qt::Key_E);
        ++acts;
        press(rim(0));
        ++acts;
        click("touch-round-all");
        ++acts;
        QCOMPARE(acts, 9);
        QCOMPARE(paths().size(), std::size_t(2)); // the outline and the tab's hole
        QVERIFY(sound());
        for (const EditOutcome& o : layer().lines[0].edits)
            QVERIFY(o.fate == EditFate::Held);
        // Where the notches were the line runs on round: the disc and the tab, no less.
        const double disc = std::numbers::pi * 17 * 17;
        QVERIFY2(area() > disc - 3 && area() < disc + 80, qPrintable(QString::number(area() - disc)));
        for (const Finding& f : desk().shown()->derived.findings)
            QVERIFY2(f.code != "tight-corner" && f.code != "narrow-gap" && f.code != "thin-neck" && f.code != "lumpy", std::string(f.code).c_str());
    }

    void allInsideCorners()
    {
        touchUp();
        key(Qt::Key_A);
        drawnAs(DrawnAs::Box);
        drag({{44, 15}, {52, 20}}, Qt::ControlModifier); // two inside corners
        key(Qt::Key_Escape);
        const double before = area();
        click("touch-round-all");
        QVERIFY(edits().back().kind == EditKind::RoundInside);
        QCOMPARE(layer().lines[0].edits.back().rounded, 2);
        const double radius = desk().job().check.toolRadius.mm();
        QVERIFY(std::abs(area() - before - 2 * radius * radius * (1 - std::numbers::pi / 4)) < 0.01);
    }
};

DRIVEN_MAIN(TestDrawingByHand)
#include "test_drawing_by_hand.moc"
