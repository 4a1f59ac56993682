// Bleed and drift against shapes whose truth is known in closed form, and OpenCV's exact distance transform.
#include "bleed/bleed.h"
#include "bleed/drift.h"
#include "bleed/landing.h"
#include "formats/drawing.h"
#include "formats/project/project.h"
#include "formats/svg/svg.h"
#include "job/derive.h"
#include "keep/colour.h"
#include "outline/figures.h"
#include "shapes.h"

#include <opencv2/imgproc.hpp>
#include <QTest>

#include <cmath>
#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double pi = std::numbers::pi;

// A picture as it comes of a keep rule: its colours, and how opaque they are printed.
struct Printed {
    Rgba8 pixels;
    Gray8 opacity;
    Contours edge;
};
Printed printed(int width, int height, const std::function<bool(double, double)>& inside, const std::function<Rgba(int, int)>& colour)
{
    Printed out{Rgba8(width, height), drawn(width, height, inside), {}};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            out.pixels.at(x, y) = colour(x, y);
    out.edge = traceEdge(out.opacity);
    return out;
}
std::function<bool(double, double)> disc(Point c, double r)
{
    return [=](double x, double y) { return std::hypot(x - c.x, y - c.y) < r; };
}

std::shared_ptr<const PrintImage> bled(const Printed& p, double mm, BleedSpec spec = {}, double pxPerMm = 10, bool lossy = false)
{
    spec.distance = Length::mm(mm);
    return bleedOf(DistanceField(p.edge), {p.pixels, p.opacity, pxPerMm, lossy}, spec);
}
// The pixel of a bleed at a place of the picture, px.
Rgba at(const PrintImage& image, double x, double y, double pxPerMm = 10)
{
    const Point p = image.toMm.inverse()(Point{x, y} * (1 / pxPerMm));
    const int i = int(std::floor(p.x)), j = int(std::floor(p.y));
    return i < 0 || j < 0 || i >= image.pixels->width() || j >= image.pixels->height() ? Rgba{} : image.pixels->at(i, j);
}
double coverOf(const PrintImage& image)
{
    double sum = 0;
    for (const Rgba& c : image.pixels->all())
        sum += c.a / 255.0;
    return sum;
}

} // namespace

class TestBleed : public QObject {
    Q_OBJECT
private slots:
    // A ring: outwards by the distance, inwards into the opening by as much; a band under the rim on both sides.
    void reachesItsDistance()
    {
        const double r = 80, hole = 40, d = 12.5;
        const Printed ring = printed(300, 300, [&](double x, double y) { return disc({150, 150}, r)(x, y) && !disc({150, 150}, hole)(x, y); },
                                     [](int, int) { return Rgba{10, 20, 30, 255}; });
        const auto image = bled(ring, d / 10);
        QVERIFY(image);
        const double rim = 3; // px
        const double wanted = pi * ((r + d) * (r + d) - (r - rim) * (r - rim) + (hole + rim) * (hole + rim) - (hole - d) * (hole - d));
        QVERIFY2(std::abs(coverOf(*image) / wanted - 1) < 0.001, qPrintable(QString::number(coverOf(*image) / wanted)));
        for (int k = 0; k < 64; ++k) {
            const double a = 2 * pi * k / 64;
            const auto along = [&](double radius) { return at(*image, 150 + radius * std::cos(a), 150 + radius * std::sin(a)); };
            QVERIFY(along(r + d - 1.5).a == 255 && along(r + d + 1.5).a == 0 && along(hole - d + 1.5).a == 255 && along(hole - d - 1.5).a == 0);
            QVERIFY((along(r + 3) == Rgba{10, 20, 30, 255}));
        }
        QVERIFY(!bled(ring, 0)); // nothing is asked for
    }

