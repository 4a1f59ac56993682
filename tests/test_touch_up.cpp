// Work by hand on the lines: shapes put together and cut as GEOS has it, corners rounded by the
// tangent-arc construction, tabs, and edits that find their place again after what lies under them changed.
#include "geos.h"
#include "job/derive.h"
#include "outline/figures.h"
#include "path/fit.h"
#include "path/boolean.h"
#include "path/crossings.h"
#include "shapes.h"
#include "touchup/anchor.h"
#include "touchup/nodes.h"
#include "touchup/outlines.h"
#include "touchup/round.h"
#include "touchup/snap.h"
#include "touchup/stretch.h"

#include <QTest>

#include <cmath>
#include <functional>
#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double pi = std::numbers::pi;

double areaByGeos(const Paths& a, const Paths& b, bool unite)
{
    const Geos geos;
    const auto shape = [&](const Paths& paths) {
        std::vector<Polyline> lines;
        for (const Path& path : paths)
            lines.push_back(flatten(path, 1e-4));
        return geos.region(lines);
    };
    const auto x = shape(a), y = shape(b);
    return unite ? geos.together(x, y) : geos.area(x) - geos.common(x, y);
}

Path lobed(Point centre, double radius, int lobes, double turn)
{
    Path path;
    const int n = 4 * lobes;
    const auto at = [&](int k) {
        const double angle = turn + 2 * pi * k / n;
        return centre + Point{std::cos(angle), std::sin(angle)} * (radius * (1 + 0.25 * std::cos(lobes * (angle - turn))));
    };
    path.start = at(0);
    for (int k = 0; k < n; ++k) { // through its points, each with the direction of its neighbours
        const Point before = at(k - 1), from = at(k), to = at(k + 1), after = at(k + 2);
        path.curveTo(from + (to - before) * (1.0 / 6), to - (after - from) * (1.0 / 6), to);
    }
    path.segments.back().end = path.start;
    return path;
}

} // namespace

