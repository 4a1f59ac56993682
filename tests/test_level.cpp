// The parts of a line's making: how it is joined up, how its points are placed.
#include "outline/fronts.h"
#include "outline/level.h"
#include "outline/offset.h"
#include "outline/refine.h"
#include "shapes.h"

#include <QTest>

#include <atomic>
#include <numbers>
#include <thread>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double leastGap = 0.05 * pxPerMm300; // what the lines must tell apart

Polyline circle(Point c, double radius)
{
    Polyline out;
    const int n = int(2 * std::numbers::pi * radius); // a point every pixel, as a traced edge has them
    for (int i = 0; i < n; ++i) {
        const double a = 2 * std::numbers::pi * i / n;
        out.push_back(c + Point{std::cos(a), std::sin(a)} * radius);
    }
    return out;
}

// Straight sides with a point every pixel, the first point of each a corner.
Contour polygon(const Polyline& tips)
{
    Contour out;
    for (std::size_t k = 0; k < tips.size(); ++k) {
        const Point a = tips[k], b = tips[around(k + 1, tips.size())];
        const int n = int(distance(a, b));
        for (int i = 0; i < n; ++i) {
            out.points.push_back(mix(a, b, double(i) / n));
            out.corners.push_back(i == 0);
        }
    }
    out.area = signedArea(out.points);
    return out;
}

Contours together(std::vector<Polyline> lines)
{
    Contours out;
    for (Polyline& line : lines) {
        out.push_back({std::move(line), {}, 0, -1});
        out.back().area = signedArea(out.back().points);
    }
    return out;
}

struct Count {
    int outlines = 0, openings = 0;
    bool operator==(const Count&) const = default;
};

Count counted(const Contours& shape, double offset)
{
    Count c;
    for (const LevelLine& line : DistanceField(shape).at(offset))
        ++(signedArea(line.points) > 0 ? c.outlines : c.openings);
    return c;
}

std::string text(Count c) { return std::to_string(c.outlines) + " outlines and " + std::to_string(c.openings) + " openings"; }

#define COUNT(shape, offset, ...)                                                                                                                              \
    do {                                                                                                                                                       \
        const Count is = counted(shape, offset), should = __VA_ARGS__;                                                                                         \
        QVERIFY2(is == should, (text(is) + ", not " + text(should)).c_str());                                                                                  \
    } while (false)

} // namespace

class TestLevel : public QObject {
    Q_OBJECT
private slots:
    // What is connected, at gaps and necks of 0.05 mm either way, at every coarseness of the lattice.
    void joinedUpAsTheyAre_data()
    {
        QTest::addColumn<double>("mm");
        QTest::addColumn<double>("turn");
        for (const double mm : {0.1, 0.3, 0.8, 2.0, 5.0, 10.0, 20.0, 30.0})
            for (const double turn : {0.0, 0.29, 0.7853, 1.2})
                QTest::addRow("%g mm, %g rad", mm, turn) << mm << turn;
    }
    void joinedUpAsTheyAre()
    {
        QFETCH(double, mm);
        QFETCH(double, turn);
        const double offset = mm * pxPerMm300;
        const Point along{std::cos(turn), std::sin(turn)}, across{-along.y, along.x}, at{500.3, 480.7};

        // Two discs whose lines all but touch.
        const double radius = 90;
        for (const double gap : {leastGap, -leastGap}) {
            const Point half = along * (radius + offset + gap / 2);
            COUNT(together({circle(at - half, radius), circle(at + half, radius)}), offset, {gap > 0 ? 2 : 1, 0});
        }

        // Two boxes side by side: a straight gap as long as they are.
        for (const double gap : {leastGap, -leastGap}) {
            const auto box = [&](double from) {
                const Point a = at + along * from, b = along * 60.0, c = across * 260.0;
                return polygon({a, a + b, a + b + c, a + c});
            };
            COUNT((Contours{box(0), box(60 + 2 * offset + gap)}), offset, {gap > 0 ? 2 : 1, 0});
        }

        // An opening that all but closes, and one that does not.
        for (const double left : {leastGap, 1.5 * leastGap, -leastGap}) {
            Polyline inner = circle(at, offset + left);
            std::reverse(inner.begin(), inner.end());
            COUNT(together({circle(at, offset + 60), std::move(inner)}), offset, {1, left > 0 ? 1 : 0});
        }

        // Three discs whose lines leave a spot of paper between them.
        for (const double left : {1.5 * leastGap, -std::min(leastGap, offset / 4)}) {
            const double disc = std::min(radius, 4 * offset); // small enough not to meet themselves
            const double from = disc + offset + left;         // centres from the spot's
            std::vector<Polyline> discs;
            for (int k = 0; k < 3; ++k) {
                const double a = turn + 2 * std::numbers::pi * k / 3;
                discs.push_back(circle(at + Point{std::cos(a), std::sin(a)} * from, disc));
            }
            QVERIFY(std::sqrt(3.0) * from > 2 * disc && std::sqrt(3.0) * from < 2 * (disc + offset));
            COUNT(together(std::move(discs)), offset, {1, left > 0 ? 1 : 0});
        }

        // A dumbbell cut inwards keeps its neck or loses it.
        for (const double neck : {leastGap, -leastGap}) {
            const double end = 2 * offset + 40, half = offset + neck / 2, length = 120;
            Contour bar = polygon({at - along * (length + end) - across * end, at - along * length - across * end, at - along * length - across * half,
                                   at + along * length - across * half, at + along * length - across * end, at + along * (length + end) - across * end,
                                   at + along * (length + end) + across * end, at + along * length + across * end, at + along * length + across * half,
                                   at - along * length + across * half, at - along * length + across * end, at - along * (length + end) + across * end});
            QVERIFY(bar.area > 0);
            COUNT((Contours{std::move(bar)}), -offset, {neck > 0 ? 1 : 2, 0});
        }
    }

