// The findings: each check against shapes whose truth is known in closed form, and the whole of
// them through a derived job.
#include "check/bends.h"
#include "check/checks.h"
#include "check/lumps.h"
#include "check/overlaps.h"
#include "check/widen.h"
#include "check/widths.h"
#include "check/words.h"
#include "findings.h"
#include "job/derive.h"
#include "outline/figures.h"
#include "outline/kept_edge.h"
#include "path/boolean.h"
#include "path/cut.h"
#include "shapes.h"
#include "touchup/anchor.h"
#include "touchup/outlines.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <set>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double pi = std::numbers::pi;

PathSet setOf(Paths paths)
{
    PathSet out{std::make_shared<const Paths>(std::move(paths)), {}};
    for (std::size_t k = 0; k < out.all->size(); ++k)
        out.which.push_back(k);
    return out;
}

Faults narrow(Paths paths, Facing side, double limit) { return narrowPlaces(Trace(setOf(std::move(paths)), limit / 10, limit), side, limit); }

void arc(Polyline& to, Point centre, double radius, double from, double turn)
{
    const int steps = std::max(2, int(std::ceil(std::abs(turn) * radius / 0.02)));
    for (int k = 0; k <= steps; ++k)
        to.push_back(centre + Point{std::cos(from + turn * k / steps), std::sin(from + turn * k / steps)} * radius);
}

// Two round heads of radius 6 joined by a neck that is `width` at its narrowest, between two arcs of
// radius `bend`; turned and moved. A neck between corners where the bend is 0.
Path dumbbell(double width, double bend, double turn)
{
    const double head = 6, away = width / 2 + bend; // the arcs' centres lie that far from the middle
    const double x = std::sqrt((head + bend) * (head + bend) - away * away);
    const double a = std::atan2(away, x); // under which the heads see the arcs' centres
    Polyline p;
    arc(p, {x, 0}, head, -pi + a, 2 * (pi - a));
    if (bend > 0)
        arc(p, {0, away}, bend, -a, -(pi - 2 * a));
    arc(p, {-x, 0}, head, a, 2 * (pi - a));
    if (bend > 0)
        arc(p, {0, -away}, bend, pi - a, -(pi - 2 * a));
    return transformed(polygonPath(p), Affine::move(31, 17) * Affine::turn(turn));
}

} // namespace

class TestCheck : public QObject {
    Q_OBJECT
private slots:
    // A neck is widened, and a gap closed, by a strip as wide as the limit along it, of any shape and at any angle; and
    // with the strip nothing is narrow any more.
    void narrowPlacesAreMended()
    {
        int mended = 0, looked = 0;
        const std::vector<Point> middle{{31, 17}};
        for (const double bend : {0.0, 0.3, 1.0, 5.0})
            for (const double width : {0.2, 0.5, 0.8})
                for (const double turn : {0.0, 0.7, 1.9}) {
                    const Path shape = dumbbell(width, bend, turn);
                    const auto paths = std::make_shared<const Paths>(Paths{shape});
                    const auto wider = combined(*paths, widening(paths, Facing::Material, 1, middle, Combine::Unite), Combine::Unite);
                    ++looked;
                    mended += wider && wider->size() == 1 && narrow(*wider, Facing::Material, 1).empty();
                    // The same shape as an opening in a plate: what falls out is narrow there.
                    const auto plate = std::make_shared<const Paths>(Paths{boxFigure({0, 0, 62, 34}), reversed(shape)});
                    const auto closed = combined(*plate, widening(plate, Facing::Waste, 1, middle, Combine::Unite), Combine::Unite);
                    ++looked;
                    mended += closed && closed->size() == 3 && narrow(*closed, Facing::Waste, 1).empty();
                    const auto parted = combined(*plate, widening(plate, Facing::Waste, 1, middle, Combine::TakeAway), Combine::TakeAway);
                    ++looked;
                    mended += parted && parted->size() == 2 && narrow(*parted, Facing::Waste, 1).empty();
                }
        QVERIFY2(mended == looked, qPrintable(QStringLiteral("%1 of %2").arg(mended).arg(looked)));
    }

