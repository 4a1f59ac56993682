// Hundreds of real pictures through the whole chain: every line closed, simple,
// properly nested and at its distance, judged by GEOS (the geometry engine).
// Pictures: Noto Color Emoji's bitmaps, from Debian's fonts-noto-color-emoji, and
// OpenMoji's drawings (npm openmoji), coloured and as bare outlines, drawn by librsvg.

#include "geos.h"
#include "job/derive.h"
#include "outline/contour.h"
#include "path/path.h"
#include "run.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

// Of the line at a node, degrees.
double degreesAt(const Path& path, std::size_t k) { return turnAt(path, k) * 180 / std::numbers::pi; }

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
            piece.keep().smallestPart = 0.05;
            piece.lines() = {{LineKind::Through, Length::um(800)}, {LineKind::Kiss, Length::um(-200)}, {LineKind::Crease, Length()}};
            job.pieces.push_back(piece);
            const Derived d = derive(job, cache, {}, Want::Lines);
            const PieceResult& r = d.pieces[0];
            if (r.problem) {
                bad << file + ": " + r.problem->what();
                continue;
            }
            std::vector<Polyline> edge;
            for (const Contour& c : r.layer().parts->contours) {
                Polyline mm;
                for (const Point p : c.points)
                    mm.push_back(p * (1 / r.pxPerMm));
                edge.push_back(std::move(mm));
            }
            const Geos::Shape kept = geos.region(edge);
            for (const CutLine& line : r.layer().lines) {
                std::vector<Polyline> ours;
                for (const Path& p : *line.paths) {
                    ++lines;
                    ours.push_back(flatten(p, 0.002));
                    for (std::size_t k = 0; k < p.segments.size(); ++k)
                        if (!p.corners[k] && degreesAt(p, k) > 2) {
                            ++kinks;
                            bad << QString("%1 at %2: turns by %3 degrees at %4, %5")
                                       .arg(file)
                                       .arg(line.offset.mm())
                                       .arg(degreesAt(p, k))
                                       .arg(p.segments[k].end.x)
                                       .arg(p.segments[k].end.y);
                        }
                    const bool closed = distance(p.segments.back().end, p.start) < 1e-12;
                    if (!closed || !geos.valid(geos.polygon(ours.back()))) {
                        ++unsound;
                        bad << QString("%1 at %2: not simple").arg(file).arg(line.offset.mm());
                    }
                }
                const Geos::Shape a = geos.region(ours), b = geos.buffer(kept, line.offset.mm(), GEOSBUF_JOIN_ROUND, 5, 32);
                const double either = geos.together(a, b);
                if (either < 0.05)
                    continue; // nothing to speak of is left
                const double overlap = geos.common(a, b) / either;
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
