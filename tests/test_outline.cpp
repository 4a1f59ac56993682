#include "outline/build.h"
#include "path/arcs.h"
#include "path/fit.h"
#include "shapes.h"

#include <QTest>

#include <numbers>

using namespace yokai;
using namespace yokai::test;

class TestOutline : public QObject {
    Q_OBJECT
private slots:
    // An anti-aliased disc of 20.3 mm at 300 ppi against the true circle.
    void disc_data()
    {
        QTest::addColumn<double>("offset");
        for (const double mm : {0.0, 2.0, -1.0, 5.0, 0.01, -0.03, 0.043, 0.05, -0.06, 0.3, -3.0, 10.0})
            QTest::newRow(qPrintable(QString::number(mm))) << mm;
    }
    void disc()
    {
        QFETCH(double, offset);
        const double r = 10.15 * pxPerMm300;
        const Point c{190.3, 187.6};
        const Gray8 g = drawn(380, 376, [&](double x, double y) { return std::hypot(x - c.x, y - c.y) < r; });
        const Paths paths = outlineAt(g, offset * pxPerMm300);
        QCOMPARE(paths.size(), std::size_t(1));
        QVERIFY(paths[0].nodes() <= 8);
        double off = 0;
        for (const Point p : flatten(paths[0], 0.005))
            off = std::max(off, std::abs(distance(p, c) - (r + offset * pxPerMm300)) / pxPerMm300);
        QVERIFY2(off < 0.02, qPrintable(QString::number(off)));
    }

    void ringHasTwoSides()
    {
        const Point c{160.2, 161.7};
        const Gray8 g = drawn(320, 320, [&](double x, double y) {
            const double d = std::hypot(x - c.x, y - c.y);
            return d < 130 && d > 60;
        });
        const Contours edge = traceEdge(g);
        QCOMPARE(edge.size(), std::size_t(2));
        QVERIFY(edge[0].area > 0 && edge[1].area < 0);
        QCOMPARE(edge[1].parent, 0);
        const Paths out = outlineAt(g, 12);
        QCOMPARE(out.size(), std::size_t(2));
        QVERIFY(nodesOf(out) <= 16);
        // The offset region: an outer circle of 142 and an opening of 48.
        QVERIFY(std::abs(areaOf(out) / (std::numbers::pi * (142.0 * 142 - 48.0 * 48)) - 1) < 2e-3);
        QCOMPARE(outlineAt(g, 62).size(), std::size_t(1));  // the opening has closed
        QCOMPARE(outlineAt(g, -36).size(), std::size_t(0)); // nothing is left of the ring
    }

    void lobedGear()
    {
        const Point c{250.2, 250.6};
        const Polyline edge = lobes(c, 190, 24, 11);
        const Gray8 g = drawn(500, 500, [&](double x, double y) {
            const double a = std::atan2(y - c.y, x - c.x);
            return std::hypot(x - c.x, y - c.y) < 190 + 24 * std::cos(11 * a);
        });
        for (const double mm : {0.0, 0.5, 2.0, -1.0, 5.0}) {
            const Paths paths = outlineAt(g, mm * pxPerMm300);
            QCOMPARE(paths.size(), std::size_t(1));
            QVERIFY2(paths[0].nodes() <= 48, qPrintable(QString("%1: %2 nodes").arg(mm).arg(paths[0].nodes())));
            const double off = worst(paths, truth(edge), mm * pxPerMm300) / pxPerMm300;
            QVERIFY2(off < 0.02, qPrintable(QString("%1: %2 mm").arg(mm).arg(off)));
        }
    }

    // Between nodes that are no corners, the line does not kink.
    void smoothNodesDoNotKink()
    {
        const Point c{250.2, 250.6};
        const Gray8 g = drawn(500, 500, [&](double x, double y) {
            const double a = std::atan2(y - c.y, x - c.x);
            return std::hypot(x - c.x, y - c.y) < 190 + 24 * std::cos(7 * a);
        });
        for (const double mm : {0.0, 1.0, 4.0}) {
            for (const Path& p : outlineAt(g, mm * pxPerMm300))
                for (std::size_t i = 0; i < p.nodes(); ++i) {
                    if (p.corners[i])
                        continue;
                    const double turn = turnAt(p, i) * 180 / std::numbers::pi;
                    QVERIFY2(turn < 2, qPrintable(QString("%1: %2 degrees").arg(mm).arg(turn)));
                }
        }
    }