    // What is left in the middle of an opening that is nearly round, where fronts come from all sides.
    void openingsNearlyClosed()
    {
        for (const double offset : {11.3, 19.7, 40.2})
            for (const double left : {0.7, 1.0, 1.5})
                for (int k = 0; k < 40; ++k) {
                    const Point at{150.2 + 0.1 * k, 149.7 + 0.07 * k};
                    Polyline inner;
                    const int n = int(7 * (offset + left));
                    for (int i = n; i > 0; --i) {
                        const double a = 2 * std::numbers::pi * i / n, r = offset + left + 0.15 * std::cos(3 * a + k) + 0.12 * std::cos(5 * a + 2.3 * k);
                        inner.push_back(at + Point{std::cos(a), std::sin(a)} * r);
                    }
                    COUNT(together({circle(at, 90), std::move(inner)}), offset, {1, 1});
                }
    }

    // Samples that lie on the line itself, to the last bit.
    void exactlyOnTheLine()
    {
        const auto box = [](double x) { return polygon({{x, 100}, {x + 60, 100}, {x + 60, 300}, {x, 300}}); };
        COUNT((Contours{box(100), box(100 + 60 + 2 * 16 + 1)}), 16, {2, 0}); // a gap of 1 px
        COUNT((Contours{box(100), box(100 + 60 + 2 * 16)}), 16, {1, 0});     // none
    }

    // On a disc every point has its place at once; between two discs the corner is where both are met.
    void pointsAndCornersAreExact()
    {
        const Point a{200.4, 200.1}, b{330.9, 214.6};
        const double radius = 55, offset = 24;
        const Edge edge(together({circle(a, radius), circle(b, radius)}));
        const Lattice lattice = makeLattice(edge, 4, 60, {});
        const Spots none;
        const Placer placer(edge, lattice, none, offset);
        const double d = distance(a, b), reach = radius + offset, high = std::sqrt(reach * reach - d * d / 4);
        const Point along = unit(b - a), across{-along.y, along.x}, corner = mix(a, b, 0.5) + across * high;

        Placer::Placed left, right;
        for (double turn = 2.5; turn < 4; turn += 0.1) { // on a's far side
            const Point out{std::cos(turn), std::sin(turn)};
            QVERIFY(placer.place(a + out * (reach + 3 * std::sin(7 * turn)), left));
            QVERIFY(std::abs(distance(left.at, a) - reach) < 0.01);
            QVERIFY(dot(left.normal, out) > 0.999);
            QCOMPARE(placer.sourceOf(left), -1); // swept round no corner
        }
        QVERIFY(placer.place(corner - along * 5.0, left));
        QVERIFY(placer.place(corner + along * 5.0, right));
        Point met;
        QVERIFY(placer.meet(left, right, met));
        QVERIFY2(distance(met, corner) < 0.01, qPrintable(QString::number(distance(met, corner))));
        // Two places of one front meet nowhere.
        Placer::Placed far;
        QVERIFY(placer.place(a + Point{-reach, 4}, far));
        QVERIFY(placer.place(a + Point{-reach, -4}, left));
        QVERIFY(!placer.meet(far, left, met));
    }

