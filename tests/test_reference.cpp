// The main job against the world outside: published figures and other libraries.
// Each check names its source.

#include "base/digest.h"
#include "geos.h"
#include "keep/colour.h"
#include "outline/build.h"
#include "path/fit.h"
#include "register/fit.h"
#include "shapes.h"

#include <Eigen/Geometry>
#include <opencv2/calib3d.hpp>
#include <opencv2/imgproc.hpp>
#include <potracelib.h>
#include <QTest>

#include <cstdarg>
#include <memory>
#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

struct Potraced {
    std::size_t nodes = 0;
    Polyline points; // sampled
};

// potrace with its own settings, on the bitmap of the same shape.
Potraced potraced(const Gray8& g)
{
    const int w = g.width(), h = g.height(), words = (w + 63) / 64;
    std::vector<potrace_word> map(std::size_t(words * h), 0);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            if (g.at(x, y) >= 128)
                map[std::size_t((h - 1 - y) * words + x / 64)] |= potrace_word(1) << (63 - x % 64);
    potrace_bitmap_t bitmap{w, h, words, map.data()};
    const std::unique_ptr<potrace_param_t, void (*)(potrace_param_t*)> param(potrace_param_default(), potrace_param_free);
    const std::unique_ptr<potrace_state_t, void (*)(potrace_state_t*)> state(potrace_trace(param.get(), &bitmap), potrace_state_free);
    Potraced out;
    for (const potrace_path_t* p = state->plist; p; p = p->next) {
        const potrace_curve_t& c = p->curve;
        Point from{c.c[c.n - 1][2].x, h - c.c[c.n - 1][2].y};
        for (int i = 0; i < c.n; ++i) {
            const Point a{c.c[i][0].x, h - c.c[i][0].y}, b{c.c[i][1].x, h - c.c[i][1].y}, end{c.c[i][2].x, h - c.c[i][2].y};
            out.nodes += c.tag[i] == POTRACE_CORNER ? 2 : 1;
            for (int k = 1; k <= 16; ++k)
                out.points.push_back(c.tag[i] == POTRACE_CORNER ? (k <= 8 ? mix(from, b, k / 8.0) : mix(b, end, (k - 8) / 8.0))
                                                                : pointOn(from, {a, b, end, false}, k / 16.0));
            from = end;
        }
    }
    return out;
}

} // namespace

