#include "artwork/artwork.h"
#include "base/error.h"
#include "job/derive.h"
#include "keep/colour.h"
#include "keep/keep.h"
#include "shapes.h"

#include <array>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QTest>
#include <tuple>

#include <filesystem>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

Rgba8 blended(const Gray8& coverage, Rgba ink, Rgba paper)
{
    Rgba8 out(coverage.width(), coverage.height());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const int c = coverage.all()[i];
        const auto mixed = [&](int a, int b) { return std::uint8_t((a * c + b * (255 - c) + 127) / 255); };
        out.all()[i] = {mixed(ink.r, paper.r), mixed(ink.g, paper.g), mixed(ink.b, paper.b), 255};
    }
    return out;
}

} // namespace

class TestKeep : public QObject {
    Q_OBJECT
private slots:
    // A disc in ink on paper: the edge found by difference lies where the ink's edge is,
    // whatever the ink's strength.
    void paperEdgeIsSubPixel_data()
    {
        QTest::addColumn<int>("grey");
        for (const int grey : {0, 90, 170})
            QTest::newRow(qPrintable(QString::number(grey))) << grey;
    }
    void paperEdgeIsSubPixel()
    {
        QFETCH(int, grey);
        const double r = 80.4;
        const Point c{100.3, 99.6};
        const Gray8 disc = drawn(200, 200, [&](double x, double y) { return std::hypot(x - c.x, y - c.y) < r; });
        const auto g = std::uint8_t(grey);
        const Coverage found = coverageOf(blended(disc, {g, g, g, 255}, {252, 250, 246, 255}), {});
        QCOMPARE(int(found.rule), int(KeepRule::Paper));
        double mean = 0;
        const Contours edge = traceEdge(*found.pixels);
        QCOMPARE(edge.size(), std::size_t(1));
        for (const Point p : edge[0].points)
            mean += (distance(p, c) - r) / double(edge[0].points.size());
        // CIEDE2000 is not linear in the mixture, so a strong ink's edge moves a little outwards.
        QVERIFY2(std::abs(mean) < 0.05, qPrintable(QString::number(mean)));
    }

    void paperInsideIsKept()
    {
        // White within a dark ring is not joined to the picture's edge: it is picture.
        const Gray8 ring = drawn(200, 200, [](double x, double y) {
            const double d = std::hypot(x - 100, y - 100);
            return d < 80 && d > 60;
        });
        const Coverage found = coverageOf(blended(ring, {30, 30, 60, 255}, {255, 255, 255, 255}), {});
        QCOMPARE(traceEdge(*found.pixels).size(), std::size_t(1));
        QCOMPARE(int(found.pixels->at(100, 100)), 255);
        QCOMPARE(int(found.pixels->at(3, 3)), 0);
    }

    void ruleIsChosenFromThePicture()
    {
        Rgba8 clear(40, 40, Rgba{0, 0, 0, 0});
        clear.at(20, 20) = {255, 0, 0, 255};
        QCOMPARE(int(coverageOf(clear, {}).rule), int(KeepRule::Alpha));
        Rgba8 photo(40, 40);
        for (int i = 0; i < 1600; ++i)
            photo.all()[std::size_t(i)] = {std::uint8_t(i * 37), std::uint8_t(i * 91), std::uint8_t(i * 13), 255};
        const Coverage all = coverageOf(photo, {});
        QCOMPARE(int(all.rule), int(KeepRule::All));
        QVERIFY(all.why != KeepWhy::Asked);
    }