    // Necks of known width within 0.03 mm, one finding each, at any angle; wider ones are none.
    void necks()
    {
        std::mt19937 random(8);
        for (const double bend : {0.0, 0.3, 1.0, 5.0})
            for (const double width : {0.2, 0.5, 0.8, 0.95}) {
                const double turn = double(random() % 628) / 100;
                const Faults found = narrow({dumbbell(width, bend, turn)}, Facing::Material, 1);
                QVERIFY2(found.size() == 1, qPrintable(QStringLiteral("bend %1 width %2: %3").arg(bend).arg(width).arg(found.size())));
                QVERIFY2(std::abs(found[0].value - width) < 0.03, qPrintable(QStringLiteral("%1 for %2").arg(found[0].value).arg(width)));
                QVERIFY(distance(found[0].at, {31, 17}) < 0.05);
                for (const Fault& f : narrow({dumbbell(width, bend, turn)}, Facing::Waste, 0.5))
                    QFAIL(qPrintable(QStringLiteral("bend %1 width %2: %3 from the middle, %4").arg(bend).arg(width).arg(distance(f.at, {31, 17})).arg(f.value)));
            }
        for (const double bend : {0.0, 1.0})
            QVERIFY(narrow({dumbbell(1.04, bend, 1)}, Facing::Material, 1).empty());
        // A strip, and what runs to a point slowly; not what merely has a corner.
        const Faults strip = narrow({boxFigure({0, 0, 20, 0.6})}, Facing::Material, 1);
        QVERIFY(strip.size() == 1 && std::abs(strip[0].value - 0.6) < 1e-6);
        const auto wedge = [](double degrees) { return polygonPath(Polyline{{0, 0}, {30, -30 * std::tan(degrees * pi / 360)}, {30, 30 * std::tan(degrees * pi / 360)}}); };
        QVERIFY(narrow({wedge(30)}, Facing::Material, 1).empty());
        const Faults slow = narrow({wedge(8)}, Facing::Material, 1);
        QVERIFY(slow.size() == 1 && slow[0].value > 0.2 && slow[0].value < 0.8);
        // Between an outline and its opening.
        const Faults ring = narrow({ellipseFigure({0, 0}, 5, 5), reversed(ellipseFigure({0.3, 0}, 4, 4))}, Facing::Material, 1);
        QVERIFY(ring.size() == 1 && std::abs(ring[0].value - 0.7) < 0.03 && distance(ring[0].at, {4.65, 0}) < 0.3);
        // A small disc is a small part, and no neck.
        QVERIFY(narrow({ellipseFigure({0, 0}, 0.4, 0.4)}, Facing::Material, 1).empty());
    }

    void gaps()
    {
        for (const double gap : {0.05, 0.2, 0.45}) {
            const Faults found = narrow({ellipseFigure({0, 0}, 5, 5), ellipseFigure({8 + gap, 0}, 3, 3)}, Facing::Waste, 0.5);
            QVERIFY2(found.size() == 1 && std::abs(found[0].value - gap) < 0.03, qPrintable(QString::number(found.size())));
            QVERIFY(distance(found[0].at, {5 + gap / 2, 0}) < 0.05);
        }
        QVERIFY(narrow({ellipseFigure({0, 0}, 5, 5), ellipseFigure({8.55, 0}, 3, 3)}, Facing::Waste, 0.5).empty());
        // A slot with a wide end, and the mouth of a bay.
        const Path slot = polygonPath(Polyline{{0, 0}, {20, 0}, {20, 10}, {10.2, 10}, {10.2, 5}, {13, 5}, {13, 2}, {7, 2}, {7, 5}, {9.8, 5}, {9.8, 10}, {0, 10}});
        const Faults mouth = narrow({slot}, Facing::Waste, 0.5);
        QVERIFY(mouth.size() == 1 && std::abs(mouth[0].value - 0.4) < 1e-6 && mouth[0].at.y >= 4.9);
    }