class TestReference : public QObject {
    Q_OBJECT
private slots:
    // The 34 pairs of Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula:
    // Implementation notes, supplementary test data, and mathematical observations",
    // Color Research and Application 30 (2005), table 1. Written down from memory.
    void ciede2000Pairs()
    {
        struct Pair {
            Lab a, b;
            double difference;
        };
        const Pair pairs[] = {{{50, 2.6772, -79.7751}, {50, 0, -82.7485}, 2.0425},
                              {{50, 3.1571, -77.2803}, {50, 0, -82.7485}, 2.8615},
                              {{50, 2.8361, -74.0200}, {50, 0, -82.7485}, 3.4412},
                              {{50, -1.3802, -84.2814}, {50, 0, -82.7485}, 1.0000},
                              {{50, -1.1848, -84.8006}, {50, 0, -82.7485}, 1.0000},
                              {{50, -0.9009, -85.5211}, {50, 0, -82.7485}, 1.0000},
                              {{50, 0, 0}, {50, -1, 2}, 2.3669},
                              {{50, -1, 2}, {50, 0, 0}, 2.3669},
                              {{50, 2.4900, -0.0010}, {50, -2.4900, 0.0009}, 7.1792},
                              {{50, 2.4900, -0.0010}, {50, -2.4900, 0.0010}, 7.1792},
                              {{50, 2.4900, -0.0010}, {50, -2.4900, 0.0011}, 7.2195},
                              {{50, 2.4900, -0.0010}, {50, -2.4900, 0.0012}, 7.2195},
                              {{50, -0.0010, 2.4900}, {50, 0.0009, -2.4900}, 4.8045},
                              {{50, -0.0010, 2.4900}, {50, 0.0010, -2.4900}, 4.8045},
                              {{50, -0.0010, 2.4900}, {50, 0.0011, -2.4900}, 4.7461},
                              {{50, 2.5, 0}, {50, 0, -2.5}, 4.3065},
                              {{50, 2.5, 0}, {73, 25, -18}, 27.1492},
                              {{50, 2.5, 0}, {61, -5, 29}, 22.8977},
                              {{50, 2.5, 0}, {56, -27, -3}, 31.9030},
                              {{50, 2.5, 0}, {58, 24, 15}, 19.4535},
                              {{50, 2.5, 0}, {50, 3.1736, 0.5854}, 1.0000},
                              {{50, 2.5, 0}, {50, 3.2972, 0}, 1.0000},
                              {{50, 2.5, 0}, {50, 1.8634, 0.5757}, 1.0000},
                              {{50, 2.5, 0}, {50, 3.2592, 0.3350}, 1.0000},
                              {{60.2574, -34.0099, 36.2677}, {60.4626, -34.1751, 39.4387}, 1.2644},
                              {{63.0109, -31.0961, -5.8663}, {62.8187, -29.7946, -4.0864}, 1.2630},
                              {{61.2901, 3.7196, -5.3901}, {61.4292, 2.2480, -4.9620}, 1.8731},
                              {{35.0831, -44.1164, 3.7933}, {35.0232, -40.0716, 1.5901}, 1.8645},
                              {{22.7233, 20.0904, -46.6940}, {23.0331, 14.9730, -42.5619}, 2.0373},
                              {{36.4612, 47.8580, 18.3852}, {36.2715, 50.5065, 21.2231}, 1.4146},
                              {{90.8027, -2.0831, 1.4410}, {91.1528, -1.6435, 0.0447}, 1.4441},
                              {{90.9257, -0.5406, -0.9208}, {88.6381, -0.8985, -0.7239}, 1.5381},
                              {{6.7747, -0.2908, -2.4247}, {5.8714, -0.0985, -2.2286}, 0.6377},
                              {{2.0776, 0.0795, -1.1350}, {0.9033, -0.0636, -0.5514}, 0.9082}};
        int i = 0;
        for (const Pair& p : pairs) {
            ++i;
            QVERIFY2(std::abs(ciede2000(p.a, p.b) - p.difference) < 5e-5, qPrintable(QString("pair %1: %2").arg(i).arg(ciede2000(p.a, p.b), 0, 'f', 4)));
        }
    }

    // IEC 61966-2-1: white is L* 100; the primaries' CIELAB values under D65 (from memory).
    void srgbToLab()
    {
        const struct {
            Rgba c;
            Lab lab;
        } known[] = {{{255, 255, 255, 255}, {100, 0, 0}},
                     {{0, 0, 0, 255}, {0, 0, 0}},
                     {{255, 0, 0, 255}, {53.24, 80.09, 67.20}},
                     {{0, 255, 0, 255}, {87.73, -86.18, 83.18}},
                     {{0, 0, 255, 255}, {32.30, 79.19, -107.86}}};
        for (const auto& k : known) {
            const Lab lab = labOf(k.c);
            QVERIFY(std::abs(lab.L - k.lab.L) < 0.02 && std::abs(lab.a - k.lab.a) < 0.03 && std::abs(lab.b - k.lab.b) < 0.03);
        }
    }

