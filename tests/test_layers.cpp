// A flat-colour picture told apart into its colours: made pictures whose areas and borders are known.

#include "base/error.h"
#include "artwork/artwork.h"
#include "formats/cut_file.h"
#include "job/colour_layers.h"
#include "job/derive.h"
#include "job/recipe.h"
#include "job/replace.h"
#include "keep/colour.h"
#include "layers/coverage.h"
#include "layers/split.h"
#include "outline/contour.h"
#include "run.h"
#include "shapes.h"

#include <opencv2/core.hpp>

#include <QDir>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <cstring>
#include <map>
#include <numbers>
#include <numeric>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

// What is drawn at a place: an index of the colours.
using Drawn = std::function<int(double x, double y)>;

// Drawn smoothly: each pixel the mean of 12 x 12 places, in sRGB as drawing programs mix.
Rgba8 painted(int w, int h, const std::vector<Rgba>& colours, const Drawn& at, std::vector<double>* areas = nullptr)
{
    constexpr int fine = 12;
    Rgba8 out(w, h);
    if (areas)
        areas->assign(colours.size(), 0);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            double r = 0, g = 0, b = 0, a = 0;
            for (int v = 0; v < fine; ++v)
                for (int u = 0; u < fine; ++u) {
                    const int k = at(x + (u + 0.5) / fine, y + (v + 0.5) / fine);
                    if (k < 0)
                        continue;
                    const Rgba c = colours[std::size_t(k)];
                    r += c.r, g += c.g, b += c.b, a += 1;
                    if (areas)
                        (*areas)[std::size_t(k)] += 1.0 / (fine * fine);
                }
            const auto byte = [](double v) { return std::uint8_t(std::lround(v)); };
            out.at(x, y) = a > 0 ? Rgba{byte(r / a), byte(g / a), byte(b / a), byte(255 * a / (fine * fine))} : Rgba{};
        }
    return out;
}

int indexOf(const Split& split, Rgba colour)
{
    for (std::size_t k = 0; k < split.colours.size(); ++k)
        if (ciede2000(labOf(split.colours[k].colour), labOf(colour)) < 3)
            return int(k);
    return -1;
}

Gray8 coverage(const Split& split, int colour)
{
    ColourSet one{};
    one[std::size_t(colour)] = true;
    return coverageOf(split, one);
}

double areaOf(const Split& split, int colour)
{
    const Gray8 part = coverage(split, colour);
    return std::accumulate(part.all().begin(), part.all().end(), 0.0) / 255;
}

const std::vector<Rgba> fox = {{240, 126, 38, 255}, {250, 214, 60, 255}, {34, 36, 70, 255}, {252, 250, 244, 255}, {190, 40, 60, 255}};

// Discs on one another, a yellow one on the orange ground, and a bar over all.
int scene(double x, double y)
{
    const auto in = [&](double cx, double cy, double r) { return std::hypot(x - cx, y - cy) < r; };
    if (std::abs((x - 150) * 0.5 + (y - 110) * 0.866) < 8 && x > 60 && x < 250)
        return 2;
    if (in(210, 150, 31.3))
        return 3;
    if (in(190, 140, 52.7))
        return 4;
    if (in(90, 80, 40.4))
        return 1;
    return 0;
}

} // namespace

class TestLayers : public QObject {
    Q_OBJECT
private slots:
    // Every pixel belongs to one colour, and to no other; areas are what was drawn, to 1 %.
    void coloursAreFound()
    {
        std::vector<double> areas;
        const Rgba8 picture = painted(300, 240, fox, scene, &areas);
        const Split split = splitColours(picture, {});
        QCOMPARE(split.colours.size(), fox.size());
        std::size_t pixels = 0;
        for (std::size_t k = 0; k < split.colours.size(); ++k) {
            pixels += split.colours[k].pixels;
            QVERIFY(k == 0 || split.colours[k].pixels <= split.colours[k - 1].pixels);
        }
        QCOMPARE(pixels, picture.size());
        for (std::size_t k = 0; k < fox.size(); ++k) {
            const int at = indexOf(split, fox[k]);
            QVERIFY2(at >= 0, qPrintable(QString("colour %1").arg(k)));
            const double area = areaOf(split, at);
            QVERIFY2(std::abs(area / areas[k] - 1) < 0.01, qPrintable(QString("%1: %2 of %3").arg(k).arg(area).arg(areas[k])));
            QVERIFY(std::abs(double(split.colours[std::size_t(at)].pixels) / areas[k] - 1) < 0.02);
        }
        // All shares together are the picture, wherever two colours meet.
        std::vector<int> sums(picture.size(), 0);
        for (std::size_t k = 0; k < split.colours.size(); ++k) {
            const Gray8 part = coverage(split, int(k));
            for (std::size_t i = 0; i < sums.size(); ++i)
                sums[i] += part.all()[i];
        }
        const auto shared = std::count_if(sums.begin(), sums.end(), [](int s) { return s != 255; });
        QVERIFY2(shared < 40, qPrintable(QString::number(shared))); // where three meet
    }