    void crumbsDropAndOpeningsFill()
    {
        const Gray8 shape = drawn(300, 200, [](double x, double y) {
            const double d = std::hypot(x - 100, y - 100);
            return (d < 80 && d > 12) || std::hypot(x - 250, y - 60) < 5 || std::hypot(x - 250, y - 140) < 20;
        });
        Rgba8 px(300, 200);
        for (std::size_t i = 0; i < px.size(); ++i)
            px.all()[i] = {200, 40, 40, shape.all()[i]};
        KeepSpec spec;
        spec.smallestPart = 1; // mm2; the crumb has 0.56
        const Coverage coverage = coverageOf(px, spec);
        Parts parts = partsOf(traceEdge(*coverage.pixels), spec, {}, pxPerMm300);
        QCOMPARE(parts.keptParts, 2);
        QCOMPARE(parts.droppedParts, 1);
        QCOMPARE(parts.keptOpenings, 1);
        QCOMPARE(parts.contours.size(), std::size_t(3));
        QCOMPARE(int(printedOf(px, coverage, parts)->at(250, 60)), 0); // a crumb is not printed either
        QCOMPARE(int(printedOf(px, coverage, parts)->at(250, 140)), 255);
        QVERIFY(std::abs(parts.all[0].area - (80 * 80 - 12 * 12) * std::numbers::pi / (pxPerMm300 * pxPerMm300)) < 0.2);
        // By hand: the crumb kept, the opening filled, found by a place in them.
        for (const Part& p : parts.all)
            if ((!p.opening && !p.kept) || p.opening)
                spec.byHand.push_back({p.inside * pxPerMm300, !p.opening});
        QCOMPARE(spec.byHand.size(), std::size_t(2));
        parts = partsOf(traceEdge(*coverage.pixels), spec, {}, pxPerMm300);
        QCOMPARE(parts.keptParts, 3);
        QCOMPARE(parts.filledOpenings, 1);
        spec.byHand.clear();
        spec.openings = Openings::Over;
        spec.openingsOver = 4; // mm2; the opening has 3.2
        parts = partsOf(traceEdge(*coverage.pixels), spec, {}, pxPerMm300);
        QCOMPARE(parts.filledOpenings, 1);
        QCOMPARE(parts.contours.size(), std::size_t(2));
    }

    void thousandsOfCrumbs()
    {
        Rgba8 px(2000, 1500, Rgba{0, 0, 0, 0});
        for (int y = 10; y < 1490; y += 20)
            for (int x = 10; x < 1990; x += 20)
                for (int k = 0; k < 9; ++k)
                    px.at(x + k % 3, y + k / 3) = {9, 9, 9, 255};
        for (int y = 700; y < 790; ++y)
            for (int x = 900; x < 1000; ++x)
                px.at(x, y) = {9, 9, 9, 255};
        const Coverage c = coverageOf(px, {});
        const Parts parts = partsOf(traceEdge(*c.pixels), {}, {}, pxPerMm300);
        QCOMPARE(parts.keptParts, 1);
        QVERIFY(parts.droppedParts > 7000);
    }

    // What a person does by hand comes after the rule, in order, and stays where it was put.
    void touchesAreDoneInOrder()
    {
        Rgba8 px(200, 160, Rgba{255, 255, 255, 255});
        for (int y = 40; y < 120; ++y)
            for (int x = 40; x < 160; ++x)
                px.at(x, y) = x < 100 ? Rgba{20, 60, 160, 255} : Rgba{190, 40, 30, 255};
        KeepSpec spec;
        const auto kept = [&](const KeepGround& ground = {}) {
            const Coverage c = coverageOf(px, spec, ground);
            double sum = 0;
            for (const std::uint8_t v : c.pixels->all())
                sum += v / 255.0;
            return sum;
        };
        QVERIFY(std::abs(kept() - 120 * 80) < 2);
        // A round tip pressed once takes out its disc.
        spec.touches.push_back({Touch::Kind::RubOut, false, 10, {{70.3, 80.2}}});
        QVERIFY2(std::abs(120 * 80 - kept() - M_PI * 100) < 1.5, qPrintable(QString::number(kept())));
        // A square one drawn level takes out a box of its width.
        spec.touches.push_back({Touch::Kind::RubOut, true, 5, {{120, 60}, {140, 60}}});
        QVERIFY(std::abs(120 * 80 - kept() - M_PI * 100 - 30 * 10) < 1.5);
        // Brought back, the disc is whole again; the box stays out.
        spec.touches.push_back({Touch::Kind::BringBack, false, 14, {{70.3, 80.2}}});
        QVERIFY(std::abs(120 * 80 - kept() - 300) < 2);
        // The red half goes as one area, and only it.
        spec.touches.push_back({Touch::Kind::RubOutLike, false, 0, {{150, 100}}, 10});
        QVERIFY2(std::abs(kept() - 60 * 80) < 60, qPrintable(QString::number(kept())));
        // Outlines: only inside them does the rule work.
        spec.touches.clear();
        spec.onlyInside = {{{50, 50}, {70, 50}, {70, 70}, {50, 70}}, {{60, 60}, {80, 60}, {80, 80}, {60, 80}}};
        QVERIFY(std::abs(kept() - (400 + 400 - 100)) < 1);
    }