    void cornersComeBackSharp()
    {
        const Polyline square = {{40.3, 50.7}, {300.3, 50.7}, {300.3, 240.2}, {40.3, 240.2}};
        const Gray8 g = drawn(340, 290, [&](double x, double y) { return contains(square, {x, y}); });
        const Paths paths = outlineAt(g, 0);
        QCOMPARE(paths.size(), std::size_t(1));
        QCOMPARE(paths[0].nodes(), std::size_t(4));
        for (const Point corner : square) {
            double nearest = 1e9;
            for (const Segment& s : paths[0].segments)
                nearest = std::min(nearest, distance(s.end, corner));
            QVERIFY2(nearest < 0.12, qPrintable(QString::number(nearest)));
        }
    }

    void degenerateInput()
    {
        QVERIFY(traceEdge(Gray8(5, 5, 0)).empty());
        const Contours all = traceEdge(Gray8(40, 30, 255));
        QCOMPARE(all.size(), std::size_t(1));
        QVERIFY(std::abs(all[0].area - 1200) < 1); // the edge lies on the picture's border
        Gray8 dot(9, 9, 0);
        dot.at(4, 4) = 255;
        QCOMPARE(traceEdge(dot).size(), std::size_t(1));
        QVERIFY(!outlineAt(dot, 20).empty());
        const DistanceField nothing(Contours{});
        QVERIFY(nothing.at(5).empty());
        QVERIFY(fitClosed({}, {}, 1).segments.empty());
    }

    void partsLieWithinOpenings()
    {
        // A ring, a disc in its opening, and an opening in that disc.
        const Gray8 g = drawn(200, 200, [](double x, double y) {
            const double d = std::hypot(x - 100, y - 100);
            return (d < 90 && d > 70) || (d < 50 && d > 20);
        });
        const Contours edge = traceEdge(g);
        QCOMPARE(edge.size(), std::size_t(4));
        for (int i = 0; i < 4; ++i)
            QCOMPARE(edge[std::size_t(i)].parent, i - 1);
    }

    void gapsAreJoinedIntoOneLine()
    {
        // Two discs 20 px apart.
        const Gray8 g = drawn(420, 200, [](double x, double y) { return std::hypot(x - 100, y - 100) < 80 || std::hypot(x - 280, y - 100) < 80; });
        const DistanceField edge(traceEdge(g));
        QCOMPARE(joined(edge, 14).size(), std::size_t(2));
        const Contours one = joined(edge, 30);
        QCOMPARE(one.size(), std::size_t(1));
        // Away from the joint nothing moved.
        for (const Point p : one[0].points)
            if (p.x < 90)
                QVERIFY(std::abs(distance(p, {100, 100}) - 80) < 0.2);
        // The joint is a pair of arcs of 15 px about the points 95 px from both centres.
        const double high = std::sqrt(95.0 * 95 - 90 * 90) - 15;
        double top = 1e9;
        for (const Point p : one[0].points)
            if (std::abs(p.x - 190) < 1)
                top = std::min(top, std::abs(p.y - 100));
        QVERIFY2(std::abs(top - high) < 0.2, qPrintable(QString::number(top)));
    }

    void insideCornersAreRounded()
    {
        const Gray8 g = drawn(
            300, 300, [](double x, double y) { return (x > 40.5 && x < 110.5 && y > 40.5 && y < 260.5) || (x > 40.5 && x < 260.5 && y > 190.5 && y < 260.5); });
        Contours edge = traceEdge(g);
        sharpenCorners(edge);
        const DistanceField field(std::move(edge));
        BuildSpec spec;
        spec.offset = 10;
        const auto nearest = [&](Point to) {
            double least = 1e9;
            for (const Path& p : fitLines(buildLines(field, spec), 0.05))
                for (const Point q : flatten(p, 0.01))
                    least = std::min(least, distance(q, to));
            return least;
        };
        // The inside corner of the line is a right angle; rounded to r, the line stays r (sqrt 2 - 1) away from it.
        const Point corner{120.5, 180.5};
        QVERIFY(nearest(corner) < 0.2);
        spec.roundInside = 12;
        const double away = nearest(corner);
        QVERIFY2(std::abs(away - 12 * (std::numbers::sqrt2 - 1)) < 0.15, qPrintable(QString::number(away)));
    }

    void notchesUnderTheLimitClose()
    {
        const Gray8 g = drawn(300, 300, [](double x, double y) {
            const double d = std::hypot(x - 150, y - 150);
            return d < 100 && d > 30;
        });
        const DistanceField edge(traceEdge(g));
        BuildSpec spec;
        spec.offset = 12;
        QCOMPARE(buildLines(edge, spec).size(), std::size_t(2));
        spec.openingsOver = 18 * 18 * std::numbers::pi + 20;
        QCOMPARE(buildLines(edge, spec).size(), std::size_t(1));
    }