    // Two neighbours' outlines are the same line between them: to 0.02 mm at 300 ppi, and so are they to what was drawn.
    void bordersAreShared()
    {
        const auto disc = [](double x, double y) { return std::hypot(x - 100, y - 90) < 60.3 ? 1 : 0; };
        const Split split = splitColours(painted(200, 180, {fox[0], fox[1]}, disc), {});
        QCOMPARE(split.colours.size(), std::size_t(2));
        constexpr double limit = 0.02 * 300 / 25.4; // px
        for (const int k : {0, 1}) {
            double worst = 0;
            for (const Contour& c : traceEdge(coverage(split, k)))
                for (const Point p : c.points)
                    if (p.x > 20 && p.x < 180 && p.y > 20 && p.y < 160)
                        worst = std::max(worst, std::abs(distance(p, {100, 90}) - 60.3));
            QVERIFY2(worst > 0 && worst < limit, qPrintable(QString::number(worst)));
        }
    }

    // What is too thin to be flat keeps its colour; a smooth edge between two others does not make a third.
    void thinLinesAndSmoothEdges()
    {
        // A dark line of 1.6 px on white, with dark elsewhere; and red on white, whose mixtures are pink.
        const auto at = [](double x, double y) { return x > 150 ? 1 : std::abs(y - 60 - 0.2 * x) < 0.8 ? 1 : std::hypot(x - 60, y - 130) < 30 ? 2 : 0; };
        const Split split = splitColours(painted(200, 180, {fox[3], fox[2], fox[4]}, at), {});
        QCOMPARE(split.colours.size(), std::size_t(3));
        const int dark = indexOf(split, fox[2]);
        int along = 0;
        for (int x = 10; x < 140; ++x)
            along += split.label.at(x, int(60 + 0.2 * (x + 0.5))) == dark;
        QVERIFY2(along > 110, qPrintable(QString::number(along)));
    }

    // Like colours are one or two by how unlike they must be; or there are as many as is said.
    void howManyIsSaid()
    {
        const std::vector<Rgba> greens = {{60, 140, 70, 255}, {70, 150, 80, 255}, {30, 60, 160, 255}, {250, 250, 250, 255}};
        const auto at = [](double x, double y) { return y < 50 ? 3 : x < 60 ? 0 : x < 120 ? 1 : 2; };
        const Rgba8 picture = painted(180, 120, greens, at);
        QCOMPARE(splitColours(picture, {}).colours.size(), std::size_t(3));
        SplitSpec fine, two, picked;
        fine.merge = 2;
        two.colours = 2;
        QCOMPARE(splitColours(picture, fine).colours.size(), std::size_t(4));
        QCOMPARE(splitColours(picture, two).colours.size(), std::size_t(2));
        // One that was picked is a colour of its own, however like another; the rest are what they were.
        picked.picked = {greens[1]};
        const Split apart = splitColours(picture, picked);
        QCOMPARE(apart.colours.size(), std::size_t(4));
        for (const Rgba c : greens)
            QVERIFY(indexOf(apart, c) >= 0);
        QCOMPARE(int(apart.label.at(30, 80)), *colourIn(apart, greens[0]));
        QCOMPARE(int(apart.label.at(90, 80)), *colourIn(apart, greens[1]));
        QCOMPARE(splitColours(painted(180, 120, greens, [](double, double y) { return y < 50 ? 3 : 2; }), picked).colours.size(), std::size_t(2)); // it is not there
    }

