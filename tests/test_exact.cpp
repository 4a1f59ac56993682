// Shapes whose truth is known, drawn at 300 ppi and taken through the whole job: each cut
// line from 3 mm inwards to 10 mm outwards lies where it should, and none is missing.
//
// The truth is the drawing itself: the distance to its outline, and for what is cut the
// area of GEOS's buffer of it.

#include "geos.h"
#include "job/derive.h"
#include "shapes.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QColor>
#include <QTest>

#include <random>

#include <memory>
#include <array>
#include <functional>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

struct Shape {
    std::vector<Polyline> outlines; // openings run the other way round
    int width = 0, height = 0;
    int nodes = 0; // at most, at offset 0
};

Polyline circle(Point c, double r, bool opening = false)
{
    Polyline out;
    for (int i = 0; i < 2000; ++i) {
        const double a = (opening ? -1 : 1) * 2 * std::numbers::pi * i / 2000;
        out.push_back({c.x + r * std::cos(a), c.y + r * std::sin(a)});
    }
    return out;
}

// Two discs and a neck between them.
Polyline dumbbell(Point a, Point b, double radius, double half)
{
    Polyline out;
    const double from = std::asin(half / radius);
    for (const auto& [c, turn] : {std::pair(a, 0.0), std::pair(b, std::numbers::pi)})
        for (int i = 0; i <= 600; ++i) {
            const double t = turn + from + (2 * std::numbers::pi - 2 * from) * i / 600;
            out.push_back({c.x + radius * std::cos(t), c.y + radius * std::sin(t)});
        }
    return out;
}

Shape shapeNamed(const QByteArray& name)
{
    if (name == "disc")
        return {{circle({150.3, 147.6}, 120)}, 300, 296, 8};
    if (name == "ring")
        return {{circle({160.2, 161.7}, 130), circle({160.2, 161.7}, 60, true)}, 320, 322, 16};
    if (name == "gear")
        return {{lobes({250.2, 250.6}, 190, 24, 11)}, 500, 500, 48};
    if (name == "star")
        return {{star({260.3, 259.6}, 80, 210, 5, 0.3)}, 520, 520, 20};
    if (name == "sun")
        return {{star({260.3, 259.6}, 150, 210, 12, 0.3)}, 520, 520, 40};
    return {{dumbbell({110.3, 150.2}, {330.7, 150.2}, 70, 7)}, 440, 300, 24}; // a neck of 1.2 mm
}

// As a camera and a shop's file have it: ink on white paper, sensor noise, JPEG of quality 85
// with halved colours (OpenCV's own way), at 300 ppi.
Picture photographed(int width, int height, unsigned seed, const std::function<std::array<double, 3>(int, int)>& rgbAt)
{
    cv::Mat bgr(height, width, CV_8UC3);
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, 2.5);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const auto rgb = rgbAt(x, y);
            for (std::size_t c = 0; c < 3; ++c)
                bgr.at<cv::Vec3b>(y, x)[int(2 - c)] = cv::saturate_cast<uchar>(rgb[c] + noise(random));
        }
    std::vector<uchar> jpeg;
    cv::imencode(".jpg", bgr, jpeg, {cv::IMWRITE_JPEG_QUALITY, 85});
    return pictureFromBytes(Bytes(jpeg.begin(), jpeg.end()), "photo.jpg");
}

Picture photographed(const Shape& shape, Rgba ink, unsigned seed)
{
    const Gray8 cover = drawnFine(shape.outlines, shape.width, shape.height);
    return photographed(shape.width, shape.height, seed, [&](int x, int y) {
        const double k = cover.at(x, y) / 255.0;
        return std::array{250 + k * (ink.r - 250.0), 249 + k * (ink.g - 249.0), 247 + k * (ink.b - 247.0)};
    });
}

constexpr double offsets[] = {-3, -1, -0.3, 0, 0.5, 2, 5, 10};

} // namespace

class TestExact : public QObject {
    Q_OBJECT
private slots:
    void linesLieWhereTheyShould_data()
    {
        QTest::addColumn<bool>("oneBit");
        QTest::addColumn<double>("within"); // mm
        for (const char* shape : {"disc", "ring", "gear", "star", "sun", "neck"}) {
            QTest::newRow(shape) << false << 0.02;
            QTest::newRow(qPrintable(QString("%1, 1 bit").arg(shape))) << true << 0.06;
        }
    }
    void linesLieWhereTheyShould()
    {
        QFETCH(bool, oneBit);
        QFETCH(double, within);
        const Shape shape = shapeNamed(QByteArray(QTest::currentDataTag()).split(',')[0]);
        const Gray8 cover = drawnFine(shape.outlines, shape.width, shape.height);
        Rgba8 px(shape.width, shape.height);
        for (std::size_t i = 0; i < px.size(); ++i)
            px.all()[i] = {90, 60, 120, oneBit ? std::uint8_t(cover.all()[i] > 127 ? 255 : 0) : cover.all()[i]};
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = pictureFromBytes(encodePng(px), "shape.png");
        job.pieces[0].keep().smallestPart = 0;
        job.pieces[0].lines().clear();
        for (const double mm : offsets)
            job.pieces[0].lines().push_back({LineKind::Through, Length::mm(mm)});
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        QVERIFY(!d.pieces[0].problem);

        Contours truthMm;
        std::vector<Polyline> mm = shape.outlines;
        for (Polyline& p : mm) {
            for (Point& q : p)
                q = q * (1 / pxPerMm300);
            truthMm.push_back(truth(p)[0]);
        }
        const Geos geos;
        const Geos::Shape whole = geos.region(mm);
        for (const CutLine& line : d.pieces[0].layer().lines) {
            const double offset = line.offset.mm();
            const double off = worst(*line.paths, truthMm, offset);
            QVERIFY2(off < within, qPrintable(QString("at %1 mm: %2 mm off").arg(offset).arg(off)));
            // What lies within `within` of the line on either side is all that the areas may differ by.
            const double difference = std::abs(areaOf(*line.paths) - geos.area(geos.buffer(whole, offset)));
            QVERIFY2(difference < within * line.length + 0.02, qPrintable(QString("at %1 mm: %2 mm2 apart").arg(offset).arg(difference)));
            // What has no corners gets none, but where fronts meet, as all do in an opening of two pixels.
            if (const QByteArray name = QTest::currentDataTag(); !oneBit && (name == "disc" || name == "ring" || (name == "gear" && offset == 0)))
                for (const Path& path : *line.paths)
                    QVERIFY2(std::abs(signedArea(path)) < 0.04 || std::find(path.corners.begin(), path.corners.end(), true) == path.corners.end(),
                             qPrintable(QString("a corner at %1 mm").arg(offset)));
            if (offset == 0 && !oneBit)
                QVERIFY2(int(line.nodes) <= shape.nodes, qPrintable(QString::number(line.nodes)));
        }
    }