    // Outlines and loops of any shape as arcs and lines: every place of the arcs lies within the tolerance of the path and every place of
    // the path within it of the arcs, each arc goes on in the direction of the one before, and there are far fewer than lines would be.
    void arcsFollowTheCurves()
    {
        const Gray8 drawnStar = drawnFine({star({150, 150}, 60, 130, 7, 0.2)}, 300, 300), drawnLobes = drawnFine({lobes({150, 150}, 100, 0.25, 5)}, 300, 300);
        Paths paths;
        for (const Gray8* g : {&drawnStar, &drawnLobes})
            for (Path& path : transformed(outlineAt(*g, 10), Affine::scale(1 / pxPerMm300, 1 / pxPerMm300)))
                paths.push_back(std::move(path));
        Path loop; // one that turns all the way round within a segment, and one with a cusp's tangents
        loop.start = {0, 0};
        loop.curveTo({30, 20}, {-20, 20}, {10, 0});
        loop.curveTo({15, -3}, {20, -3}, {40, 8});
        loop.lineTo({60, 8});
        loop.closed = false;
        paths.push_back(loop);
        constexpr double tolerance = 0.002;
        for (const Path& path : paths) {
            const std::vector<Arc> arcs = arcsOf(path, tolerance);
            QVERIFY(!arcs.empty() && arcs.back().end == (path.closed ? path.start : path.segments.back().end));
            // Points along the arcs, by their own definition: a bulge is the tangent of a quarter of the angle.
            Polyline along{path.start};
            std::vector<std::pair<Point, Point>> directions; // at each arc's start and end
            Point from = path.start;
            for (const Arc& arc : arcs) {
                const Point chord = arc.end - from;
                const double angle = 4 * std::atan(arc.bulge), heading = std::atan2(chord.y, chord.x) - angle / 2;
                const double radius = std::abs(arc.bulge) > 0 ? distance(from, arc.end) / (2 * std::sin(std::abs(angle) / 2)) : 0;
                constexpr int steps = 24;
                for (int k = 1; k <= steps; ++k) {
                    if (radius == 0) {
                        along.push_back(from + chord * (double(k) / steps));
                        continue;
                    }
                    const double side = angle > 0 ? 1 : -1, turned = heading + angle * k / steps;
                    const Point centre = from + Point{-std::sin(heading), std::cos(heading)} * (radius * side);
                    along.push_back(centre + Point{std::sin(turned), -std::cos(turned)} * (radius * side));
                }
                QVERIFY(distance(along.back(), arc.end) < 1e-6);
                directions.emplace_back(Point{std::cos(heading), std::sin(heading)}, Point{std::cos(heading + angle), std::sin(heading + angle)});
                from = arc.end;
            }
            const auto worstOf = [](const Polyline& points, const Polyline& of) {
                double most = 0;
                for (const Point p : points) {
                    double least = std::numeric_limits<double>::infinity();
                    for (std::size_t k = 1; k < of.size(); ++k) {
                        const Point d = of[k] - of[k - 1];
                        const double t = dot(d, d) > 0 ? std::clamp(dot(p - of[k - 1], d) / dot(d, d), 0.0, 1.0) : 0;
                        least = std::min(least, distance(p, of[k - 1] + d * t));
                    }
                    most = std::max(most, least);
                }
                return most;
            };
            Polyline truePath = flatten(path, 1e-5);
            if (path.closed)
                truePath.push_back(truePath.front());
            const double there = worstOf(along, truePath), back = worstOf(truePath, along);
            QVERIFY2(there < tolerance * 1.2 && back < tolerance * 1.2, qPrintable(QStringLiteral("%1 %2").arg(there).arg(back)));
            int kinks = 0;
            for (std::size_t k = 1; k < directions.size(); ++k)
                kinks += dot(directions[k - 1].second, directions[k].first) < std::cos(0.02);
            QVERIFY2(kinks <= int(std::count(path.corners.begin(), path.corners.end(), true)) + 1, qPrintable(QString::number(kinks)));
            QVERIFY(arcs.size() < flatten(path, tolerance).size());
        }
        QVERIFY(arcsOf(Path{}, tolerance).empty());
    }

    void stopIsObeyed()
    {
        std::stop_source source;
        source.request_stop();
        QVERIFY_EXCEPTION_THROWN(traceEdge(Gray8(100, 100, 255), {source.get_token(), {}}), Cancelled);
    }
};

QTEST_APPLESS_MAIN(TestOutline)
#include "test_outline.moc"