    // Curvature in closed form: rounded inside corners, an ellipse's ends, arcs drawn in straight lines.
    void tightBendsAreMeasured()
    {
        const double limit = 0.25;
        for (const double radius : {0.05, 0.1, 0.2, 0.24}) {
            const Faults found = tightBends(reversed(boxFigure({0, 0, 10, 8}, radius)), limit);
            QVERIFY2(found.size() == 4, qPrintable(QString::number(found.size())));
            for (const Fault& f : found)
                QVERIFY2(std::abs(f.value - radius) < 0.002, qPrintable(QString::number(f.value)));
            QVERIFY(tightBends(boxFigure({0, 0, 10, 8}, radius), limit).empty()); // outside corners can be cut
        }
        QVERIFY(tightBends(reversed(boxFigure({0, 0, 10, 8}, 0.26)), limit).empty());
        const Faults sharp = tightBends(reversed(boxFigure({0, 0, 10, 8})), limit);
        QVERIFY(sharp.size() == 4 && sharp[0].value == 0);
        const Faults ellipse = tightBends(reversed(ellipseFigure({0, 0}, 10, 1)), limit); // b2/a = 0.1 at its ends
        QVERIFY(ellipse.size() == 2 && std::abs(ellipse[0].value - 0.1) < 0.003 && std::abs(std::abs(ellipse[0].at.x) - 10) < 0.02);
        for (const double radius : {0.15, 0.3}) {
            Polyline round;
            arc(round, {0, 0}, radius, 0, -2 * pi * 0.99);
            QCOMPARE(tightBends(polygonPath(round), limit).empty(), radius > limit);
        }
        // What the tool leaves standing by less than a machine's step is none.
        QVERIFY(tightBends(reversed(polygonPath(Polyline{{0, 0}, {10, 0}, {20, 1}, {20, 9}, {0, 9}})), limit).size() == 4);
    }

    void lumpsSwing()
    {
        const auto wavy = [](double amplitude, double wave) {
            Polyline p;
            for (double x = 0; x < 20; x += 0.02)
                p.push_back({x, x > 5 && x < 10 ? amplitude * std::sin(2 * pi * (x - 5) / wave) : 0});
            p.push_back({20, 10});
            p.push_back({0, 10});
            return polygonPath(p);
        };
        const Faults found = lumps(wavy(0.06, 1), 0.25);
        QVERIFY2(found.size() == 1, qPrintable(QString::number(found.size())));
        QVERIFY2(std::abs(found[0].value - 0.12) < 0.02, qPrintable(QString::number(found[0].value)));
        QVERIFY(found[0].at.x > 5 && found[0].at.x < 10);
        QVERIFY(lumps(wavy(0.06, 5), 0.25).empty()); // the tool follows
        QVERIFY(lumps(ellipseFigure({0, 0}, 3, 2), 0.25).empty() && lumps(boxFigure({0, 0, 9, 9}), 0.25).empty());
    }

    void overlapsAreFound()
    {
        const Path box = boxFigure({0, 0, 10, 10});
        const Overlaps apart = overlapsOf(setOf({box, boxFigure({20, 0, 30, 10}), ellipseFigure({5, 5}, 3, 3)}), {0, 0, 1}, 0.5);
        QVERIFY(apart.crossings.empty() && apart.doubled.empty() && apart.close.empty());
        const Overlaps crossed = overlapsOf(setOf({box, boxFigure({8, 3, 15, 7})}), {0, 1}, 0.5);
        QVERIFY(crossed.crossings.size() == 2 && crossed.doubled.empty());
        QVERIFY(distance(crossed.crossings[0].at, {10, 3}) < 0.01 || distance(crossed.crossings[0].at, {10, 7}) < 0.01);
        const Overlaps eight = overlapsOf(setOf({polygonPath(Polyline{{0, 0}, {10, 10}, {10, 0}, {0, 10}})}), {0}, 0.5);
        QVERIFY(eight.crossings.size() == 1 && distance(eight.crossings[0].at, {5, 5}) < 0.01);
        const Overlaps twice = overlapsOf(setOf({box, boxFigure({10, 2, 15, 8})}), {0, 0}, 0.5);
        QVERIFY2(twice.doubled.size() == 1 && std::abs(twice.doubled[0].value - 6) < 0.6, qPrintable(QString::number(twice.doubled.size())));
        const Overlaps beside = overlapsOf(setOf({box, boxFigure({10.3, 2, 15, 8})}), {0, 1}, 0.5);
        QVERIFY2(beside.close.size() == 1 && std::abs(beside.close[0].value - 0.3) < 1e-6, qPrintable(QString::number(beside.close.size())));
        QVERIFY(beside.crossings.empty() && beside.doubled.empty());
    }