    // Of a colour one area alone may be taken; all others stay, borders and all.
    void oneAreaIsTaken()
    {
        const auto at = [](double x, double y) { return std::hypot(x - 50, y - 60) < 30.3 || std::hypot(x - 150, y - 60) < 20.7 ? 1 : 0; };
        const Split split = splitColours(painted(200, 120, fox, at), {});
        const Split taken = withAreas(split, {{50, 60}, {45, 60}, {-3, 7}, {150.5, 200}});
        QCOMPARE(taken.colours.size(), std::size_t(3)); // the second place is in the same area, the others are nowhere
        QVERIFY(taken.colours[2].area == Point(50, 60));
        constexpr double pi = std::numbers::pi;
        QVERIFY(std::abs(areaOf(taken, 2) / (pi * 30.3 * 30.3) - 1) < 0.005);
        QVERIFY(std::abs(areaOf(taken, indexOf(split, fox[1])) / (pi * 20.7 * 20.7) - 1) < 0.005);
        QVERIFY(std::abs(areaOf(taken, indexOf(split, fox[0])) - areaOf(split, indexOf(split, fox[0]))) < 1e-9);
        // A layer of that area alone, and one of its colour without it.
        const auto area = [&](const ColoursOf& own) {
            const Gray8 g = layerCoverage(taken, {LayerFrom::Colours, own, {}, 0, false});
            return std::accumulate(g.all().begin(), g.all().end(), 0.0) / 255;
        };
        const std::vector<Point> one = {Point(50, 60)};
        QCOMPARE(area({{}, one}), areaOf(taken, 2));
        QVERIFY(std::abs(area({{fox[1]}, {}}) - areaOf(taken, indexOf(split, fox[1]))) < 1e-9);
        // What lies under all is all of them.
        const Gray8 backing = layerCoverage(taken, {LayerFrom::Above, {}, {{fox[0], fox[1]}, one}, 0, false});
        QVERIFY(std::all_of(backing.all().begin(), backing.all().end(), [](std::uint8_t c) { return c >= 254; }));
    }

    // Speckles go to what lies round them, and nothing of them is left; larger areas stay.
    void specklesGo()
    {
        std::vector<double> areas;
        const auto at = [](double x, double y) { return std::hypot(x - 40, y - 40) < 25.3 ? 1 : std::hypot(x - 100, y - 30) < 3.1 ? 1 : std::hypot(x - 110, y - 80) < 4.2 ? 2 : 0; };
        const Rgba8 picture = painted(140, 110, fox, at, &areas);
        SplitSpec spec;
        spec.speckle = 60.0 / (12 * 12); // px, at 12 px a mm
        const Split split = splitColours(picture, spec, 12);
        QVERIFY(std::abs(areaOf(split, indexOf(split, fox[1])) / (std::numbers::pi * 25.3 * 25.3) - 1) < 0.005);
        QCOMPARE(areaOf(split, indexOf(split, fox[2])), 0.0);
        QVERIFY(std::abs(areaOf(split, indexOf(split, fox[0])) + areaOf(split, indexOf(split, fox[1])) - double(picture.size())) < 1);
    }

