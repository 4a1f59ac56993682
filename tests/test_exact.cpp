// Shapes whose truth is known, drawn at 300 ppi and taken through the whole job: each cut
// line from 3 mm inwards to 10 mm outwards lies where it should, and none is missing.
//
// The truth is the drawing itself: the distance to its outline, and for what is cut the
// area of GEOS's buffer of it.

#include "job/derive.h"
#include "shapes.h"

#include <geos_c.h>
#include <opencv2/imgproc.hpp>
#include <QTest>

#include <memory>
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

class Geos {
public:
    Geos() : handle_(GEOS_init_r()) {}
    ~Geos() { GEOS_finish_r(handle_); }
    // Of the shape grown by r; the outlines in mm.
    double bufferedArea(const std::vector<Polyline>& outlines, double r) const
    {
        GEOSGeometry* rings[2] = {};
        for (std::size_t k = 0; k < outlines.size(); ++k) {
            const Polyline& p = outlines[k];
            GEOSCoordSequence* s = GEOSCoordSeq_create_r(handle_, unsigned(p.size() + 1), 2);
            for (std::size_t i = 0; i <= p.size(); ++i)
                GEOSCoordSeq_setXY_r(handle_, s, unsigned(i), p[i % p.size()].x, p[i % p.size()].y);
            rings[k] = GEOSGeom_createLinearRing_r(handle_, s);
        }
        GEOSGeometry* shape = GEOSGeom_createPolygon_r(handle_, rings[0], rings + 1, unsigned(outlines.size() - 1));
        GEOSGeometry* grown = GEOSBuffer_r(handle_, shape, r, 64);
        double area = 0;
        GEOSArea_r(handle_, grown, &area);
        GEOSGeom_destroy_r(handle_, grown);
        GEOSGeom_destroy_r(handle_, shape);
        return area;
    }

private:
    GEOSContextHandle_t handle_;
};

// Drawn by OpenCV sixteen times as fine and averaged down.
Gray8 drawnFine(const Shape& shape)
{
    constexpr int fine = 16, shift = 4;
    cv::Mat large(shape.height * fine, shape.width * fine, CV_8U, cv::Scalar(0)), small;
    for (std::size_t k = 0; k < shape.outlines.size(); ++k) {
        std::vector<cv::Point> points;
        for (const Point p : shape.outlines[k]) // pixel (0, 0) lies about (0.5, 0.5)
            points.emplace_back(int(std::lround((p.x * fine - 0.5) * (1 << shift))), int(std::lround((p.y * fine - 0.5) * (1 << shift))));
        cv::fillPoly(large, std::vector{points}, cv::Scalar(k == 0 ? 255 : 0), cv::LINE_8, shift);
    }
    cv::resize(large, small, {shape.width, shape.height}, 0, 0, cv::INTER_AREA);
    Gray8 out(shape.width, shape.height);
    std::copy(small.begin<std::uint8_t>(), small.end<std::uint8_t>(), out.all().begin());
    return out;
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
        const Gray8 cover = drawnFine(shape);
        Rgba8 px(shape.width, shape.height);
        for (std::size_t i = 0; i < px.size(); ++i)
            px.all()[i] = {90, 60, 120, oneBit ? std::uint8_t(cover.all()[i] > 127 ? 255 : 0) : cover.all()[i]};
        Job job;
        job.pieces.emplace_back();
        job.pieces[0].artwork.picture = pictureFromBytes(encodePng(px), "shape.png");
        job.pieces[0].keep.smallestPart = 0;
        job.pieces[0].cutLines.lines.clear();
        for (const double mm : offsets)
            job.pieces[0].cutLines.lines.push_back({LineKind::Through, Length::mm(mm)});
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
        for (const CutLine& line : d.pieces[0].lines) {
            const double offset = line.offset.mm();
            const double off = worst(*line.paths, truthMm, offset);
            QVERIFY2(off < within, qPrintable(QString("at %1 mm: %2 mm off").arg(offset).arg(off)));
            // What lies within `within` of the line on either side is all that the areas may differ by.
            const double difference = std::abs(areaOf(*line.paths) - geos.bufferedArea(mm, offset));
            QVERIFY2(difference < within * line.length + 0.02, qPrintable(QString("at %1 mm: %2 mm2 apart").arg(offset).arg(difference)));
            // What has no corners gets none, but where fronts meet.
            if (const QByteArray name = QTest::currentDataTag(); !oneBit && (name == "disc" || name == "ring" || (name == "gear" && offset == 0)))
                for (const Path& path : *line.paths)
                    QVERIFY2(std::find(path.corners.begin(), path.corners.end(), true) == path.corners.end(),
                             qPrintable(QString("a corner at %1 mm").arg(offset)));
            if (offset == 0 && !oneBit)
                QVERIFY2(int(line.nodes) <= shape.nodes, qPrintable(QString::number(line.nodes)));
        }
    }
};

QTEST_APPLESS_MAIN(TestExact)
#include "test_exact.moc"