    // Each place has the colour of the nearest seed: OpenCV's exact transform of the same seeds is as far.
    void takesTheNearestColour()
    {
        const Printed lobed = printed(260, 240, [](double x, double y) { return std::hypot(x - 130, y - 120) < 70 + 22 * std::cos(5 * std::atan2(y - 120, x - 130)); },
                                      [](int x, int y) { return Rgba{std::uint8_t(x), std::uint8_t(y), 0, 255}; }); // each pixel says where it is
        const auto image = bled(lobed, 2.5);
        cv::Mat deep(240, 260, CV_8U, cv::Scalar(1)); // 0 at the seeds
        for (int y = 2; y < 238; ++y)
            for (int x = 2; x < 258; ++x) {
                bool in = true;
                for (int j = -2; j <= 2; ++j)
                    for (int i = -2; i <= 2; ++i)
                        in = in && lobed.opacity.at(x + i, y + j) >= 250;
                if (in)
                    deep.at<uchar>(y, x) = 0;
            }
        cv::Mat away;
        cv::distanceTransform(deep, away, cv::DIST_L2, cv::DIST_MASK_PRECISE);
        int looked = 0;
        for (int y = 0; y < 240; ++y)
            for (int x = 0; x < 260; ++x)
                if (const Rgba c = at(*image, x + 0.5, y + 0.5); c.a > 0) {
                    ++looked;
                    const double to = std::hypot(x - int(c.r), y - int(c.g));
                    // What opening leaves over may be a nearer seed, never a farther one.
                    QVERIFY2(to <= double(away.at<float>(y, x)) + 1e-3, qPrintable(QStringLiteral("%1, %2: %3").arg(x).arg(y).arg(to)));
                    QVERIFY(to > double(away.at<float>(y, x)) - 3);
                }
        QVERIFY(looked > 10'000);
    }

    // Two halves bleed as two, parts to half their gap, a pale rim not at all, and a thin stroke in its own colour.
    void coloursStayApart()
    {
        const Printed halves = printed(240, 240, disc({120, 120}, 80), [](int x, int) { return x < 120 ? Rgba{200, 0, 0, 255} : Rgba{0, 0, 200, 255}; });
        const auto both = bled(halves, 2);
        QVERIFY(at(*both, 30, 120).r == 200 && at(*both, 210, 120).b == 200 && at(*both, 100, 30).r == 200 && at(*both, 140, 30).b == 200);

        const Printed parts = printed(300, 140, [](double x, double y) { return disc({70, 70}, 50)(x, y) || disc({210, 70}, 50)(x, y); },
                                      [](int x, int) { return x < 140 ? Rgba{200, 0, 0, 255} : Rgba{0, 0, 200, 255}; });
        const auto gap = bled(parts, 4); // the gap is 40 px: they meet in its middle
        QVERIFY(at(*gap, 138, 70).r == 200 && at(*gap, 142, 70).b == 200 && at(*gap, 138, 70).a == 255);

        // A rim of 3 px that a scan has made pale: past it the colour is true.
        const Printed pale = printed(240, 240, disc({120, 120}, 80), [](int x, int y) { return std::hypot(x - 119.5, y - 119.5) > 77 ? Rgba{230, 230, 210, 255} : Rgba{0, 90, 40, 255}; });
        QVERIFY(at(*bled(pale, 2, {}, 10, true), 30, 120).g == 90);
        BleedSpec deeper;
        deeper.inside = 500_um;
        QVERIFY(at(*bled(pale, 2, deeper), 30, 120).g == 90);
        deeper.inside = Length();
        QVERIFY(at(*bled(pale, 2, deeper), 30, 120).g == 230);

        // A hair of 2 px beside a large disc: its own colour, though the disc's is deep and near.
        const Printed hair = printed(240, 240, [](double x, double y) { return disc({90, 120}, 60)(x, y) || (std::abs(x - 190) < 1.001 && std::abs(y - 120) < 60); },
                                     [](int x, int) { return x > 160 ? Rgba{200, 0, 0, 255} : Rgba{0, 0, 200, 255}; });
        QVERIFY(at(*bled(hair, 1.5), 196, 120).r == 200 && at(*bled(hair, 1.5), 184, 120).r == 200);
    }

    // The quick lightness is the one of the CIE's formula, to a whole number.
    void lightnessIsQuick()
    {
        std::mt19937 random(4);
        for (int k = 0; k < 20'000; ++k) {
            const Rgba c{std::uint8_t(random()), std::uint8_t(random()), std::uint8_t(random()), 255};
            QVERIFY2(std::abs(lightnessOf(c) - labOf(c).L) < 0.75, qPrintable(QStringLiteral("%1 for %2").arg(lightnessOf(c)).arg(labOf(c).L)));
        }
        QVERIFY(lightnessOf({255, 255, 255, 255}) == 100 && lightnessOf({0, 0, 0, 255}) == 0);
    }

    void mirroredAndPlain()
    {
        // Rings of colour inwards from the edge: without, they come again in the opposite order.
        const Printed rings = printed(240, 240, disc({120, 120}, 90), [](int x, int y) { return Rgba{std::uint8_t(2 * std::hypot(x - 119.5, y - 119.5)), 0, 0, 255}; });
        BleedSpec spec;
        spec.from = BleedFrom::Mirror;
        const auto mirror = bled(rings, 2, spec);
        for (const double out : {6.0, 10.0, 16.0})
            QVERIFY2(std::abs(int(at(*mirror, 120 + 90 + out, 120).r) - 2 * (90 - out)) <= 6, qPrintable(QString::number(at(*mirror, 210 + out, 120).r)));
        spec.from = BleedFrom::Colour;
        spec.colour = {1, 2, 3, 255};
        QVERIFY((at(*bled(rings, 2, spec), 220, 120) == Rgba{1, 2, 3, 255}));
        // A border goes first, and the bleed goes on in it.
        spec.border = 1_mm;
        spec.borderColour = {255, 250, 240, 255};
        const auto border = bled(rings, 1, spec);
        QVERIFY((at(*border, 120 + 90 + 5, 120) == Rgba{255, 250, 240, 255}) && (at(*border, 120 + 90 + 18, 120) == Rgba{255, 250, 240, 255}));
        QVERIFY(at(*border, 120 + 90 + 22, 120).a == 0);
    }

    // How far the cut may land off: of circles in closed form, outside, on and within the edge, with a bleed and without.
    // A disc of radius 10 with its cut at 12 and its bleed to 13: cut d off, paper shows from 1 mm on, by d - 1; the artwork is cut
    // from 2 mm on, by d - 2. The worst of many within 3 mm lies near 3 mm off, wherever; the same seed gives the same.
    void landingsOnADisc()
    {
        Polyline round;
        for (int k = 0; k < 3600; ++k)
            round.push_back(Point{20, 20} + Point{std::cos(k * std::numbers::pi / 1800), std::sin(k * std::numbers::pi / 1800)} * 10);
        const KeptEdge kept(truth(round), 1);
        Path cut;
        cut.start = {32, 20};
        for (const Point p : {Point{20, 32}, Point{8, 20}, Point{20, 8}, Point{32, 20}})
            cut.arcTo({20, 20}, p, true);
        for (const double d : {0.0, 0.7, 1.4, 2.5})
            for (const double heading : {0.3, 2.0, 5.1}) {
                const Landing landing = landingOf({cut}, kept, 3, Point{std::cos(heading), std::sin(heading)} * d);
                QVERIFY(std::abs(landing.paper - std::max(0.0, d - 1)) < 0.01);
                QVERIFY(std::abs(landing.artwork - std::max(0.0, d - 2)) < 0.01);
            }
        const Landing worst = worstLanding({cut}, kept, 3, 3, 100);
        QVERIFY(norm(worst.by) > 2.7 && norm(worst.by) <= 3 && std::abs(worst.paper - (norm(worst.by) - 1)) < 0.02);
        QVERIFY(worstLanding({cut}, kept, 3, 3, 100).by == worst.by && !(worstLanding({cut}, kept, 3, 3, 100, 2).by == worst.by));
        QVERIFY(landingOf({cut}, kept, 1, {0.5, 0}).paper == 0); // a rim of bare paper is meant
        // An inward line wants no border: nothing of the artwork counts as cut.
        const Path inward = transformed(cut, Affine::move(20, 20) * Affine::scale(0.75, 0.75) * Affine::move(-20, -20));
        QVERIFY(landingOf({inward}, kept, 0, {0.5, 0}).artwork == 0 && landingOf({inward}, kept, 0, {0.5, 0}).paper == 0);
        QVERIFY(std::abs(landingOf({inward}, kept, 0, {1.5, 0}).paper - 0.5) < 0.01);
    }

    void driftIsExact()
    {
        const Contours art = {truth(flatten(ellipseFigure({200, 200}, 100, 100), 0.001))}; // 10 mm in radius at 10 px a mm
        const KeptEdge artwork(art, 10);
        for (const double reach : {0.0, 1.0, 3.0})
            for (const double offset : {-1.5, 0.0, 0.7, 2.0}) {
                const KeptEdge print({truth(flatten(ellipseFigure({200, 200}, 100 + 10 * reach, 100 + 10 * reach), 0.001))}, 10);
                const Drift drift = driftOf({ellipseFigure({20, 20}, 10 + offset, 10 + offset)}, artwork, print, offset > 0 ? Border::Wanted : Border::None);
                if (offset <= reach)
                    QVERIFY2(std::abs(drift.paper - (reach - offset)) < 0.003, qPrintable(QString::number(drift.paper)));
                else
                    QVERIFY(std::isinf(drift.paper)); // bare paper is meant to be seen
                if (offset > 0)
                    QVERIFY2(std::abs(drift.artwork - offset) < 0.003, qPrintable(QString::number(drift.artwork)));
                else
                    QVERIFY(std::isinf(drift.artwork));
            }
        // A line that is not concentric is weakest where it comes nearest, and that is said.
        const KeptEdge print({truth(flatten(ellipseFigure({200, 200}, 130, 130), 0.001))}, 10);
        const Drift off = driftOf({ellipseFigure({21, 20}, 11, 11)}, artwork, print, Border::Wanted);
        QVERIFY(std::abs(off.paper - 1) < 0.01 && distance(off.paperAt, {32, 20}) < 0.3);
        QVERIFY(std::abs(off.artwork) < 0.02); // it touches the picture
        // One that runs through the picture has nothing left, and says where.
        const Drift through = driftOf({ellipseFigure({22, 20}, 11, 11)}, artwork, print, Border::Wanted);
        QVERIFY(through.artwork == 0 && distance(through.artworkAt, {20, 20}) < 10.01);
    }

    // A tab stands on bare paper because it is meant to: it neither weakens the drift nor is it told of.
    void tabsAreBare()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        job.pieces.resize(1);
        Piece& imp = job.pieces[0];
        QVERIFY(imp.lines()[0].edits[0].kind == EditKind::Tab);
        imp.bleed().distance = 3_mm;
        imp.lines().resize(1);
        imp.lines()[0].edits.resize(1);
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        const LayerResult& layer = d.pieces[0].layer();
        QVERIFY(layer.lines[0].edits[0].fate == EditFate::Held);
        QVERIFY2(std::abs(layer.drift.paper - 1) < 0.05, qPrintable(QString::number(layer.drift.paper))); // 3 mm of bleed, a line at 2
        QVERIFY2(std::abs(layer.drift.artwork - 2) < 0.05, qPrintable(QString::number(layer.drift.artwork)));
        QVERIFY(std::none_of(d.findings.begin(), d.findings.end(), [](const Finding& f) { return f.code == "shows-paper"; }));
    }