    // A photo comes to as many colours as is said, as near to it as k-means brings them (OpenCV's, in CIELAB, best of three); each pixel has one,
    // borders are shared, and what is too small to cut is gone. Made: balls lit from one side, on a graded ground, with grain.
    void photosAreReduced()
    {
        Rgba8 px(420, 300);
        std::mt19937 random(11);
        std::normal_distribution<double> grain(0, 7);
        for (int y = 0; y < px.height(); ++y)
            for (int x = 0; x < px.width(); ++x) {
                double c[3] = {90 + 0.25 * x, 120 + 0.2 * y, 170 - 0.2 * x};
                const double balls[3][6] = {{110, 150, 80, 230, 60, 50}, {270, 110, 70, 240, 200, 60}, {320, 220, 60, 60, 160, 80}};
                for (const auto& b : balls)
                    if (const double r = std::hypot(x - b[0], y - b[1]) / b[2]; r < 1) {
                        const double lit = std::clamp(0.25 + 0.75 * std::sqrt(1 - r * r) - 0.3 * (x - b[0] + y - b[1]) / b[2], 0.1, 1.0);
                        for (int k = 0; k < 3; ++k)
                            c[k] = b[3 + k] * lit;
                    }
                const auto byte = [&](double v) { return std::uint8_t(std::clamp(std::lround(v + grain(random)), 0L, 255L)); };
                px.at(x, y) = {byte(c[0]), byte(c[1]), byte(c[2]), 255};
            }
        SplitSpec spec;
        spec.of = SplitOf::Photo;
        spec.colours = 7;
        spec.speckle = 4;
        const Split split = splitColours(px, spec, 4);
        QCOMPARE(split.colours.size(), std::size_t(7));
        std::vector<int> sums(px.size(), 0);
        for (int k = 0; k < 7; ++k) {
            const Gray8 part = coverage(split, k);
            for (std::size_t i = 0; i < sums.size(); ++i)
                sums[i] += part.all()[i];
        }
        QVERIFY(std::all_of(sums.begin(), sums.end(), [](int s) { return s == 255; }));
        for (int k = 0; k < 7; ++k)
            for (const Contour& c : traceEdge(coverage(split, k)))
                QVERIFY2(std::abs(c.area) > 20 || c.points.size() < 30, qPrintable(QString::number(c.area)));
        // How far the picture's colours are from those found, without what was smoothed away.
        spec.speckle = 0;
        const Split plain = splitColours(px, spec, 4);
        cv::Mat lab(int(px.size()), 3, CV_32F);
        double ours = 0;
        for (int i = 0; i < lab.rows; ++i) {
            const Lab c = labOf(px.all()[std::size_t(i)]);
            lab.at<float>(i, 0) = float(c.L), lab.at<float>(i, 1) = float(c.a), lab.at<float>(i, 2) = float(c.b);
            double least = 1e9;
            for (const SplitColour& s : plain.colours) {
                const Lab m = labOf(s.colour);
                least = std::min(least, (c.L - m.L) * (c.L - m.L) + (c.a - m.a) * (c.a - m.a) + (c.b - m.b) * (c.b - m.b));
            }
            ours += least;
        }
        cv::Mat labels;
        cv::theRNG().state = 7;
        const double theirs = cv::kmeans(lab, 7, labels, cv::TermCriteria(cv::TermCriteria::COUNT | cv::TermCriteria::EPS, 20, 0.1), 3, cv::KMEANS_PP_CENTERS);
        QVERIFY2(ours < 1.15 * theirs, qPrintable(QString("%1 of %2").arg(ours).arg(theirs)));
    }

    // Under what lies above a layer goes on as far as is said, and no farther; openings that are covered wholly are closed, others stay.
    void layersGoOnUnderOthers()
    {
        // Orange all over, in it a yellow disc, and a dark one in a hole of its own.
        const auto at = [](double x, double y) { return std::hypot(x - 70, y - 70) < 40.5 ? 1 : std::hypot(x - 170, y - 70) < 25.3 ? 2 : 0; };
        const Split split = splitColours(painted(220, 140, fox, at), {});
        const auto area = [](const Gray8& g) { return std::accumulate(g.all().begin(), g.all().end(), 0.0) / 255; };
        constexpr double pi = std::numbers::pi;
        const double all = 220 * 140, yellow = pi * 40.5 * 40.5, dark = pi * 25.3 * 25.3;
        const auto orange = [&](double spread, bool close, std::vector<Rgba> above) { return area(layerCoverage(split, {LayerFrom::Colours, {{fox[0]}, {}}, {std::move(above), {}}, spread, close})); };
        const auto near = [](double got, double wanted) { return std::abs(got / wanted - 1) < 0.002; };
        QVERIFY(near(orange(0, false, {fox[1]}), all - yellow - dark));
        for (const double s : {2.0, 5.5, 12.0}) {
            const double ring = pi * (40.5 * 40.5 - (40.5 - s) * (40.5 - s));
            // To 0.4 of a pixel all along.
            QVERIFY2(std::abs(orange(s, false, {fox[1]}) - (all - yellow - dark + ring)) < 0.4 * 2 * pi * 40.5, qPrintable(QString("%1: %2 of %3").arg(s).arg(orange(s, false, {fox[1]})).arg(all - yellow - dark + ring)));
        }
        QVERIFY(near(orange(0, true, {fox[1]}), all - dark));
        QVERIFY(near(orange(0, true, {fox[1], fox[2]}), all));
        QVERIFY(near(orange(3, true, {}), all - yellow - dark)); // nothing lies above
        QVERIFY(!colourIn(split, {0, 160, 60, 255}));
    }

