// Hundreds of real pictures through the whole chain: every line closed, simple,
// properly nested and at its distance, judged by GEOS (the geometry engine).
// Pictures: Noto Color Emoji's bitmaps, from Debian's fonts-noto-color-emoji, and
// OpenMoji's drawings (npm openmoji), coloured and as bare outlines, drawn by librsvg.

#include "geos.h"
#include "check/mend.h"
#include "job/derive.h"
#include "outline/kept_edge.h"
#include "touchup/anchor.h"
#include "outline/contour.h"
#include "path/path.h"
#include "run.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <map>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

// Of the line at a node, degrees.
double degreesAt(const Path& path, std::size_t k) { return turnAt(path, k) * 180 / std::numbers::pi; }

// How many times the outline next to a place bends to the other side within two millimetres to either side, by ten
// degrees or more each time: counted on its chords.
int bowsNear(const std::vector<Polyline>& lines, Point at)
{
    const Polyline* line = nullptr;
    std::size_t nearest = 0;
    double least = 1e9;
    for (const Polyline& l : lines)
        for (std::size_t k = 0; k < l.size(); ++k)
            if (distance(l[k], at) < least) {
                least = distance(l[k], at);
                line = &l;
                nearest = k;
            }
    const std::size_t n = line->size();
    std::size_t first = nearest, last = nearest;
    for (double way = 0; way < 2; first = (first + n - 1) % n)
        way += distance((*line)[first], (*line)[(first + n - 1) % n]);
    for (double way = 0; way < 2; last = (last + 1) % n)
        way += distance((*line)[last], (*line)[(last + 1) % n]);
    int bows = 0;
    double turned = 0;
    for (std::size_t k = (first + 1) % n; k != last; k = (k + 1) % n) {
        const Point in = (*line)[k] - (*line)[(k + n - 1) % n], out = (*line)[(k + 1) % n] - (*line)[k];
        const double turn = std::atan2(cross(in, out), dot(in, out));
        const double before = turned;
        turned = (turn > 0) == (turned > 0) ? turned + turn : turn;
        constexpr double clear = 10 * std::numbers::pi / 180;
        bows += std::abs(turned) >= clear && ((turn > 0) != (before > 0) || std::abs(before) < clear);
    }
    return bows;
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
                                          << "/usr/share/fonts/truetype/noto/NotoColorEmoji.ttf" << 300;
        QTest::newRow("OpenMoji, coloured") << "reference/drawings.py" << YOKAI_OPENMOJI "/color/svg" << 110;
        QTest::newRow("OpenMoji, outlines") << "reference/drawings.py" << YOKAI_OPENMOJI "/black/svg" << 60;
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

    // No false alarm: what is found in the lines of 500 drawings at 2 mm a second reader confirms, GEOS's
    // closing and opening of the region by discs (Serra, Image Analysis and Mathematical Morphology, 1982):
    // the tool's disc does not get into a tight corner, one as wide as the limit fits neither a neck
    // from within nor a gap from without. Of what lines as they are made never have nothing is found.
    void findingsAreConfirmed()
    {
        const QString source = YOKAI_OPENMOJI "/color/svg";
        constexpr int count = 500;
        const QTemporaryDir dir;
        const Ran wrote = run("/usr/bin/python3", {QFINDTESTDATA("reference/drawings.py"), source, dir.path(), QString::number(count)});
        QVERIFY2(wrote.code == 0, qPrintable(wrote.err));
        const QStringList files = QDir(dir.path()).entryList({"*.png"}, QDir::Files, QDir::Name);
        QCOMPARE(files.size(), qsizetype(count));
        const Geos geos;
        StepCache cache(std::size_t(64) << 20);
        QStringList bad;
        std::map<std::string, int> found;
        int clean = 0;
        for (const QString& file : files) {
            Job job;
            Piece piece;
            piece.artwork.picture = openPicture(dir.filePath(file).toStdString());
            piece.artwork.sizeBy = SizeBy::Ppi;
            piece.artwork.ppi = 300;
            piece.lines() = {{LineKind::Through, 2_mm}};
            job.pieces.push_back(piece);
            giveIds(job);
            const Derived d = derive(job, cache, {}, Want::Lines);
            if (d.pieces[0].problem)
                continue;
            clean += d.findings.empty();
            simplifyAll(*d.pieces[0].layer().lines[0].paths, geos);
            mendAll(job, d, cache);
            std::vector<Polyline> lines;
            for (const Path& path : *d.pieces[0].layer().lines[0].paths)
                lines.push_back(flatten(path, 0.0005));
            const Geos::Shape region = geos.region(lines);
            const double radius = job.check.toolRadius.mm(), neck = job.check.leastNeck.mm(), gap = job.check.leastGap.mm();
            const auto closed = [&](double r) { return geos.buffer(geos.buffer(region, r), -r); };
            const auto opened = [&](double r) { return geos.buffer(geos.buffer(region, -r), r); };
            for (const Finding& f : d.findings) {
                ++found[std::string(f.code)];
                bool confirmed = true;
                if (f.code == "tight-corner") // what the tool's disc leaves lies at the corner
                    confirmed = geos.distanceTo(geos.difference(closed(radius), region), f.at) < 0.05;
                else if (f.code == "thin-neck")
                    confirmed = geos.distanceTo(opened(neck / 2), f.at) > 0;
                else if (f.code == "narrow-gap")
                    confirmed = geos.distanceTo(region, f.at) > 0 && geos.distanceTo(closed(gap / 2), f.at) == 0;
                else if (f.code == "lumpy")
                    confirmed = bowsNear(lines, f.at) >= 3;
                else
                    confirmed = f.code == "near-crumb" || f.code == "small-opening" || f.code == "small-part" || f.code == "short-path" || f.code == "does-not-fit";
                if (!confirmed)
                    bad << QString("%1: %2 of %3 at %4, %5").arg(file, QString::fromUtf8(f.code.data(), qsizetype(f.code.size()))).arg(f.value).arg(f.at.x).arg(f.at.y);
            }
        }
        for (const auto& [code, n] : found)
            qInfo("%s: %d", code.c_str(), n);
        qInfo("%d drawings without any", clean);
        qInfo("%d outlines simplified, %d nodes to %d, strayed at most %.4f of 0.1 mm", simplified_.outlines, simplified_.before, simplified_.after, simplified_.worst);
        QVERIFY(simplified_.outlines >= 200 && simplified_.after < simplified_.before);
        QVERIFY2(simplified_.worst <= 0.1, qPrintable(QString::number(simplified_.worst)));
        for (const auto& [code, n] : pressed_)
            qInfo("%s pressed %d times, %d left", code.c_str(), n.first, n.second);
        QVERIFY(pressed_["narrow-gap, Close"].first > 20);
        for (const auto& [code, n] : pressed_)
            QVERIFY2(n.second * 20 <= n.first, code.c_str()); // one in twenty at most needs another press
        QVERIFY(found["tight-corner"] > 100);
        QVERIFY2(bad.isEmpty(), qPrintable(QString::number(bad.size()) + "\n" + bad.mid(0, 40).join('\n')));
    }

private:
    struct {
        int outlines = 0, before = 0, after = 0;
        double worst = 0;
    } simplified_;
    // Each outline with as few nodes as 0.1 mm allows; GEOS says how far that is from what was.
    void simplifyAll(const Paths& paths, const Geos& geos)
    {
        constexpr int enough = 300;
        for (const Path& path : paths) {
            if (simplified_.outlines >= enough || path.nodes() < 4)
                continue;
            Edit edit;
            edit.kind = EditKind::Simplify;
            edit.size = 100_um;
            const Polyline fine = flatten(path, 0.0005);
            const KeptEdge kept({Contour{fine, {}, signedArea(fine)}}, 1);
            const EditGround ground{Affine{}, 0};
            edit.from = edit.to = anchorOf(path.start, kept, ground);
            const TouchedUp up = touchUp({path}, std::span(&edit, 1), ground);
            if (up.outcomes[0].fate != EditFate::Held)
                continue;
            ++simplified_.outlines;
            simplified_.before += int(path.nodes());
            simplified_.after += int(up.paths[0].nodes());
            simplified_.worst = std::max(simplified_.worst, geos.apart(fine, flatten(up.paths[0], 0.0005)));
        }
    }
    std::map<std::string, std::pair<int, int>> pressed_; // how many places, and how many left after the press
    // One press for all of a kind: what was narrow or lumpy no longer is.
    void mendAll(const Job& job, const Derived& derived, StepCache& cache)
    {
        for (const char* code : {"narrow-gap", "thin-neck", "lumpy"}) {
            Findings all;
            for (const Finding& f : derived.findings)
                if (f.code == code)
                    all.push_back(f);
            if (all.empty())
                continue;
            for (const Mend& how : mendsFor(all[0])) {
                Job mended = job;
                mend(mended, derived, all, how);
                giveIds(mended);
                const Derived now = derive(mended, cache, {}, Want::Lines);
                auto& [pressed, left] = pressed_[std::string(code) + ", " + how.press];
                pressed += int(all.size());
                for (const Finding& f : now.findings)
                    left += f.code == code || f.code == "lost-edit" || f.code == "crossing" || f.code == "open-line";
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestRealPictures)
#include "test_real_pictures.moc"
