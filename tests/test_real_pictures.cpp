// Hundreds of real pictures through the whole chain: every line closed, simple,
// properly nested and at its distance, judged by GEOS (the geometry engine).
// Pictures: Noto Color Emoji's bitmaps, from Debian's fonts-noto-color-emoji, and
// OpenMoji's drawings (npm openmoji), coloured and as bare outlines, drawn by librsvg.

#include "job/derive.h"
#include "outline/contour.h"
#include "path/path.h"
#include "run.h"

#include <geos_c.h>
#include <QDir>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

class Geos {
public:
    Geos() : handle_(GEOS_init_r()) {}
    ~Geos() { GEOS_finish_r(handle_); }
    using Shape = std::shared_ptr<GEOSGeometry>;
    Shape own(GEOSGeometry* g) const
    {
        return {g, [h = handle_](GEOSGeometry* x) { GEOSGeom_destroy_r(h, x); }};
    }
    Shape polygon(const Polyline& p) const
    {
        GEOSCoordSequence* s = GEOSCoordSeq_create_r(handle_, unsigned(p.size() + 1), 2);
        for (std::size_t i = 0; i <= p.size(); ++i)
            GEOSCoordSeq_setXY_r(handle_, s, unsigned(i), p[i % p.size()].x, p[i % p.size()].y);
        return own(GEOSGeom_createPolygon_r(handle_, GEOSGeom_createLinearRing_r(handle_, s), nullptr, 0));
    }
    bool valid(const Shape& s) const { return GEOSisValid_r(handle_, s.get()) == 1; }
    double area(const Shape& s) const
    {
        double a = 0;
        GEOSArea_r(handle_, s.get(), &a);
        return a;
    }
    Shape either(const Shape& a, const Shape& b) const { return own(GEOSUnion_r(handle_, a.get(), b.get())); }
    Shape both(const Shape& a, const Shape& b) const { return own(GEOSIntersection_r(handle_, a.get(), b.get())); }
    Shape without(const Shape& a, const Shape& b) const { return own(GEOSDifference_r(handle_, a.get(), b.get())); }
    Shape buffer(const Shape& a, double r) const { return own(GEOSBuffer_r(handle_, a.get(), r, 32)); }
    Shape empty() const { return own(GEOSGeom_createEmptyPolygon_r(handle_)); }
    // Parts and openings, largest first, as one region.
    Shape region(std::vector<Polyline> lines) const
    {
        std::sort(lines.begin(), lines.end(), [](const Polyline& a, const Polyline& b) { return std::abs(signedArea(a)) > std::abs(signedArea(b)); });
        Shape out = empty();
        for (const Polyline& line : lines) {
            const Shape p = own(GEOSBuffer_r(handle_, polygon(line).get(), 0, 8));
            out = signedArea(line) > 0 ? either(out, p) : without(out, p);
        }
        return out;
    }

private:
    GEOSContextHandle_t handle_;
};

// Between the segments at a node, degrees.
double turnAt(const Path& path, std::size_t k)
{
    const Segment &in = path.segments[k], &out = path.segments[(k + 1) % path.segments.size()];
    const Point a = tangentOn(k == 0 ? path.start : path.segments[k - 1].end, in, 1), b = tangentOn(in.end, out, 0);
    return std::abs(std::atan2(cross(a, b), dot(a, b))) * 180 / std::numbers::pi;
}

} // namespace