    void cornersTellTheirSource()
    {
        const Edge edge(Contours{polygon({{100, 100}, {200, 100}, {200, 200}, {100, 200}})});
        const Lattice lattice = makeLattice(edge, 4, 60, {});
        const Spots none;
        const Placer placer(edge, lattice, none, 20);
        Placer::Placed swept, straight;
        QVERIFY(placer.place({215, 86}, swept));
        QVERIFY(placer.place({150, 82}, straight));
        QCOMPARE(placer.sourceOf(swept), 100); // the second corner
        QCOMPARE(placer.sourceOf(straight), -1);
        QVERIFY(distance(straight.at, {150, 80}) < 1e-6);
        QVERIFY(std::abs(distance(swept.at, {200, 100}) - 20) < 1e-6);
    }

    void insideIsToldAtEdgesAndTips()
    {
        const Contours shape{polygon({{100, 100}, {200, 100}, {120, 112}, {118, 200}})}; // tips of 9 and 87 degrees, and a bay
        const Edge edge(shape);
        for (double y = 90; y < 205; y += 0.7)
            for (double x = 90; x < 205; x += 0.7) {
                Nearest best;
                for (int v = 0; v < int(edge.points.size()); v += 5)
                    walk(edge, {x, y}, v, best);
                QVERIFY(std::abs(std::sqrt(best.squared) - std::abs(signedDistance(shape, {x, y}))) < 1e-9);
                QCOMPARE(within(edge, {x, y}, best), contains(shape[0].points, {x, y}));
            }
    }

    // What runs at a cell between discs: how many, from where, and on which side of the edge it lies.
    void frontsAreMet()
    {
        const double radius = 40, offset = 30, step = 4;
        const Point middle{200, 200};
        for (int discs = 1; discs <= 3; ++discs) {
            std::vector<Polyline> lines;
            for (int k = 0; k < discs; ++k) { // all as far from the middle as the line is
                const double a = 0.4 + 2 * std::numbers::pi * k / discs;
                lines.push_back(circle(middle + Point{std::cos(a), std::sin(a)} * (radius + offset), radius));
            }
            const Edge edge(together(std::move(lines)));
            const Lattice l = makeLattice(edge, step, 60, {});
            const int i = int((middle.x - l.origin.x) / step), j = int((middle.y - l.origin.y) / step);
            const Fronts fronts(edge, l, offset, i, j);
            QCOMPARE(int(fronts.near().size()), discs);
            QVERIFY(fronts.count() >= discs && std::is_sorted(fronts.begin(), fronts.end(), [](const auto& a, const auto& b) { return a.away < b.away; }));
            QVERIFY(fronts.outside() && std::abs(fronts.beyond()) < step);
            // One stands on one side, two face each other, three stand all round.
            QVERIFY(std::abs(fronts.open() - 2 * std::numbers::pi / discs) < 0.3);
            QCOMPARE(frontsMeet(edge, l, std::cos(1.0), i, j), discs > 1);
        }
        const Edge edge(together({circle(middle, 90)}));
        const Lattice l = makeLattice(edge, step, 60, {});
        const Fronts within(edge, l, offset, int((260 - l.origin.x) / step), int((200 - l.origin.y) / step));
        QVERIFY(!within.outside() && within.count() >= 1 && int(within.near().size()) == 1);
    }