    // A line that bounds the print bounds the white too, and the cut on it shows paper at any drift.
    void aBoundedPrint()
    {
        Job job;
        Piece& piece = job.pieces.emplace_back();
        piece.artwork.picture = openPicture(YOKAI_DEMO_PICTURES "/river-imp.png");
        piece.artwork.setWidth(40_mm);
        piece.lines() = {{LineKind::Through, -(1_mm)}};
        piece.lines()[0].clipsPrint = true;
        piece.bleed().distance = 2_mm; // of no use here
        piece.underprint().on = true;
        giveIds(job);
        StepCache cache;
        for (const Length choke : {Length(), 500_um}) {
            piece.underprint().choke = choke;
            const Derived d = derive(job, cache);
            const LayerResult& layer = d.pieces[0].layer();
            QVERIFY(!layer.bleed && layer.underprint && layer.drift.paper < 0.01);
            Job inner = job;
            inner.pieces[0].lines()[0].offset = -(1_mm) - choke;
            const double wanted = derive(inner, cache, {}, Want::Lines).pieces[0].layer().lines[0].area;
            double ink = 0;
            for (const std::uint8_t t : layer.underprint->tint->all())
                ink += t / 255.0;
            ink *= layer.underprint->toMm.a * layer.underprint->toMm.d;
            QVERIFY2(std::abs(ink / wanted - 1) < 0.005, qPrintable(QStringLiteral("%1 of %2").arg(ink).arg(wanted)));
        }
    }