class TestRealPictures : public QObject {
    Q_OBJECT
private slots:
    void everyLineIsSoundAndAtItsDistance_data()
    {
        QTest::addColumn<QString>("script");
        QTest::addColumn<QString>("source");
        QTest::addColumn<int>("count");
        QTest::newRow("Noto Color Emoji") << "reference/emoji.py"
                                          << "/usr/share/fonts/truetype/noto/NotoColorEmoji.ttf" << 520;
        QTest::newRow("OpenMoji, coloured") << "reference/drawings.py" << YOKAI_OPENMOJI "/color/svg" << 160;
        QTest::newRow("OpenMoji, outlines") << "reference/drawings.py" << YOKAI_OPENMOJI "/black/svg" << 80;
    }
    void everyLineIsSoundAndAtItsDistance()
    {
        QFETCH(QString, script);
        QFETCH(QString, source);
        QFETCH(int, count);
        QVERIFY2(QFileInfo::exists(source), qPrintable(source + " is missing; ./dev test brings it"));
        const QTemporaryDir dir;
        const Ran wrote = run("/usr/bin/python3", {QFINDTESTDATA(script), source, dir.path(), QString::number(count)});
        QVERIFY2(wrote.code == 0, qPrintable(wrote.err));
        const QStringList files = QDir(dir.path()).entryList({"*.png"}, QDir::Files, QDir::Name);
        QCOMPARE(files.size(), qsizetype(count));
        const Geos geos;
        StepCache cache(std::size_t(64) << 20);
        int lines = 0, unsound = 0, ill = 0, kinks = 0;
        double lowest = 1;
        QStringList bad;
        for (const QString& file : files) {
            Job job;
            Piece piece;
            piece.artwork.picture = openPicture(dir.filePath(file).toStdString());
            piece.keep.smallestPart = 0.05;
            piece.cutLines.lines = {{LineKind::Through, Length::um(800)}, {LineKind::Kiss, Length::um(-200)}, {LineKind::Crease, Length()}};
            job.pieces.push_back(piece);
            const Derived d = derive(job, cache, {}, Want::Lines);
            const PieceResult& r = d.pieces[0];
            if (r.problem) {
                bad << file + ": " + r.problem->what();
                continue;
            }
            std::vector<Polyline> edge;
            for (const Contour& c : r.parts->contours) {
                Polyline mm;
                for (const Point p : c.points)
                    mm.push_back(p * (1 / r.pxPerMm));
                edge.push_back(std::move(mm));
            }
            const Geos::Shape kept = geos.region(edge);
            for (const CutLine& line : r.lines) {
                std::vector<Polyline> ours;
                for (const Path& p : *line.paths) {
                    ++lines;
                    ours.push_back(flatten(p, 0.002));
                    for (std::size_t k = 0; k < p.segments.size(); ++k)
                        if (!p.corners[k] && turnAt(p, k) > 2) {
                            ++kinks;
                            bad << QString("%1 at %2: turns by %3 degrees at %4, %5")
                                       .arg(file)
                                       .arg(line.offset.mm())
                                       .arg(turnAt(p, k))
                                       .arg(p.segments[k].end.x)
                                       .arg(p.segments[k].end.y);
                        }
                    const bool closed = distance(p.segments.back().end, p.start) < 1e-12;
                    if (!closed || !geos.valid(geos.polygon(ours.back()))) {
                        ++unsound;
                        bad << QString("%1 at %2: not simple").arg(file).arg(line.offset.mm());
                    }
                }
                const Geos::Shape a = geos.region(ours), b = geos.buffer(kept, line.offset.mm());
                const double either = geos.area(geos.either(a, b));
                if (either < 0.05)
                    continue; // nothing to speak of is left
                const double overlap = geos.area(geos.both(a, b)) / either;
                lowest = std::min(lowest, overlap);
                if (overlap <= 0.985) {
                    ++ill;
                    bad << QString("%1 at %2: overlap %3").arg(file).arg(line.offset.mm()).arg(overlap);
                }
            }
        }
        qInfo("%s: %d pictures, %d lines, %d not simple, %d kinks, %d under 0.985, lowest overlap %.4f", QTest::currentDataTag(), int(files.size()), lines,
              unsound, kinks, ill, lowest);
        QVERIFY2(bad.isEmpty(), qPrintable(bad.mid(0, 40).join('\n')));
    }
};

QTEST_APPLESS_MAIN(TestRealPictures)
#include "test_real_pictures.moc"