    // A newer picture of other resolution has the areas where they were; a recipe has none of the picture's places.
    void areasGoWithThePicture()
    {
        const auto disc = [](double scale) {
            return painted(int(200 * scale), int(120 * scale), fox, [scale](double x, double y) { return std::hypot(x / scale - 50, y / scale - 60) < 30 || std::hypot(x / scale - 150, y / scale - 60) < 20 ? 1 : 0; });
        };
        Piece piece;
        piece.artwork.picture = pictureFromBytes(encodePng(disc(1), {}, 100), "disc.png");
        StepCache cache;
        piece.layers = colourLayers(*splitOf(piece, cache), {});
        Layer area = piece.layers[0];
        area.ofColours->colours.clear();
        area.ofColours->areas = {{150, 60}};
        piece.layers.push_back(area);
        const auto cut = [&] {
            Job job;
            job.pieces = {piece};
            giveIds(job);
            StepCache own;
            const Derived d = derive(job, own);
            return d.pieces[0].layers[2].parts->all[0].area;
        };
        const double before = cut();
        QVERIFY(std::abs(before / (std::numbers::pi * 400 * 0.254 * 0.254) - 1) < 0.01);
        replacePicture(piece, pictureFromBytes(encodePng(disc(2), {}, 200), "newer.png"));
        QVERIFY(distance(piece.layers[2].ofColours->areas[0], {300, 120}) < 1e-9);
        QVERIFY(std::abs(cut() / before - 1) < 0.01);
        QVERIFY(recipeOf(piece, "r").settings.layers[2].ofColours->areas.empty());
        QCOMPARE(recipeOf(piece, "r").settings.layers[0].ofColours->colours.size(), std::size_t(1));
    }