    // Steiner's formula for a convex body K and its parallel body at distance r:
    // area A + P r + pi r^2, length P + 2 pi r (J. Steiner 1840; Schneider, Convex Bodies, 4.1).
    void steinerOnConvexShapes()
    {
        const Polyline shapes[] = {{{60.3, 60.7}, {260.3, 60.7}, {260.3, 180.2}, {60.3, 180.2}},
                                   {{70.2, 210.4}, {160.9, 60.3}, {250.6, 200.8}},
                                   {{100, 60.5}, {210.4, 80.2}, {260.7, 150.3}, {220.1, 240.4}, {110.8, 230.9}, {60.6, 140.7}}};
        for (const Polyline& k : shapes) {
            const Gray8 g = drawn(320, 300, [&](double x, double y) { return contains(k, {x, y}); });
            for (const double mm : {0.5, 1.0, 3.0}) {
                const double r = mm * pxPerMm300, a = std::abs(signedArea(k)) + length(k) * r + std::numbers::pi * r * r,
                             p = length(k) + 2 * std::numbers::pi * r;
                const Paths out = outlineAt(g, r);
                QCOMPARE(out.size(), std::size_t(1));
                // 0.02 mm all round.
                QVERIFY2(std::abs(areaOf(out) - a) < 0.02 * pxPerMm300 * p, qPrintable(QString::number(areaOf(out) - a)));
                QVERIFY2(std::abs(lengthOf(out) - p) < 2 * std::numbers::pi * 0.02 * pxPerMm300 + 1, qPrintable(QString::number(lengthOf(out) - p)));
            }
        }
    }

    // GEOS (the open-source geometry engine) buffers the true shape; ours comes from its pixels.
    void geosBufferAgrees()
    {
        const Geos geos;
        const Polyline shape = star({200.2, 200.6}, 90, 170, 6, 0.2);
        const Gray8 g = drawn(400, 400, [&](double x, double y) { return contains(shape, {x, y}); });
        for (const double mm : {-1.0, 0.7, 2.5}) {
            for (const Corners style : {Corners::Round, Corners::Sharp, Corners::Flat}) {
                const int join = style == Corners::Round ? GEOSBUF_JOIN_ROUND : style == Corners::Sharp ? GEOSBUF_JOIN_MITRE : GEOSBUF_JOIN_BEVEL;
                const Geos::Shape theirs = geos.buffer(geos.polygon(shape), mm * pxPerMm300, join);
                Contours edge = traceEdge(g);
                sharpenCorners(edge);
                const DistanceField field(std::move(edge));
                BuildSpec build;
                build.offset = mm * pxPerMm300;
                build.corners = style;
                build.sharpLimit = 5;
                const Paths paths = fitLines(buildLines(field, build), 0.01 * pxPerMm300);
                QCOMPARE(paths.size(), std::size_t(1));
                const Geos::Shape ours = geos.polygon(flatten(paths[0], 0.01));
                QVERIFY(geos.valid(ours));
                const double overlap = geos.common(ours, theirs) / geos.together(ours, theirs);
                QVERIFY2(overlap > 0.995, qPrintable(QString::number(overlap)));
            }
        }
    }

    // potrace (P. Selinger, "Potrace: a polygon-based tracing algorithm", 2003) on the same
    // shape's bitmap: no more nodes than it, and closer to the truth.
    void potraceNodesAndDeviation()
    {
        const Point c{250.2, 250.6};
        const Polyline edge = lobes(c, 190, 24, 11);
        const Gray8 g = drawn(500, 500, [&](double x, double y) {
            const double a = std::atan2(y - c.y, x - c.x);
            return std::hypot(x - c.x, y - c.y) < 190 + 24 * std::cos(11 * a);
        });
        const Potraced theirs = potraced(g);
        const Paths ours = outlineAt(g, 0);
        double off = 0;
        for (const Point p : theirs.points)
            off = std::max(off, std::abs(signedDistance(truth(edge), p)));
        qInfo("potrace: %zu nodes, %.3f px; ours: %zu nodes, %.3f px", theirs.nodes, off, nodesOf(ours), worst(ours, truth(edge), 0));
        QVERIFY(nodesOf(ours) <= theirs.nodes);
        QVERIFY(worst(ours, truth(edge), 0) < off);
    }

