// Shapes whose truth is known, drawn at 300 ppi and taken through the whole job: each cut
// line from 3 mm inwards to 10 mm outwards lies where it should, and none is missing.
//
// The truth is the drawing itself: the distance to its outline, and for what is cut the
// area of GEOS's buffer of it.

#include "geos.h"
#include "job/derive.h"
#include "shapes.h"

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