    // The same from a picture's file to a file a colour: areas in the report, one layer's lines in each file, the same marks in all.
    void aFileForEachColour()
    {
        const QTemporaryDir dir;
        std::vector<double> areas;
        const Rgba8 picture = painted(300, 240, fox, scene, &areas);
        QImage image(reinterpret_cast<const uchar*>(picture.all().data()), 300, 240, 300 * 4, QImage::Format_RGBA8888);
        const QString file = dir.filePath("fox.png"), folder = dir.filePath("out/");
        QVERIFY(image.save(file));
        const auto batch = [&](const QStringList& more) { return run(YOKAI_BATCH, QStringList{"layers", file, "--width", "60mm", "--report", "-"} + more); };
        const Ran all = batch({"--out", folder, "--smallest-part", "0.1mm2"});
        QVERIFY2(all.code == 0, qPrintable(all.err));
        const QJsonObject report = QJsonDocument::fromJson(all.bytes).object();
        const QJsonArray layers = report["layers"].toArray();
        QCOMPARE(layers.size(), qsizetype(fox.size()));
        QByteArray marks;
        for (const QJsonValue l : layers) {
            const QJsonObject layer = l.toObject();
            const auto colour = colourFrom(layer["colour"].toString().toStdString());
            QVERIFY(colour);
            std::size_t k = 0;
            while (k < fox.size() && ciede2000(labOf(fox[k]), labOf(*colour)) > 3)
                ++k;
            QVERIFY2(k < fox.size(), qPrintable(layer["colour"].toString()));
            // Openings under layers above are closed: the ground, and the disc under the bar, are larger than what shows of them.
            const double shows = areas[k] * 60 * 60 / 300 / 300;
            QVERIFY2(layer["area_mm2"].toDouble() > 0.985 * shows, qPrintable(layer["name"].toString()));
            const QByteArray svg = read(layer["file"].toString());
            const qsizetype from = svg.indexOf("id=\"marks\""), end = svg.indexOf("</g>", from);
            QVERIFY(from > 0 && svg.contains("cut-through"));
            QVERIFY(marks.isEmpty() || svg.mid(from, end - from) == marks);
            marks = svg.mid(from, end - from);
        }
        QCOMPARE(QJsonDocument::fromJson(batch({"--colours", "3", "--out", folder}).bytes).object()["layers"].toArray().size(), 3);
        const Ran without = batch({"--drop", "#f07e26", "--backing", "1.5mm", "--out", dir.filePath("all.svg")});
        QVERIFY2(without.code == 0, qPrintable(without.err));
        const QJsonArray rest = QJsonDocument::fromJson(without.bytes).object()["layers"].toArray();
        QCOMPARE(rest.size(), qsizetype(fox.size())); // one fewer, and the backing
        QCOMPARE(rest[0].toObject()["name"].toString(), QString("backing"));
        // In one file a group each, from the bottom up, and kinds are still told apart; read again, all lines are there.
        const QByteArray grouped = read(dir.filePath("all.svg"));
        qsizetype last = 0;
        for (int k = 1; k <= rest.size(); ++k) {
            const qsizetype at = grouped.indexOf(QString("id=\"layer-0%1-").arg(k).toUtf8());
            QVERIFY2(at > last && grouped.indexOf(QString("id=\"cut-through-0%1\"").arg(k).toUtf8()) > at, qPrintable(QString::number(k)));
            last = at;
        }
        for (const char* ending : {"svg", "dxf", "pdf"}) {
            const QString one = dir.filePath(QString("one.") + ending);
            QVERIFY(batch({"--backing", "1.5mm", "--line", "kiss:0", "--out", one}).code == 0);
            if (QByteArray(ending) == "pdf")
                continue;
            const CutFile back = openCutFile(one.toStdString());
            QVERIFY(back.drawing.cuts.size() >= fox.size());
            QVERIFY(std::all_of(back.drawing.cuts.begin(), back.drawing.cuts.end(), [](const CutItem& i) { return i.kind == LineKind::Kiss; }));
        }
        QVERIFY(QString(run("/usr/bin/qpdf", {"--check", dir.filePath("one.pdf")}).bytes).contains("No syntax"));
        // Colours of which there are only crumbs have no file, and that is said; the others have.
        const QString coarse = dir.filePath("coarse/");
        const Ran crumbs = batch({"--out", coarse, "--smallest-part", "150mm2"});
        QVERIFY2(crumbs.code == 0 && crumbs.err.contains("lower --smallest-part"), qPrintable(crumbs.err));
        qsizetype withFile = 0;
        for (const QJsonValue l : QJsonDocument::fromJson(crumbs.bytes).object()["layers"].toArray()) {
            QCOMPARE(l.toObject()["file"].toString().isEmpty(), l.toObject()["parts"].toInt() == 0);
            withFile += !l.toObject()["file"].toString().isEmpty();
        }
        QVERIFY(withFile > 0 && withFile < qsizetype(fox.size()));
        QCOMPARE(QDir(coarse).entryList({"*.svg"}).size(), withFile);
        QCOMPARE(batch({"--out", coarse, "--smallest-part", "9000mm2"}).code, 3);
        QCOMPARE(batch({"--drop", "purple", "--out", folder}).code, 2);
        QVERIFY(batch({"--drop", "#00ff00", "--out", folder}).err.contains("no colour like"));
        QCOMPARE(batch({"--colours", "0", "--out", folder}).code, 2);
    }