    // Through a job: reported, written beneath the picture in its place, and no paper is told of.
    void aJobBleeds()
    {
        Job job;
        Piece& piece = job.pieces.emplace_back();
        piece.artwork.picture = openPicture(YOKAI_DEMO_PICTURES "/river-imp.png");
        piece.artwork.setWidth(40_mm);
        piece.lines() = {{LineKind::Through, Length()}};
        giveIds(job);
        StepCache cache;
        const auto paper = [](const Derived& d) { return std::count_if(d.findings.begin(), d.findings.end(), [](const Finding& f) { return f.code == "shows-paper"; }); };
        const Derived bare = derive(job, cache);
        QVERIFY(!bare.pieces[0].layer().bleed && paper(bare) == 1);
        QVERIFY(bare.pieces[0].layer().driftAllowance() < 0.01);
        piece.bleed().distance = 2_mm;
        const Derived d = derive(job, cache);
        const LayerResult& layer = d.pieces[0].layer();
        QVERIFY(layer.bleed && paper(d) == 0);
        QVERIFY2(std::abs(layer.driftAllowance() - 2) < 0.01, qPrintable(QString::number(layer.driftAllowance())));
        QVERIFY(std::abs(d.pieces[0].box.width() - layer.kept.width() - 4) < 0.01); // room for it on the sheet
        const Drawing drawing = drawPiece(job, piece, d.pieces[0], Content::Both);
        QCOMPARE(drawing.images.size(), std::size_t(2));
        QVERIFY(drawing.images[0].image.width() > drawing.images[1].image.width() * 0.9);
        const Point corner = drawing.images[0].places[0]({0, 0});
        QVERIFY(std::abs(corner.x - layer.kept.x0 + 2) < 0.3 && std::abs(corner.y - layer.kept.y0 + 2) < 0.3);
        // A line that bounds the print leaves no bleed.
        piece.lines()[0].clipsPrint = true;
        QVERIFY(!derive(job, cache).pieces[0].layer().bleed);
    }
};

QTEST_GUILESS_MAIN(TestBleed)
#include "test_bleed.moc"