    void distanceToTheKeptEdge()
    {
        Contours edge = {truth(star({80, 70}, 20, 60, 7, 0.3)).front(), truth(star({200, 90}, 10, 25, 5, 1)).front()};
        for (int x = 0; x < 12; ++x) // and some on whole pixels, with an opening in each
            for (const double in : {0.0, 3.0}) {
                const double a = 20.0 * x + in, b = 20.0 * x + 10 - in;
                const std::vector<Point> square{{a, 140 + in}, {b, 140 + in}, {b, 150 - in}, {a, 150 - in}};
                edge.push_back(in > 0 ? Contour{{square.rbegin(), square.rend()}, {}, 0} : Contour{square, {}, 0});
            }
        const KeptEdge kept(edge, 10);
        std::mt19937 random(3);
        for (int k = 0; k < 1000; ++k) {
            const Point p{double(random() % 2600) / 10 - 10, double(random() % 1700) / 10 - 10};
            QVERIFY(std::abs(kept.distanceTo(p * 0.1) * 10 - signedDistance(edge, p)) < 1e-9);
        }
        QVERIFY(std::isinf(KeptEdge({}, 10).distanceTo({0, 0})));
    }

    // So many parts that a slower way than a search would take minutes: from each one's middle, from beside it, and from far away.
    void distanceToVeryManyEdges()
    {
        constexpr int across = 300;
        Contours edge;
        for (int y = 0; y < across; ++y)
            for (int x = 0; x < across; ++x) {
                const double a = 9.0 * x + 0.25, b = 9.0 * y + 0.75;
                edge.push_back(truth({{a, b}, {a + 4, b}, {a + 4, b + 4}, {a, b + 4}}).front());
            }
        const KeptEdge kept(edge, 1);
        for (int y = 0; y < across; ++y)
            for (int x = 0; x < across; ++x) {
                const Point middle{9.0 * x + 2.25, 9.0 * y + 2.75};
                QCOMPARE(kept.distanceTo(middle), -2.0);
                const KeptEdge::Nearest beside = kept.nearest(middle + Point{3.5, 0.5});
                QVERIFY(std::abs(beside.away - 1.5) < 1e-12 && distance(beside.at, middle + Point{2, 0.5}) < 1e-12 && distance(beside.out, {1, 0}) < 1e-12);
            }
        QVERIFY(std::abs(kept.distanceTo({-1000, 2}) - 1000.25) < 1e-9);
        QVERIFY(std::abs(kept.distanceTo({-300.25 + 0.25 - 0.25, -400 + 0.75}) - std::hypot(300.5, 400)) < 1e-9);
    }

    // A hole put by hand goes through the artwork because it is meant to; an area taken away may not be.
    void holesByHandAreMeant()
    {
        Job job;
        Piece& piece = job.pieces.emplace_back();
        piece.artwork.picture = pictureFromBytes(encodePng(Rgba8(300, 300, {20, 90, 200, 255})), "tile.png");
        piece.artwork.sizeBy = SizeBy::Ppi;
        piece.artwork.ppi = 254;
        piece.keep().rule = KeepRule::All;
        giveIds(job);
        const auto found = [&](EditKind kind) {
            StepCache cache;
            const Derived d = derive(job, cache, {}, Want::Lines);
            const PieceResult& made = d.pieces[0];
            Job edited = job;
            Edit& e = edited.pieces[0].lines()[0].edits.emplace_back();
            e.kind = kind;
            e.offset = made.layer().lines[0].offset;
            e.size = 4_mm;
            e.from = e.to = anchorOf({15, 15}, KeptEdge(made.layer().parts->contours, made.pxPerMm), {made.sourceToMm, e.offset.mm()});
            if (isArea(kind))
                e.outlines.push_back(pointsOf(transformed(ellipseFigure({15, 15}, 2, 2), made.sourceToMm.inverse())));
            giveIds(edited);
            const Derived now = derive(edited, cache, {}, Want::Lines);
            return std::any_of(now.findings.begin(), now.findings.end(), [](const Finding& f) { return f.code == "cuts-artwork"; }) && now.pieces[0].layer().lines[0].paths->size() == 2;
        };
        QVERIFY(!found(EditKind::Hole));
        QVERIFY(found(EditKind::TakeAway));
    }