    // Open drawings of plain colours: as many colours as the drawing names and shows, each with its area. OpenMoji (npm openmoji); what it shows by
    // librsvg without smoothing.
    void flatDrawings()
    {
        const int count = qEnvironmentVariableIsSet("YOKAI_DRAWINGS") ? qEnvironmentVariableIntValue("YOKAI_DRAWINGS") : 24; // more, for those who wait
        const QTemporaryDir dir;
        const Ran wrote = run("/usr/bin/python3", {QFINDTESTDATA("reference/flat.py"), YOKAI_OPENMOJI "/color/svg", dir.path(), QString::number(count)});
        QVERIFY2(wrote.code == 0, qPrintable(wrote.err));
        int looked = 0, alike = 0, miscounted = 0;
        QStringList bad;
        double worst = 0;
        for (const QString& name : QDir(dir.path()).entryList({"*.true.png"}, QDir::Files, QDir::Name)) {
            // What is shown, by exact colour; less than a thousandth is what an edge leaves.
            const QImage hard = QImage(dir.filePath(name)).convertToFormat(QImage::Format_ARGB32);
            std::map<QRgb, double> shown;
            for (int y = 0; y < hard.height(); ++y) {
                const QRgb* row = reinterpret_cast<const QRgb*>(hard.constScanLine(y));
                for (int x = 0, end = 0; x < hard.width(); x = end) {
                    for (end = x + 1; end < hard.width() && row[end] == row[x];)
                        ++end;
                    if (qAlpha(row[x]) == 255)
                        shown[row[x]] += (end - x) / 16.0; // pixels of the other picture
                }
            }
            const double all = std::accumulate(shown.begin(), shown.end(), 0.0, [](double sum, const auto& s) { return sum + s.second; });
            std::erase_if(shown, [&](const auto& s) { return s.second < 0.001 * all; });
            std::vector<std::pair<Lab, double>> truth;
            for (const auto& [c, area] : shown)
                truth.emplace_back(labOf({std::uint8_t(qRed(c)), std::uint8_t(qGreen(c)), std::uint8_t(qBlue(c)), 255}), area);
            bool apart = true;
            for (std::size_t i = 0; i < truth.size(); ++i)
                for (std::size_t j = i + 1; j < truth.size(); ++j)
                    apart = apart && ciede2000(truth[i].first, truth[j].first) > 10;
            if (!apart) {
                ++alike;
                continue;
            }
            ++looked;
            QString file = dir.filePath(name);
            const QImage soft = QImage(file.replace(".true.png", ".png")).convertToFormat(QImage::Format_RGBA8888);
            Rgba8 px(soft.width(), soft.height());
            for (int y = 0; y < px.height(); ++y)
                std::memcpy(px.row(y), soft.constScanLine(y), std::size_t(px.width()) * sizeof(Rgba));
            const Split split = splitColours(px, {});
            if (split.colours.size() != truth.size()) {
                ++miscounted;
                continue;
            }
            for (std::size_t k = 0; k < split.colours.size(); ++k) {
                const auto is = std::min_element(truth.begin(), truth.end(), [&](const auto& a, const auto& b) {
                    return ciede2000(a.first, labOf(split.colours[k].colour)) < ciede2000(b.first, labOf(split.colours[k].colour));
                });
                // To 1 % of the colour's own area, or of the picture's where it is small.
                const double off = std::abs(areaOf(split, int(k)) - is->second) / std::max(is->second, 0.05 * all);
                worst = std::max(worst, off);
                if (off > 0.01)
                    bad << QString("%1: %2 has %3 of %4").arg(name, QString::fromStdString(hexOf(split.colours[k].colour))).arg(areaOf(split, int(k))).arg(is->second);
            }
        }
        qInfo("%d drawings, %d more with colours too much alike; areas within %.2f %%, %lld off by more than 1 %%, %d miscounted", looked, alike, worst * 100, qlonglong(bad.size()), miscounted);
        // A few draw one thing's smooth rim over another's, which shows as more of the one than the drawing covers.
        QVERIFY2(looked > count / 2 && miscounted * 50 <= looked + 49 && bad.size() * 12 <= looked && worst < 0.025, qPrintable(bad.join('\n')));
    }

    // Nothing is no colour; a soft rim over nothing is shared with nothing.
    void transparencyIsNoColour()
    {
        const auto at = [](double x, double y) { return std::hypot(x - 60, y - 60) < 40.2 ? (x < 60 ? 0 : 1) : -1; };
        const Rgba8 picture = painted(120, 120, {fox[1], fox[4]}, at);
        const Split split = splitColours(picture, {});
        QCOMPARE(split.colours.size(), std::size_t(2));
        QCOMPARE(split.label.at(2, 2), noColour);
        const double half = 3.14159265 * 40.2 * 40.2 / 2;
        for (const int k : {0, 1})
            QVERIFY2(std::abs(areaOf(split, k) / half - 1) < 0.01, qPrintable(QString::number(areaOf(split, k) / half)));
        QVERIFY_EXCEPTION_THROWN(splitColours(Rgba8(20, 20, Rgba{}), {}), Error);
    }
};

QTEST_GUILESS_MAIN(TestLayers)
#include "test_layers.moc"