    void papersAndColoursReach()
    {
        // A blue ring on white; inside it white again, and a green dot.
        Rgba8 px(120, 120);
        for (int y = 0; y < 120; ++y)
            for (int x = 0; x < 120; ++x) {
                const double d = std::hypot(x - 59.5, y - 59.5);
                px.at(x, y) = d < 10 ? Rgba{30, 150, 60, 255} : d > 30 && d < 45 ? Rgba{30, 50, 160, 255} : Rgba{255, 255, 255, 255};
            }
        KeepSpec spec;
        spec.rule = KeepRule::Paper;
        const auto at = [&](int x, int y) { return coverageOf(px, spec).pixels->at(x, y) > 127; };
        QVERIFY(at(59, 40) && at(59, 59) && !at(2, 2)); // the white inside is not joined to the edge
        spec.paperAnywhere = true;
        QVERIFY(!at(59, 40) && at(59, 59) && at(59, 22));
        spec.papers = {{{255, 255, 255, 255}, {}}, {{30, 150, 60, 255}, {}}};
        QVERIFY(!at(59, 59) && at(59, 22));
        spec = {};
        spec.rule = KeepRule::Colour;
        spec.colours = {{{30, 50, 160, 255}, {}}, {{30, 150, 60, 255}, Point{59, 59}}};
        QVERIFY(at(59, 22) && at(59, 59) && !at(59, 40));
        spec.colours.erase(spec.colours.begin());
        spec.colours.push_back({{255, 255, 255, 255}, Point{59, 40}});
        spec.oneArea = true;
        QVERIFY(at(59, 59) && at(59, 40) && !at(2, 2) && !at(59, 22)); // the white outside is another area
    }

    // A 1-bit disc of 10 mm at 300 ppi: its stairs may not show by more than 0.06 mm, and
    // the line keeps few nodes.
    void stairsAndHairsAreSmoothed()
    {
        const double r = 5 * pxPerMm300;
        const Point c{80.3, 79.6};
        Gray8 disc = drawn(160, 160, [&](double x, double y) { return std::hypot(x - c.x, y - c.y) < r; });
        for (std::uint8_t& v : disc.all())
            v = v > 127 ? 255 : 0;
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = pictureFromBytes(encodePng(blended(disc, {20, 20, 20, 255}, {255, 255, 255, 255})), "stairs.png");
        job.pieces[0].lines() = {{LineKind::Through, Length()}, {LineKind::Kiss, Length::mm(2)}};
        StepCache cache;
        const Derived d = derive(job, cache);
        for (const CutLine& line : d.pieces[0].layer().lines) {
            QCOMPARE(line.paths->size(), std::size_t(1));
            for (const Point p : flatten(line.paths->front(), 0.001))
                QVERIFY2(std::abs(distance(p * pxPerMm300, c) / pxPerMm300 - 5 - line.offset.mm()) < 0.06,
                         qPrintable(QString::number(distance(p * pxPerMm300, c) / pxPerMm300 - 5)));
            QVERIFY2(line.nodes <= 24, qPrintable(QString::number(line.nodes)));
        }
    }

    // A soft shadow under the level is neither kept nor printed; the soft rim of what is kept is.
    void whatIsInDoubtIsNotPrinted()
    {
        Rgba8 px(200, 160, {255, 255, 255, 255});
        for (int y = 0; y < 160; ++y)
            for (int x = 0; x < 200; ++x) {
                const double d = std::hypot(x + 0.5 - 80, y + 0.5 - 80) - 50, far = std::hypot(x + 0.5 - 100, y + 0.5 - 90) - 55;
                const double ink = std::clamp(0.5 - d, 0.0, 1.0), shade = 30 * std::clamp(1 - far / 10, 0.0, 1.0);
                const auto v = std::uint8_t(std::lround((255 - shade) * (1 - ink) + 40 * ink));
                px.at(x, y) = {v, v, v, 255};
            }
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = pictureFromBytes(encodePng(px), "shadow.png");
        job.pieces[0].keep().level = 14;
        StepCache cache;
        const Derived d = derive(job, cache);
        const PieceResult& r = d.pieces[0];
        QCOMPARE(r.layer().parts->keptParts, 1);
        QVERIFY(std::abs(r.layer().parts->all[0].area * pxPerMm300 * pxPerMm300 / (std::numbers::pi * 2500) - 1) < 0.02);
        QVERIFY(r.layer().coverage->pixels->at(145, 100) > 0); // the rule is in doubt here
        QCOMPARE(r.layer().printed->at(145, 100), std::uint8_t(0));
        QCOMPARE(r.layer().printed->at(80, 80), std::uint8_t(255));
        int soft = 0;
        for (int x = 26; x < 34; ++x)
            soft += r.layer().printed->at(x, 80) > 0 && r.layer().printed->at(x, 80) < 255;
        QVERIFY(soft >= 1);
    }