    // What is remembered of the cells is what is there, whatever was asked before and by whom.
    void meetingsAreRemembered()
    {
        const Edge edge(together({circle({200.3, 200.1}, 40), circle({301.2, 214.9}, 40)}));
        const Lattice l = makeLattice(edge, 4, 60, {});
        const Meetings meetings(l);
        std::atomic<int> met = 0, wrong = 0;
        const auto ask = [&](std::uint64_t asked) {
            for (int j = 0; j + 1 < l.height; ++j)
                for (int w = 0; w < l.words; ++w) {
                    const std::uint64_t found = meetings.among(edge, l, std::size_t(w), j, asked);
                    for (int bit = 0; bit < 64; ++bit) {
                        const int i = 64 * w + bit;
                        const bool should = (asked >> bit & 1) && i + 1 < l.width && frontsMeet(edge, l, std::cos(Meetings::leastApart), i, j);
                        wrong += should != bool(found >> bit & 1) || (should && !meetings.at(i, j));
                        met += should;
                    }
                }
        };
        {
            std::jthread one(ask, 0x0f0f0f0f0f0f0f0f), other(ask, 0x3333333333333333);
        }
        ask(~std::uint64_t(0));
        QCOMPARE(wrong.load(), 0);
        QVERIFY(met > 30 && !meetings.at(-1, 0) && !meetings.at(0, l.height) && !meetings.at(64 * l.words, 0));
    }

    // A line of more points than are placed in one run is one line all round.
    void longLinesAreWhole()
    {
        const Point c{1700.3, 1700.6};
        const double radius = 1500, offset = 2 * pxPerMm300;
        const LevelLines lines = DistanceField(together({circle(c, radius)})).at(offset);
        QCOMPARE(int(lines.size()), 1);
        const LevelLine& line = lines[0];
        QVERIFY(line.points.size() > 2048 && line.corners.size() == line.points.size() && line.source.size() == line.points.size());
        double around = 0;
        for (std::size_t k = 0; k < line.points.size(); ++k) {
            const Point p = line.points[k], next = line.points[(k + 1) % line.points.size()];
            QVERIFY(std::abs(distance(p, c) - radius - offset) < 0.005);
            QVERIFY(distance(p, next) < 8 && !line.corners[k]);
            around += distance(p, next);
        }
        QVERIFY(std::abs(around / (2 * std::numbers::pi * (radius + offset)) - 1) < 1e-5);
    }

    void spikesGoAndCornersStay()
    {
        LevelLine line;
        line.points = {{0, 0}, {50, 0}, {50.2, 40}, {50.4, 0}, {100, 0}, {100, 60}, {0, 60}};
        line.corners.assign(line.points.size(), 0);
        line.source.assign(line.points.size(), -1);
        removeSpikes(line);
        QCOMPARE(line.points, (Polyline{{0, 0}, {50, 0}, {50.4, 0}, {100, 0}, {100, 60}, {0, 60}}));
        QCOMPARE(line.corners, (std::vector<unsigned char>{0, 1, 0, 0, 0, 0}));
        // One that the line begins at the tip of takes nothing else along.
        line.points = {{50.2, 40}, {50.4, 0}, {100, 0}, {100, 60}, {0, 60}, {0, 0}, {50, 0}, {50.1, 10}, {50.15, 30}};
        line.corners.assign(line.points.size(), 0);
        line.source.assign(line.points.size(), -1);
        removeSpikes(line);
        for (const Point kept : Polyline{{50.4, 0}, {100, 0}, {100, 60}, {0, 60}, {0, 0}, {50, 0}})
            QVERIFY(std::find(line.points.begin(), line.points.end(), kept) != line.points.end());
        QVERIFY(std::find(line.points.begin(), line.points.end(), Point{50.2, 40}) == line.points.end());
        QVERIFY(line.corners.size() == line.points.size() && line.source.size() == line.points.size());
        const Polyline square = {{0, 0}, {10, 0}, {10, 10}, {0, 10}};
        line = {square, {1, 1, 1, 1}, {-1, -1, -1, -1}};
        removeSpikes(line);
        QCOMPARE(line.points, square);
    }
};

QTEST_APPLESS_MAIN(TestLevel)
#include "test_level.moc"