    // Every finding can be said: its sentence holds only what can be filled in, and says what to do.
    void everyCodeHasWords()
    {
        std::set<std::string> titles;
        for (const char* code : {"no-cut-line", "sheet", "low-resolution", "line-vanished", "parts-vanished", "parts-split", "does-not-fit", "outside-reach", "lost-edit",
                                 "tight-corner", "thin-neck", "narrow-gap", "small-part", "small-opening", "short-path", "needless-nodes", "lumpy", "crossing",
                                 "doubled", "open-line", "cuts-artwork", "shows-paper", "kind-order", "near-crumb"}) {
            const FindingWords& words = wordsOf(code);
            QVERIFY2(words.code == code && titles.insert(words.title).second, code);
            for (const double value : {0.0, 1.0})
                eachPart(
                    words.said(value), [&](std::string_view text) { QVERIFY2(text.find_first_of("{}") == text.npos, code); },
                    [&](std::string_view name) {
                        QVERIFY2(name == "piece" || name == "line" || (name == "value" && words.value != Measure::Nothing) ||
                                     (name == "limit" && words.limit != Measure::Nothing),
                                 code);
                    });
        }
        QVERIFY(wordsOf("nonsense").code.empty());
    }

    // Through a job: every limit that the job states, each finding where it is, none where there is none.
    void aJobsFindings()
    {
        Job job;
        job.pieces.emplace_back();
        Piece& piece = job.pieces[0];
        const auto disc = [](double x, double y, double r, double px, double py) { return std::hypot(px / 10 - x, py / 10 - y) < r; };
        const Gray8 drawn300 = drawn(500, 400, [&](double x, double y) {
            return disc(15, 20, 8, x, y) || disc(32, 20, 8, x, y) || disc(44, 35, 1.0, x, y) || disc(6, 5, 0.59, x, y);
        });
        Rgba8 px(500, 400, {0, 0, 0, 0});
        for (int y = 0; y < 400; ++y)
            for (int x = 0; x < 500; ++x)
                px.at(x, y) = {200, 40, 60, drawn300.at(x, y)};
        piece.artwork.picture = pictureFromBytes(encodePng(px), "discs.png");
        piece.artwork.sizeBy = SizeBy::Ppi;
        piece.artwork.ppi = 254;
        piece.keep().smallestPart = 1;
        // The discs are 1 mm apart, so lines at 0.35 leave a gap of 0.3.
        piece.lines() = {{LineKind::Through, 350_um}, {LineKind::Kiss, 100_um}};
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        const Finding* gap = nullptr;
        for (const Finding& f : d.findings)
            if (f.code == "narrow-gap" && f.line == piece.lines()[0].id && distance(f.at, {23.5, 20}) < 0.1)
                gap = &f;
        QVERIFY(gap && std::abs(gap->value - 0.3) < 0.03 && gap->limit == 0.5);
        const Finding* paper = only(d, "shows-paper"); // the kiss line: 0.1 outside with 0.3 of drift
        QVERIFY(paper && paper->line == piece.lines()[1].id && std::abs(paper->value - 0.4) < 1e-9);
        const Finding* crumb = only(d, "near-crumb");
        QVERIFY(crumb && distance(crumb->at, {6, 5}) < 0.6 && std::abs(crumb->value - pi * 0.59 * 0.59) < 0.02 && crumb->limit == 1);
        QVERIFY(!only(d, "kind-order") && !only(d, "cuts-artwork") && !only(d, "thin-neck") && !only(d, "lumpy") && !only(d, "needless-nodes") && !only(d, "tight-corner"));
        // Kiss outside through, and a box inside what is kept.
        piece.lines() = {{LineKind::Through, 1_mm}, {LineKind::Kiss, 3_mm}};
        piece.lines().push_back({LineKind::Kiss, -(2_mm)});
        piece.lines().back().shape = LineShape::Box;
        giveIds(job);
        const Derived worse = derive(job, cache);
        const auto outside = std::find_if(worse.findings.begin(), worse.findings.end(), [](const Finding& f) { return f.code == "kind-order"; });
        QVERIFY(outside != worse.findings.end() && std::abs(outside->value - 2) < 0.05);
        job.check.toolRadius = Length();
        job.check.leastNeck = Length();
        job.check.leastGap = Length();
        job.check.leastArea = 0;
        job.check.leastLength = Length();
        job.check.drift = Length();
        piece.lines() = {{LineKind::Through, 2_mm}};
        piece.keep().smallestPart = 0.1;
        giveIds(job);
        const Derived clean = derive(job, cache);
        for (const Finding& f : clean.findings)
            qInfo("%s %g", f.code.data(), f.value);
        QVERIFY(clean.findings.empty());
    }
};

QTEST_GUILESS_MAIN(TestCheck)
#include "test_check.moc"