    void keepsByColourDarkAndLight()
    {
        Rgba8 px(60, 20);
        for (int y = 0; y < 20; ++y)
            for (int x = 0; x < 60; ++x)
                px.at(x, y) = x < 20 ? Rgba{20, 20, 30, 255} : x < 40 ? Rgba{200, 40, 60, 255} : Rgba{240, 240, 235, 255};
        const auto kept = [&](KeepRule rule, std::optional<double> level = {}, Rgba like = {205, 42, 58, 255}) {
            KeepSpec spec;
            spec.rule = rule;
            spec.level = level;
            spec.colours = {{like, {}}};
            spec.papers = {{{240, 240, 235, 255}, {}}};
            const Coverage c = coverageOf(px, spec);
            return std::array{int(c.pixels->at(10, 10)), int(c.pixels->at(30, 10)), int(c.pixels->at(50, 10))};
        };
        const auto is = [](const std::array<int, 3>& c, bool a, bool b, bool d) { return (c[0] > 127) == a && (c[1] > 127) == b && (c[2] > 127) == d; };
        QVERIFY(is(kept(KeepRule::Colour), false, true, false));
        QVERIFY(is(kept(KeepRule::Dark), true, true, false));
        QVERIFY(is(kept(KeepRule::Light), false, false, true));
        QVERIFY(is(kept(KeepRule::All), true, true, true));
        // Differences of CIEDE2000 reach a hundred, and so does the level. Here black is some 85 from
        // the paper, red some 45.
        QVERIFY(is(kept(KeepRule::Paper, 30), true, true, false));
        QVERIFY(is(kept(KeepRule::Paper, 64), true, false, false));
        QVERIFY(is(kept(KeepRule::Paper, 72), true, false, false));
        QVERIFY(is(kept(KeepRule::Paper, 100), false, false, false));
        QVERIFY(is(kept(KeepRule::Colour, 66, {20, 20, 30, 255}), true, true, false));
        QVERIFY(is(kept(KeepRule::Colour, 100, {20, 20, 30, 255}), true, true, true));
    }

    // Only the steps that read a change run again.
    void stepsAreRemembered()
    {
        Job job;
        Piece piece;
        piece.artwork.picture = openPicture(std::filesystem::path(YOKAI_DEMO_PICTURES) / "moon-rabbit.png");
        job.pieces.push_back(piece);
        StepCache cache;
        Derived d = derive(job, cache);
        QVERIFY(d.milliseconds.contains("decode") && d.milliseconds.contains("outline") && d.milliseconds.contains("fit"));
        const auto parts = d.pieces[0].layer().parts;
        job.pieces[0].lines()[0].offset = Length::mm(3);
        d = derive(job, cache);
        QVERIFY(!d.milliseconds.contains("decode") && !d.milliseconds.contains("outline") && d.milliseconds.contains("offset"));
        QCOMPARE(d.pieces[0].layer().parts, parts);
        d = derive(job, cache);
        QVERIFY(d.milliseconds.empty());
        job.pieces[0].keep().smallestPart = 1e6;
        d = derive(job, cache);
        QVERIFY(d.pieces[0].problem && d.pieces[0].problem->kind() == ErrorKind::Input);
        QVERIFY(d.pieces[0].pixels); // still to be seen
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_EXCEPTION_THROWN(derive(job, cache, {stop.get_token(), {}}), Cancelled);
    }
};

QTEST_APPLESS_MAIN(TestKeep)
#include "test_keep.moc"