    // OpenCV's exact distance transform (Felzenszwalb and Huttenlocher 2012) of a 1-bit shape,
    // measured to pixel centres, against ours to the edge: half a pixel apart, within the grid.
    void distanceTransformAgrees()
    {
        const Gray8 g = drawn(220, 220, [](double x, double y) { return std::hypot(x - 110, y - 110) < 60; });
        cv::Mat bit(220, 220, CV_8U);
        Gray8 hard(220, 220);
        for (int y = 0; y < 220; ++y)
            for (int x = 0; x < 220; ++x) {
                const bool in = g.at(x, y) >= 128;
                bit.at<unsigned char>(y, x) = in ? 0 : 255;
                hard.at(x, y) = in ? 255 : 0;
            }
        cv::Mat distances;
        cv::distanceTransform(bit, distances, cv::DIST_L2, cv::DIST_MASK_PRECISE);
        const Contours edge = traceEdge(hard);
        for (int y = 3; y < 220; y += 9)
            for (int x = 3; x < 220; x += 9)
                if (distances.at<float>(y, x) > 3)
                    QVERIFY(std::abs(signedDistance(edge, {x + 0.5, y + 0.5}) - (distances.at<float>(y, x) - 0.5)) < 0.36);
    }

    // Umeyama 1991 as in Eigen; OpenCV's estimateAffine2D and findHomography.
    void fitsAgreeWithOtherLibraries()
    {
        std::mt19937 random(7);
        std::normal_distribution<double> noise(0, 0.05);
        const auto any = [&](double least, double most) { return least + (most - least) * double(random() % 100'000) / 99'999; };
        for (int set = 0; set < 1000; ++set) {
        const int count = 5 + int(random() % 6);
        std::vector<MarkPair> marks;
        std::vector<cv::Point2d> from, to;
        Eigen::Matrix2Xd p(2, count), q(2, count);
        const double turn = any(-0.2, 0.2), size = any(0.98, 1.02), skew = any(-0.01, 0.01);
        for (int i = 0; i < count; ++i) {
            const Point d{any(0, 210), any(0, 297)};
            const Point m{size * (d.x * std::cos(turn) - d.y * std::sin(turn + skew)) + 3 + noise(random), size * (d.x * std::sin(turn) + d.y * std::cos(turn)) - 2 + noise(random)};
            marks.push_back({d, m});
            from.emplace_back(d.x, d.y);
            to.emplace_back(m.x, m.y);
            p.col(i) << d.x, d.y;
            q.col(i) << m.x, m.y;
        }
        const Eigen::Matrix3d u = Eigen::umeyama(p, q, true);
        const Homography scaled = leastSquares(marks, FitModel::Scaled);
        QVERIFY(std::abs(scaled.affine.a - u(0, 0)) < 1e-9 && std::abs(scaled.affine.e - u(0, 2)) < 1e-7);
        const Homography affine = leastSquares(marks, FitModel::Affine);
        const cv::Mat a = cv::estimateAffine2D(from, to, cv::noArray(), cv::RANSAC, 1000, 2000, 0.99, 100);
        const Homography projective = leastSquares(marks, FitModel::Projective);
        const cv::Mat h = cv::findHomography(from, to, 0);
        for (const Point x : {Point{20, 30}, {150, 200}, {90, 120}}) {
            const Point byAffine{a.at<double>(0, 0) * x.x + a.at<double>(0, 1) * x.y + a.at<double>(0, 2),
                                 a.at<double>(1, 0) * x.x + a.at<double>(1, 1) * x.y + a.at<double>(1, 2)};
            QVERIFY2(distance(affine(x), byAffine) < 1e-3, qPrintable(QString::number(distance(affine(x), byAffine))));
            const double w = h.at<double>(2, 0) * x.x + h.at<double>(2, 1) * x.y + 1;
            const Point byHomography{(h.at<double>(0, 0) * x.x + h.at<double>(0, 1) * x.y + h.at<double>(0, 2)) / w,
                                     (h.at<double>(1, 0) * x.x + h.at<double>(1, 1) * x.y + h.at<double>(1, 2)) / w};
            QVERIFY2(distance(projective(x), byHomography) < 0.01, qPrintable(QString::number(distance(projective(x), byHomography))));
        }
        }
    }
};

QTEST_APPLESS_MAIN(TestReference)
#include "test_reference.moc"