    // Every ink comes within 0.05 mm of the truth, whichever channel tells it.
    void everyInkOnPaper_data()
    {
        QTest::addColumn<QString>("shape");
        QTest::addColumn<QColor>("ink");
        const std::pair<const char*, QColor> inks[] = {{"black", {30, 28, 32}},      {"red", {200, 40, 45}},       {"blue", {40, 70, 170}},
                                                       {"green", {60, 150, 70}},     {"orange", {240, 150, 40}},   {"pale yellow", {252, 240, 150}},
                                                       {"pale pink", {250, 205, 215}}, {"sky", {170, 215, 240}}, {"grey", {190, 190, 190}}};
        for (const char* shape : {"disc", "gear", "ring", "star"})
            for (const auto& [name, ink] : inks)
                QTest::newRow(qPrintable(QString("%1, %2").arg(shape, name))) << shape << ink;
    }
    void everyInkOnPaper()
    {
        QFETCH(QString, shape);
        QFETCH(QColor, ink);
        const Shape s = shapeNamed(shape.toLatin1());
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture =
            photographed(s, {std::uint8_t(ink.red()), std::uint8_t(ink.green()), std::uint8_t(ink.blue()), 255}, unsigned(qHash(QByteArray(QTest::currentDataTag()))));
        job.pieces[0].artwork.sizeBy = SizeBy::Ppi;
        job.pieces[0].artwork.ppi = 300;
        job.pieces[0].keep().paperAnywhere = true; // of the ring too
        job.pieces[0].lines() = {{LineKind::Through, Length()}, {LineKind::Through, 500_um}};
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        QVERIFY2(!d.pieces[0].problem, d.pieces[0].problem ? d.pieces[0].problem->what() : "");
        Contours truthMm;
        for (Polyline p : s.outlines) {
            for (Point& q : p)
                q = q * (1 / pxPerMm300);
            truthMm.push_back(truth(p)[0]);
        }
        for (const CutLine& line : d.pieces[0].layer().lines) {
            const double off = worst(*line.paths, truthMm, line.offset.mm());
            QVERIFY2(off < 0.05, qPrintable(QString("at %1 mm: %2 mm off").arg(line.offset.mm()).arg(off)));
            QCOMPARE(line.paths->size(), s.outlines.size());
        }
    }

    // Pale ink beside dark is ink, however high the level, and no tint that compression left there.
    void paleBesideDarkStays()
    {
        for (unsigned seed = 0; seed < 6; ++seed) {
            Job job;
            job.pieces.emplace_back();
            // A dark disc with cream, dark and cream rings within one another round it.
            job.pieces[0].artwork.picture = photographed(260, 260, seed, [](int x, int y) {
                const double r = std::hypot(x + 0.5 - 130.3, y + 0.5 - 129.6);
                using Rgb = std::array<double, 3>;
                return r < 40 ? Rgb{40, 38, 45} : r < 46 ? Rgb{238, 214, 170} : r < 60 ? Rgb{45, 40, 60} : r < 72 ? Rgb{236, 210, 165} : Rgb{250, 249, 247};
            });
            job.pieces[0].artwork.sizeBy = SizeBy::Ppi;
            job.pieces[0].artwork.ppi = 300;
            job.pieces[0].keep().level = 12;
            StepCache cache;
            const Derived d = derive(job, cache, {}, Want::Lines);
            QVERIFY(!d.pieces[0].problem);
            const Parts& parts = *d.pieces[0].layer().parts;
            QCOMPARE(parts.keptParts, 1);
            QVERIFY(std::none_of(parts.all.begin(), parts.all.end(), [](const Part& p) { return p.opening; }));
            const double r = 72 / pxPerMm300;
            QVERIFY2(std::abs(parts.all[0].area - std::numbers::pi * r * r) < 0.1 * 2 * std::numbers::pi * r, qPrintable(QString::number(parts.all[0].area)));
        }
        // The badger's cream tail lies beside its dark belly.
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = openPicture(YOKAI_DEMO_PICTURES "/kettle-badger.jpg");
        job.pieces[0].keep().level = 14;
        StepCache cache;
        const Derived d = derive(job, cache, {}, Want::Lines);
        QCOMPARE(d.pieces[0].layer().parts->keptParts, 4);
        for (const Part& part : d.pieces[0].layer().parts->all)
            QVERIFY(!part.opening);
    }
};

QTEST_APPLESS_MAIN(TestExact)
#include "test_exact.moc"