class TestTouchUp : public QObject {
    Q_OBJECT
private slots:
    void curvesAreCombinedAsGeosHasIt()
    {
        std::mt19937 random(5);
        const auto real = [&](double least, double most) { return least + (most - least) * double(random() % 10'000) / 10'000; };
        int crossed = 0;
        for (int k = 0; k < 60; ++k) {
            Paths a{lobed({0, 0}, real(4, 9), 3 + k % 5, real(0, 6))};
            if (k % 3 == 0)
                a.push_back(reversed(ellipseFigure({0, 0}, real(0.5, 2), real(0.5, 2))));
            const Paths b{k % 2 ? lobed({real(-9, 9), real(-9, 9)}, real(2, 6), 4, real(0, 6)) : boxFigure({real(-9, 0), real(-9, 0), real(1, 9), real(1, 9)}, real(0, 0.4))};
            for (const Combine how : {Combine::Unite, Combine::TakeAway}) {
                const auto result = combined(a, b, how);
                QVERIFY2(result, qPrintable(QString::number(k)));
                const double wanted = areaByGeos(a, b, how == Combine::Unite), got = areaOf(*result);
                QVERIFY2(std::abs(wanted - got) < 0.02, qPrintable(QStringLiteral("%1: %2 for %3").arg(k).arg(got).arg(wanted)));
                for (const Path& path : *result)
                    QVERIFY(path.closed && selfCrossings(flatten(path, 0.005), 1).empty());
                crossed += result->size() != a.size() + b.size();
            }
        }
        QVERIFY(crossed > 40);
        // What is not crossed comes out as it was, node for node.
        const Path box = boxFigure({0, 0, 10, 10});
        const auto apart = combined({box}, {ellipseFigure({30, 5}, 3, 3)}, Combine::Unite);
        QVERIFY(apart && apart->size() == 2 && apart->front().segments.size() == box.segments.size() && apart->front().start == box.start);
        const auto hole = combined({box}, {ellipseFigure({5, 5}, 3, 3)}, Combine::TakeAway);
        QVERIFY(hole && hole->size() == 2 && std::abs(areaOf(*hole) - (100 - 9 * pi)) < 1e-3);
        const auto within = combined({box}, {ellipseFigure({5, 5}, 3, 3)}, Combine::Unite);
        QVERIFY(within && within->size() == 1 && std::abs(areaOf(*within) - 100) < 1e-9);
    }

    // Between straight sides an arc of radius r touches them r tan(turn/2) before the corner; what it cuts
    // off is r2 (tan(turn/2) - turn/2).
    void cornersAreRounded()
    {
        for (const double degrees : {30.0, 60.0, 90.0, 120.0, 150.0})
            for (const double radius : {0.25, 1.0}) {
                const double inner = degrees * pi / 180, turn = pi - inner;
                const Path wedge = polygonPath(Polyline{{0, 0}, {40, 0}, {40 * std::cos(inner), 40 * std::sin(inner)}}); // its corner at (0, 0)
                std::size_t node = wedge.segments.size();
                for (std::size_t k = 0; k < wedge.segments.size(); ++k)
                    if (norm(wedge.segments[k].end) < 1e-9)
                        node = k;
                const auto round = rounded(wedge, node, radius);
                QVERIFY(round);
                const double off = radius * radius * (std::tan(turn / 2) - turn / 2);
                QVERIFY2(std::abs(std::abs(areaOf({wedge})) - std::abs(areaOf({*round})) - off) < 1e-4, qPrintable(QString::number(degrees)));
                const auto touch = nearestPlace({*round}, {radius * std::tan(turn / 2), 0});
                QVERIFY(touch->away < 1e-4);
                for (std::size_t k = 0; k < round->segments.size(); ++k) // smooth where it touches
                    QVERIFY(norm(round->segments[k].end) > 35 || turnAt(*round, k) < 0.01);
            }
        // Between curves: the arc touches both circles.
        const auto lens = combined({ellipseFigure({0, 0}, 10, 10)}, {ellipseFigure({14, 0}, 8, 8)}, Combine::Unite);
        QVERIFY(lens && lens->size() == 1);
        Path path = lens->front();
        const double before = areaOf({path});
        int corners = 0;
        for (int round = 0; round < 2; ++round)
            for (std::size_t k = 0; k < path.segments.size(); ++k)
                if (turnAt(path, k) > 0.2) {
                    const auto result = rounded(path, k, 1.5);
                    QVERIFY(result);
                    path = *result;
                    ++corners;
                    break;
                }
        QCOMPARE(corners, 2);
        QVERIFY(areaOf({path}) > before + 0.5);
        for (std::size_t k = 0; k < path.segments.size(); ++k)
            QVERIFY2(turnAt(path, k) < 0.02, qPrintable(QString::number(turnAt(path, k))));
        // The largest that fits in a notch 4 mm deep and wide: its corners take 90 degrees each.
        const Path box = boxFigure({0, 0, 8, 4});
        QVERIFY(!rounded(box, 0, 4.5));
        QVERIFY2(std::abs(largestRadius(box, 0, 10) - 4) < 0.01, qPrintable(QString::number(largestRadius(box, 0, 10))));
    }

    // Nodes: one added leaves the shape, and taken out again gives back what was; one moved takes its handles
    // along; taken out of a circle of eight curves, the rest stays within a tenth of a mm.
    void nodesAreMovedAddedAndTaken()
    {
        const Path path = lobed({0, 0}, 8, 5, 0.4);
        const auto with = [&](const Path& of, const Redrawn& r) { return withStretch(of, r.from, r.to, r.stretch); };
        const auto farthest = [](const Path& a, const Path& b) { // of one's points from the other
            double out = 0;
            for (const Point p : flatten(a, 0.001))
                out = std::max(out, nearestPlace({b}, p)->away);
            return out;
        };
        const PathPlace at{7, 0.4, pointOn(startOf(path, 7), path.segments[7], 0.4)};
        const Path more = with(path, *nodeAdded(path, at));
        QCOMPARE(more.segments.size(), path.segments.size() + 1);
        QVERIFY(farthest(more, path) < 1e-6 && farthest(path, more) < 1e-6);
        std::size_t node = 0;
        while (distance(more.segments[node].end, at.at) > 1e-9)
            ++node;
        const Path less = with(more, nodesTaken(more, {node}).at(0));
        QCOMPARE(less.segments.size(), path.segments.size());
        QVERIFY2(farthest(less, path) < 0.002, qPrintable(QString::number(farthest(less, path))));

        const Path circle = ellipseFigure({3, 4}, 5, 5);
        const Path seven = with(circle, nodesTaken(circle, {2}).at(0));
        QVERIFY(seven.segments.size() == 7 && farthest(seven, circle) < 0.01);
        const Path pulled = with(circle, nodesMoved(circle, {2}, {0.3, -0.2}).at(0));
        QVERIFY(nearestPlace({pulled}, circle.segments[2].end + Point{0.3, -0.2})->away < 1e-9);
        for (std::size_t k = 0; k < pulled.segments.size(); ++k)
            QVERIFY(turnAt(pulled, k) < 0.01); // as smooth as it was
        QVERIFY(nodesTaken(polygonPath(Polyline{{0, 0}, {1, 0}}), {0}).empty());
        const Path box = boxFigure({0, 0, 10, 8});
        const Path three = with(box, nodesTaken(box, {1}).at(0));
        QVERIFY(three.segments.size() == 3 && std::abs(areaOf({three}) - 40) < 1e-9);
    }

    // Runs of nodes move as one, segments between them stay; handles of a smooth node stay in line, those of a pair that
    // is parted do not; what is made straight or curved is, and leaves the rest as it was.
    void nodesInRuns()
    {
        const auto with = [&](Path of, const std::vector<Redrawn>& all) {
            for (const Redrawn& r : all) // found again: the nodes' numbers change
                of = withStretch(of, *nearestPlace({of}, r.from.at), *nearestPlace({of}, r.to.at), r.stretch);
            return of;
        };
        const Path circle = ellipseFigure({0, 0}, 10, 10); // eight nodes
        const Point by{0.4, -0.3};
        const std::vector<Redrawn> moved = nodesMoved(circle, {0, 1, 4, 7}, by); // a run over the start, and one alone
        QCOMPARE(moved.size(), std::size_t(2));
        const Path pulled = with(circle, moved);
        QCOMPARE(pulled.segments.size(), circle.segments.size());
        for (const std::size_t node : {0, 1, 4, 7})
            QVERIFY(nearestPlace({pulled}, circle.segments[node].end + by)->away < 1e-9);
        for (const std::size_t node : {2, 3, 5, 6})
            QVERIFY(nearestPlace({pulled}, circle.segments[node].end)->away < 1e-9);
        const Point between = pointOn(circle.segments[0].end, circle.segments[1], 0.5);
        QVERIFY(nearestPlace({pulled}, between + by)->away < 1e-9);
        QVERIFY(nodesMoved(circle, {0, 1, 2, 3, 4, 5, 6, 7}, by).empty()); // nothing is left to hold it by
        // Three in a row taken out of a circle: one curve in the place of four, as near as one can be (0.02 of a half circle's radius).
        const Path five = with(circle, nodesTaken(circle, {2, 3, 4}));
        QCOMPARE(five.segments.size(), std::size_t(5));
        double off = 0;
        for (const Point p : flatten(five, 0.001))
            off = std::max(off, std::abs(norm(p) - 10));
        QVERIFY2(off < 0.3, qPrintable(QString::number(off)));
        for (std::size_t k = 0; k < five.segments.size(); ++k)
            QVERIFY(turnAt(five, k) < 0.01);

        const Point handle = handleOf(circle, 3, Handle::After), to = handle + Point{1, 1};
        const Path paired = with(circle, {*handleMoved(circle, 3, Handle::After, to, true)}), parted = with(circle, {*handleMoved(circle, 3, Handle::After, to, false)});
        const auto nodeThere = [&](const Path& path) {
            std::size_t node = 0;
            while (distance(path.segments[node].end, circle.segments[3].end) > 1e-9)
                ++node;
            return node;
        };
        const auto turnThere = [&](const Path& path) { return turnAt(path, nodeThere(path)); };
        QVERIFY(turnThere(paired) < 1e-6 && turnThere(parted) > 0.1);
        QVERIFY(turnThere(with(parted, nodesSmooth(parted, {nodeThere(parted)}))) < 1e-6);
        QVERIFY(turnThere(with(circle, nodesCorners(circle, {3}))) > 0.3);

        const Path flat = with(circle, segmentsStraight(circle, {1, 2, 3}));
        QVERIFY(nearestPlace({flat}, mix(circle.segments[1].end, circle.segments[2].end, 0.5))->away < 1e-9);
        QVERIFY(nearestPlace({flat}, mix(circle.segments[2].end, circle.segments[3].end, 0.5))->away < 1e-9);
        const Path box = boxFigure({0, 0, 10, 10});
        const Path bulged = with(box, segmentsCurved(box, {0, 1, 2}));
        QVERIFY(std::count_if(bulged.segments.begin(), bulged.segments.end(), [](const Segment& s) { return !s.line; }) == 2);
    }

    // A stretch deleted opens the line, whose ends a join closes again; two joins make one of two.
    void stretchesAreOpenedAndJoined()
    {
        const Contours edge = {truth(flatten(ellipseFigure({100, 100}, 80, 80), 0.01))};
        const KeptEdge kept(edge, 10);
        const EditGround ground{Affine::scale(0.1, 0.1), 0};
        const Paths circle{ellipseFigure({10, 10}, 8, 8)};
        const auto on = [&](double degrees) { return Point{10 + 8 * std::cos(degrees * pi / 180), 10 + 8 * std::sin(degrees * pi / 180)}; };
        const auto edit = [&](EditKind kind, double from, double to) {
            Edit e;
            e.kind = kind;
            e.from = anchorOf(on(from), kept, ground);
            e.to = anchorOf(on(to), kept, ground);
            return e;
        };
        std::vector<Edit> edits{edit(EditKind::Open, 10, 40)};
        TouchedUp up = touchUp(circle, edits, ground);
        QVERIFY(up.paths.size() == 1 && !up.paths[0].closed);
        QVERIFY(std::abs(length(up.paths[0]) - 8 * 330 * pi / 180) < 1e-3);
        edits.push_back(edit(EditKind::Open, 190, 220));
        up = touchUp(circle, edits, ground);
        QVERIFY(up.paths.size() == 2 && !up.paths[0].closed && !up.paths[1].closed);
        QVERIFY(std::abs(lengthOf(up.paths) - 8 * 300 * pi / 180) < 1e-3);
        edits.push_back(edit(EditKind::Join, 10, 40));
        edits.push_back(edit(EditKind::Join, 220, 190));
        up = touchUp(circle, edits, ground);
        for (const EditOutcome& o : up.outcomes)
            QVERIFY(o.fate == EditFate::Held);
        QVERIFY(up.paths.size() == 1 && up.paths[0].closed);
        // Two segments of 30 degrees are cut off.
        const double segment = 32 * (30 * pi / 180 - std::sin(30 * pi / 180));
        QVERIFY2(std::abs(areaOf(up.paths) - 64 * pi + 2 * segment) < 1e-2, qPrintable(QString::number(areaOf(up.paths))));
    }

    // A sine of 0.1 mm and 2 mm long on a straight side is smoothed away, over a stretch or all round; the rest stays.
    void lumpsAreSmoothed()
    {
        Polyline line;
        for (int k = 0; k <= 400; ++k)
            line.push_back({k * 0.1, 0.1 * std::sin(k * 0.1 * pi)});
        line.push_back({40, 20});
        line.push_back({0, 20});
        const Paths lumpy{refitted(polygonPath(line), 0.002, 0.1)};
        const Contours edge = {truth(flatten(transformed(boxFigure({0, 0, 40, 20}), Affine::scale(10, 10)), 0.01))};
        const KeptEdge kept(edge, 10);
        const EditGround ground{Affine::scale(0.1, 0.1), 0};
        Edit e;
        e.kind = EditKind::Smooth;
        e.size = 4_mm;
        e.from = anchorOf({8, 0}, kept, ground);
        e.to = anchorOf({32, 0}, kept, ground);
        const TouchedUp up = touchUp(lumpy, std::span(&e, 1), ground);
        QVERIFY(up.outcomes[0].fate == EditFate::Held && up.paths.size() == 1);
        const auto swing = [](const Paths& paths, double from, double to) {
            double out = 0;
            for (const Point p : flatten(paths[0], 0.002))
                if (p.x > from && p.x < to && p.y < 10)
                    out = std::max(out, std::abs(p.y));
            return out;
        };
        QVERIFY2(swing(up.paths, 12, 28) < 0.01, qPrintable(QString::number(swing(up.paths, 12, 28))));
        QVERIFY(swing(up.paths, 1, 7) > 0.09 && swing(up.paths, 33, 39) > 0.09); // what was not gone over
        QVERIFY(up.outcomes[0].strayed > 0.08 && up.outcomes[0].strayed < 0.13);
        QVERIFY(up.paths[0].nodes() < lumpy[0].nodes());
        e.to = e.from;
        const TouchedUp all = touchUp(lumpy, std::span(&e, 1), ground);
        QVERIFY(all.outcomes[0].fate == EditFate::Held && swing(all.paths, 5, 35) < 0.01);
        // A circle of 10 mm keeps its size to within a thousandth.
        const Paths circle{ellipseFigure({10, 10}, 10, 10)};
        const TouchedUp round = touchUp(circle, std::span(&e, 1), ground);
        QVERIFY(std::abs(std::sqrt(areaOf(round.paths) / pi) - 10) < 0.01);
    }

    // All inside corners at once, as many as a cross has; the outside ones stay sharp. Where there is no room it is said.
    void allInsideCornersAreRounded()
    {
        const Path cross = polygonPath(Polyline{{3, 0}, {6, 0}, {6, 3}, {9, 3}, {9, 6}, {6, 6}, {6, 9}, {3, 9}, {3, 6}, {0, 6}, {0, 3}, {3, 3}});
        Edit e;
        e.kind = EditKind::RoundInside;
        e.size = 1_mm;
        const EditGround ground{Affine::scale(0.1, 0.1), 0};
        const TouchedUp up = touchUp({cross}, std::span(&e, 1), ground);
        QCOMPARE(up.outcomes[0].rounded, 4);
        QVERIFY(std::abs(areaOf(up.paths) - 45 - 4 * (1 - pi / 4)) < 1e-3);
        std::size_t corners = 0;
        for (std::size_t k = 0; k < up.paths[0].segments.size(); ++k)
            corners += turnAt(up.paths[0], k) > 1;
        QCOMPARE(corners, std::size_t(8));
        e.size = 4_mm;
        QCOMPARE(touchUp({cross}, std::span(&e, 1), ground).outcomes[0].left, 4);
    }

    // Bridges spread by themselves, and one put by hand takes the nearest one's place; what is cut is the rest.
    void bridgesBreakTheLine()
    {
        CutLine line;
        line.bridgeWidth = 0.5;
        line.bridges = 4;
        const Path box = boxFigure({0, 0, 20, 20});
        line.paths = std::make_shared<const Paths>(Paths{box});
        const Paths cut = broken(box, breaksOf(line, box));
        QVERIFY(cut.size() == 4 && std::abs(lengthOf(cut) - 78) < 1e-6);
        const std::vector<Point> spread = bridgesOn(line, box);
        const Point wanted = along(box, *nearestPlace({box}, spread[1]), 3).at;
        line.bridgesAt = {wanted};
        const std::vector<Point> moved = bridgesOn(line, box);
        QCOMPARE(moved.size(), std::size_t(4));
        int same = 0, there = 0;
        for (const Point p : moved) {
            there += distance(p, wanted) < 1e-6;
            same += std::any_of(spread.begin(), spread.end(), [&](Point s) { return distance(s, p) < 1e-6; });
        }
        QVERIFY(there == 1 && same == 3);
        line.bridges = 0; // alone
        QVERIFY(bridgesOn(line, box).size() == 1 && broken(box, breaksOf(line, box)).size() == 1);
        line.bridgesAt = {wanted, along(box, *nearestPlace({box}, wanted), 0.2).at}; // two that meet are one
        QVERIFY2(std::abs(lengthOf(broken(box, breaksOf(line, box))) - (80 - 0.7)) < 1e-3, qPrintable(QString::number(lengthOf(broken(box, breaksOf(line, box))))));
    }

    // Nodes before guides before the line; guides cross at one place; right angles to the leg before.
    void placesAreSnapped()
    {
        const Paths box{boxFigure({0, 0, 10, 10})};
        const Paths* lines[] = {&box};
        const StraightGuide guides[] = {{{0, 4}, {1, 4}}, {{3, 0}, {3, 1}}};
        const SnapGround ground{lines, guides, Rect::nothing(), std::nullopt, std::nullopt, {}};
        const auto is = [](const Snapped& s, SnapTo to, Point at) { return s.to == to && distance(s.at, at) < 1e-9; };
        QVERIFY(is(snapped({9.8, 10.1}, ground, 0.3), SnapTo::Node, {10, 10}));
        QVERIFY(is(snapped({3.1, 4.2}, ground, 0.3), SnapTo::Crossing, {3, 4}));
        QVERIFY(is(snapped({6, 4.2}, ground, 0.3), SnapTo::Guide, {6, 4}));
        QVERIFY(is(snapped({6, 9.9}, ground, 0.3), SnapTo::Edge, {6, 10}));
        QVERIFY(is(snapped({6, 7}, ground, 0.3), SnapTo::Nothing, {6, 7}));
        SnapGround drawing = ground;
        drawing.from = Point{5, 5};
        drawing.before = Point{4, 4}; // a leg of 45 degrees
        QVERIFY(is(snapped({7.1, 5.1}, drawing, 0.3), SnapTo::RightAngle, {7.1, 5}));
        QVERIFY(is(snapped({6.6, 3.5}, drawing, 0.3), SnapTo::RightAngle, {6.55, 3.45}));
        QVERIFY(is(snapped({8.1, 4.1}, drawing, 0.3), SnapTo::Guide, {8.1, 4}));
        QVERIFY(is(snapped({3.1, 5.1}, drawing, 0.3), SnapTo::Crossing, {3, 5}));
    }

    // An outline made simpler stays within its distance, both ways (Hausdorff), and has fewer nodes where it had too many.
    void outlinesAreSimplified()
    {
        int fewer = 0;
        for (int k = 0; k < 20; ++k) {
            Path dense = polygonPath(flatten(lobed({30, 30}, 4 + 0.8 * k, 3 + k % 6, 0.1 * k), 0.002));
            Edit e;
            e.kind = EditKind::Simplify;
            e.size = Length::mm(k % 2 ? 0.05 : 0.2);
            Contours kept = truth(flatten(transformed(dense, Affine::scale(10, 10)), 0.01));
            const EditGround ground{Affine::scale(0.1, 0.1), 0};
            e.from = e.to = anchorOf(dense.segments[0].end, KeptEdge(kept, 10), ground);
            const TouchedUp up = touchUp({dense}, std::span(&e, 1), ground);
            QVERIFY(up.outcomes[0].fate == EditFate::Held && up.outcomes[0].nodesBefore == dense.nodes() && up.outcomes[0].nodesAfter == up.paths[0].nodes());
            fewer += up.paths[0].nodes() * 2 < dense.nodes();
            double worst = 0;
            for (const Point p : flatten(dense, 0.01))
                worst = std::max(worst, nearestPlace(up.paths, p)->away);
            for (const Point p : flatten(up.paths[0], 0.005))
                worst = std::max(worst, nearestPlace({dense}, p)->away);
            QVERIFY2(worst <= e.size.mm(), qPrintable(QString::number(worst)));
        }
        QVERIFY2(fewer >= 19, qPrintable(QString::number(fewer)));
    }

    // A tab is welded to the line as one closed path, with a hole of its own, wherever it stands.
    void tabsAreWelded()
    {
        const EditGround ground{Affine::scale(0.1, 0.1), 2};
        const Contours edge = {truth(lobes({200, 200}, 100, 12, 7)).front()};
        const KeptEdge kept(edge, 10);
        const Paths line{transformed(fitClosed(DistanceField(edge).at(20).front().points, {}, 0.1), Affine::scale(0.1, 0.1))};
        for (int k = 0; k < 24; ++k) {
            const double angle = 2 * pi * k / 24;
            Edit tab;
            tab.kind = EditKind::Tab;
            tab.offset = 2_mm;
            tab.from = anchorOf(nearestPlace(line, Point{20, 20} + Point{std::cos(angle), std::sin(angle)} * 14)->at, kept, ground);
            const TouchedUp up = touchUp(line, std::span(&tab, 1), ground);
            QVERIFY2(up.outcomes[0].fate == EditFate::Held, qPrintable(QString::number(k)));
            QCOMPARE(up.paths.size(), std::size_t(2));
            QVERIFY(std::abs(signedArea(up.paths[1]) + pi * 4) < 0.01); // the hole, 4 mm across
            for (const Path& path : up.paths) {
                QVERIFY(selfCrossings(flatten(path, 0.005), 1).empty());
                path.each([&](Point from, const Segment& s) { QVERIFY(kept.distanceTo(pointOn(from, s, 0.5)) > 0.2); }); // clear of the artwork
            }
            const double grown = signedArea(up.paths[0]) - areaOf(line);
            QVERIFY2(grown > 0.5 * pi * 25 && grown < 1.6 * pi * 25, qPrintable(QString::number(grown)));
            // A fillet where they meet: no corner is left that the line did not have.
            std::size_t sharp = 0, had = 0;
            for (std::size_t n = 0; n < up.paths[0].segments.size(); ++n)
                sharp += turnAt(up.paths[0], n) > 0.3;
            for (std::size_t n = 0; n < line[0].segments.size(); ++n)
                had += turnAt(line[0], n) > 0.3;
            QVERIFY2(sharp <= had, qPrintable(QStringLiteral("%1: %2 corners, %3 before").arg(k).arg(sharp).arg(had)));
        }
    }

    // Twenty edits on a real picture's line hold when what lies under them changes; the one that does not is said.
    void editsFindTheirPlaceAgain()
    {
        Job job;
        job.pieces.emplace_back();
        Piece& piece = job.pieces[0];
        piece.artwork.picture = openPicture(YOKAI_DEMO_PICTURES "/umbrella-imp.png");
        giveIds(job);
        StepCache cache;
        {
            const Derived d = derive(job, cache, {}, Want::Lines);
            piece.lines()[0].edits = edits(d.pieces[0]);
        }
        QCOMPARE(piece.lines()[0].edits.size(), std::size_t(20));
        giveIds(job);
        const auto heldOf = [&](const Job& of, const char* what) {
            const Derived d = derive(of, cache, {}, Want::Lines);
            const CutLine& line = d.pieces[0].layer().lines[0];
            int held = 0;
            for (const EditOutcome& o : line.edits) {
                held += o.fate == EditFate::Held;
                if (o.fate != EditFate::Held)
                    qInfo("%s: edit %u (%s) %s", what, o.id.n, name(of.pieces[0].lines()[0].edits[std::size_t(&o - line.edits.data())].kind), o.fate == EditFate::NoPlace ? "has no place" : "does not fit");
            }
            const auto said = std::count_if(d.findings.begin(), d.findings.end(), [](const Finding& f) { return f.code == "lost-edit"; });
            for (const Path& path : *line.paths)
                if (!path.closed || !selfCrossings(flatten(path, 0.005), 1).empty())
                    held = -1;
            return said + held == 20 ? held : -1;
        };
        QCOMPARE(heldOf(job, "as made"), 20);
        const auto after = [&](const char* what, const std::function<void(Piece&)>& change) {
            Job changed = job;
            change(changed.pieces[0]);
            const int held = heldOf(changed, what);
            QVERIFY2(held >= 19, qPrintable(QStringLiteral("%1: %2").arg(what).arg(held)));
        };
        const Length width = Length::mm(piece.artwork.width());
        after("offset 3 mm", [](Piece& p) { p.lines()[0].offset = 3_mm; });
        after("a fifth larger", [&](Piece& p) { p.artwork.setWidth(Length::mm(width.mm() * 1.2)); });
        after("a fifth smaller", [&](Piece& p) { p.artwork.setWidth(Length::mm(width.mm() * 0.8)); });
        after("level up", [](Piece& p) { p.keep().level = 80; });
        after("level down", [](Piece& p) { p.keep().level = 20; });
        after("cropped", [&](Piece& p) { p.artwork.cropTo({1, 1, width.mm() - 0.5, p.artwork.height() - 0.5}); });
        after("turned", [](Piece& p) { p.artwork.turnRight(); });
        after("mirrored", [](Piece& p) { p.artwork.mirrorAcross(); });
        after("mirrored and turned", [](Piece& p) {
            p.artwork.mirrorAcross();
            p.artwork.turnRight();
        });
        // With half the picture away some have no place any more, and each is said.
        Job half = job;
        half.pieces[0].artwork.cropTo({0, 0, width.mm() / 2, piece.artwork.height()});
        const int left = heldOf(half, "halved");
        QVERIFY2(left >= 4 && left < 19, qPrintable(QString::number(left)));
        // And nothing is left of a change that is taken back.
        QCOMPARE(heldOf(job, "again"), 20);
    }

private:
    // Seven corners rounded, three stretches put straight and one smoothed, a bridge, two tabs, two holes, two areas added and
    // two taken away.
    static std::vector<Edit> edits(const PieceResult& piece)
    {
        const CutLine& line = piece.layer().lines[0];
        const EditGround ground{piece.sourceToMm, line.offset.mm()};
        const KeptEdge kept(piece.layer().parts->contours, piece.pxPerMm);
        const Paths& paths = *line.paths;
        std::vector<Edit> out;
        const auto add = [&](EditKind kind, Point at) -> Edit& {
            Edit& e = out.emplace_back();
            e.kind = kind;
            e.offset = line.offset;
            e.from = anchorOf(at, kept, ground);
            return e;
        };
        for (const Path& path : paths)
            for (std::size_t k = 0; k < path.segments.size() && out.size() < 7; ++k)
                if (turnAt(path, k) > 0.5)
                    add(EditKind::Round, path.segments[k].end).size = 500_um;
        const Path& outer = paths[0];
        const double whole = length(outer);
        const PathPlace start{0, 0, outer.start};
        const auto placeAt = [&](double share) { return along(outer, start, whole * share); };
        const auto far = [&](Point p) {
            return std::none_of(out.begin(), out.end(), [&](const Edit& e) { return distance(placeOf(e.from, ground), p) < 6; });
        };
        double share = 0;
        const auto next = [&] {
            do
                share += 0.005;
            while (share < 1 && !far(placeAt(share).at));
            return placeAt(share);
        };
        while (out.size() < 12) {
            const EditKind kind = out.size() < 10 ? EditKind::Stretch : out.size() < 11 ? EditKind::Smooth : EditKind::Bridge;
            const PathPlace from = next(), to = along(outer, from, 1.5);
            Edit& e = add(kind, from.at);
            e.to = anchorOf(to.at, kept, ground);
            e.size = 1_mm;
            if (kind != EditKind::Stretch)
                continue;
            Path straight;
            straight.closed = false;
            straight.start = from.at;
            straight.lineTo(to.at);
            e.shape = frameOf(straight, mirrored(ground));
        }
        for (int k = 0; k < 2; ++k) {
            Edit& e = add(EditKind::Tab, next().at);
            e.size = 3_mm;
            e.hole = 1_mm;
        }
        const Affine back = piece.sourceToMm.inverse();
        for (const EditKind kind : {EditKind::Add, EditKind::TakeAway, EditKind::Hole})
            for (int k = 0; k < 2; ++k) {
                const Point at = next().at;
                Edit& e = add(kind, at);
                e.size = 600_um;
                if (kind == EditKind::Hole) // between line and artwork
                    e.from = anchorOf(at - kept.nearest(at).out * 1.2, kept, ground);
                if (kind != EditKind::Hole)
                    e.outlines.push_back(pointsOf(transformed(boxFigure({at.x - 0.6, at.y - 0.6, at.x + 0.6, at.y + 0.6}), back)));
            }
        return out;
    }
};

QTEST_GUILESS_MAIN(TestTouchUp)
#include "test_touch_up.moc"
