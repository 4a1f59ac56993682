// What follows from a job beside its lines: findings, results that are found again, what
// lies under a place, ids, and how many copies a sheet takes.
#include "check/checks.h"
#include "findings.h"
#include "formats/project/project.h"
#include "job/derive.h"
#include "job/hit_index.h"
#include "job/replace.h"
#include "job/step_cache.h"
#include "shapes.h"

#include <opencv2/imgproc.hpp>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>
#include <thread>

using namespace yokai;
using namespace yokai::test;

namespace {

// Discs on a clear ground at 10 px a mm; centres and radii in mm.
struct Disc {
    double x, y, r;
};
Piece pieceOf(const std::vector<Disc>& discs, double width = 60, double height = 40)
{
    Rgba8 px(int(width * 10), int(height * 10), {0, 0, 0, 0});
    for (int y = 0; y < px.height(); ++y)
        for (int x = 0; x < px.width(); ++x) {
            double within = -1; // pixels; the edge is straight enough within one
            for (const Disc& d : discs)
                within = std::max(within, 10 * (d.r - std::hypot((x + 0.5) / 10 - d.x, (y + 0.5) / 10 - d.y)));
            px.at(x, y) = {180, 60, 40, std::uint8_t(std::lround(255 * std::clamp(within + 0.5, 0.0, 1.0)))};
        }
    Piece piece;
    piece.artwork.picture = pictureFromBytes(encodePng(px), "discs.png");
    piece.artwork.sizeBy = SizeBy::Ppi;
    piece.artwork.ppi = 254;
    piece.keep().smallestPart = 0;
    return piece;
}

Derived derived(Job& job)
{
    giveIds(job);
    StepCache cache;
    return derive(job, cache);
}

Key numbered(int n) { return Digest().add(n).value(); }

} // namespace

class TestJob : public QObject {
    Q_OBJECT
private slots:
    // Each finding comes for what it is about, says how much, and not for its neighbour.
    void findingsSayWhatAndWhere()
    {
        Job job;
        job.check = {Length(), Length(), Length(), 0, Length(), 150, Length()}; // what a tool can cut is none of this
        job.pieces = {pieceOf({{15, 20, 10}, {40, 20, 1}}), pieceOf({{15, 20, 10}}), pieceOf({{20, 20, 8}, {35, 20, 8}})};
        job.pieces[0].lines() = {{LineKind::Through, 2_mm}, {LineKind::Kiss, -(1500_um)}, {LineKind::Crease, -(11_mm)}};
        job.pieces[1].lines() = {{LineKind::Through, -(9_mm)}};
        job.pieces[2].lines() = {{LineKind::Through, 500_um}}; // two discs that touch by nothing
        job.pieces[1].artwork.ppi = 149;
        const Derived d = derived(job);
        const Finding* vanished = only(d, "line-vanished");
        QVERIFY(vanished && vanished->piece == job.pieces[0].id && vanished->line == job.pieces[0].lines()[2].id && vanished->severity == Severity::Error);
        const Finding* lost = only(d, "parts-vanished");
        QVERIFY(lost && lost->line == job.pieces[0].lines()[1].id && lost->value == 1); // the small disc
        const Finding* soft = only(d, "low-resolution");
        QVERIFY(soft && soft->piece == job.pieces[1].id && std::abs(soft->value - 149) < 0.5 && soft->limit == 150);
        QVERIFY(!only(d, "parts-split"));
        QCOMPARE(d.findings.size(), std::size_t(3));
        job.pieces[1].artwork.ppi = 150;
        job.pieces[0].lines().resize(1);
        QVERIFY(derived(job).findings.empty());
    }

    void whatSplitsIsCounted()
    {
        // A neck of 2 mm between two discs: an inward line of 1.5 mm cuts it through, one of 0.5 mm does not.
        Job job;
        job.pieces = {pieceOf({{15, 20, 8}, {22, 20, 1}, {23, 20, 1}, {24, 20, 1}, {25, 20, 1}, {26, 20, 1}, {27, 20, 1}, {28, 20, 1}, {35, 20, 8}})};
        job.pieces[0].lines() = {{LineKind::Through, -(1500_um)}, {LineKind::Kiss, -(500_um)}};
        const Derived d = derived(job);
        const Finding* split = only(d, "parts-split");
        QVERIFY(split && split->value == 1 && split->line == job.pieces[0].lines()[0].id);
        QVERIFY(!only(d, "parts-vanished"));
    }

    // As many sheets as it takes; what is asked for as often as it fits fills the last. A piece larger than the sheet is counted.
    void whatDoesNotFitIsCounted()
    {
        Job job;
        job.pieces = {pieceOf({{30, 20, 15}}), pieceOf({{30, 20, 15}}), pieceOf({{30, 20, 15}})};
        job.pieces[0].copies = 100;
        job.pieces[1].copies.reset();
        job.pieces[2].copies = 7;
        job.pieces[2].artwork.setWidth(400_mm);
        const Derived d = derived(job);
        QVERIFY(d.sheet.sheets > 1);
        QVERIFY(d.sheet.placed[0] == 100 && d.sheet.placed[1] > 1 && d.sheet.placed[2] == 0);
        const Finding* place = only(d, "does-not-fit");
        QVERIFY(place && place->onSheet() && place->piece == job.pieces[2].id && place->value == 0 && place->limit == 7);
        std::size_t counted = 0;
        for (int s = 0; s < d.sheet.sheets; ++s) {
            counted += d.sheet.on(s).size();
            QVERIFY(d.sheet.usedOf(s) > 0.1);
            for (const Placement& p : d.sheet.on(s))
                QVERIFY(p.sheet == s && (p.at == 0 || s == d.sheet.sheets - 1));
        }
        QCOMPARE(counted, d.sheet.placements.size());
    }

    // A copy put by hand across the margin is told, by how much; those that are proposed never are.
    void whatReachesOutIsTold()
    {
        Job job;
        job.pieces = {pieceOf({{30, 20, 15}})};
        job.pieces[0].copies = 3;
        giveIds(job);
        QVERIFY(!only(derived(job), "outside-reach"));
        Placing placing;
        placing.piece = job.pieces[0].id;
        placing.x = Length::mm(derived(job).pieces[0].box.width() / 2 + 7); // 3 mm into a margin of 10
        placing.y = 50_mm;
        job.sheet.margin = 10_mm;
        job.placings = {placing};
        giveIds(job);
        const Derived d = derived(job);
        const Finding* out = only(d, "outside-reach");
        QVERIFY(out && out->onSheet() && out->severity == Severity::Error);
        QVERIFY2(std::abs(out->value - 3) < 0.01, qPrintable(QString::number(out->value)));
    }

    // Ids: given once, never twice, and the later of two alike gets a new one.
    void idsAreGivenOnce()
    {
        Job job;
        job.pieces = {pieceOf({{15, 20, 10}}), pieceOf({{15, 20, 10}})};
        giveIds(job);
        const Job before = job;
        giveIds(job);
        QVERIFY(job == before);
        job.pieces.push_back(job.pieces[0]); // as a duplicate is made
        giveIds(job);
        QVERIFY(job.pieces[0] == before.pieces[0] && job.pieces[2].id != job.pieces[0].id);
        std::set<std::uint32_t> ids;
        for (const Piece& p : job.pieces)
            for (const std::uint32_t id : {p.id.n, p.layers[0].id.n, p.lines()[0].id.n})
                QVERIFY(id > 0 && ids.insert(id).second);
        job.pieces.erase(job.pieces.begin() + 2);
        job.pieces.push_back(pieceOf({{15, 20, 10}}));
        giveIds(job);
        QVERIFY(!ids.contains(job.pieces[2].id.n)); // not even that of one that is gone
    }

    // The last asked for stay; what somebody holds is found again; shared memory counts once.
    void resultsAreKeptAsLongAsThereIsRoom()
    {
        StepCache cache(1000);
        const auto put = [&](int n, std::size_t bytes) {
            auto value = std::make_shared<const int>(n);
            cache.put(numbered(n), value, {{value.get(), bytes}});
            return value;
        };
        put(1, 400);
        put(2, 400);
        QVERIFY(cache.find<int>(numbered(1))); // now asked for later than 2
        auto held = put(3, 400);
        QVERIFY(!cache.find<int>(numbered(2)) && cache.find<int>(numbered(1)) && cache.find<int>(numbered(3)));
        QCOMPARE(cache.bytes(), std::size_t(800));
        put(4, 900); // pushes all others out
        QVERIFY(!cache.find<int>(numbered(1)));
        QCOMPARE(cache.find<int>(numbered(3)), std::shared_ptr<const int>(held)); // the window still shows it
        QVERIFY(!cache.find<double>(numbered(3))); // another step's result of the same key is none
        put(5, 5000);                           // larger than all the room: kept while it is the last
        QVERIFY(cache.find<int>(numbered(5)));

        StepCache shared(1000);
        const auto block = std::make_shared<const int>(0);
        for (int n = 0; n < 10; ++n)
            shared.put(numbered(n), std::make_shared<const int>(n), {{block.get(), 600}});
        QCOMPARE(shared.bytes(), std::size_t(600));
        for (int n = 0; n < 10; ++n)
            QVERIFY(shared.find<int>(numbered(n)));
    }

    void resultsAreFoundFromManyThreads()
    {
        StepCache cache(20'000);
        std::vector<std::jthread> threads;
        std::atomic<int> wrong = 0, found = 0;
        for (int t = 0; t < 4; ++t)
            threads.emplace_back([&, t] {
                std::mt19937 random{unsigned(t)};
                for (int i = 0; i < 20'000; ++i) {
                    const int n = int(random() % 64);
                    if (const auto value = cache.find<int>(numbered(n))) {
                        wrong += *value != n;
                        ++found;
                    } else {
                        auto made = std::make_shared<const int>(n);
                        cache.put(numbered(n), made, {{made.get(), 1000}});
                    }
                }
            });
        threads.clear();
        QCOMPARE(wrong.load(), 0);
        QVERIFY(found > 1000 && cache.bytes() <= 20'000);
    }

    // The part, the line and the distance under a place, against looking at everything.
    void placesMeetWhatLiesThere()
    {
        Job job;
        std::vector<Disc> discs{{30, 20, 9}};
        std::mt19937 random(3);
        for (int i = 0; i < 40; ++i) {
            const Disc d{double(random() % 580) / 10 + 1, double(random() % 380) / 10 + 1, 0.25 + double(random() % 5) / 10};
            if (std::none_of(discs.begin(), discs.end(), [&](const Disc& o) { return std::hypot(o.x - d.x, o.y - d.y) < o.r + d.r + 1; }))
                discs.push_back(d);
        }
        job.pieces = {pieceOf(discs)};
        job.pieces[0].lines() = {{LineKind::Through, 400_um}};
        const Derived result = derived(job);
        const PieceResult& piece = result.pieces[0];
        QCOMPARE(piece.layer().parts->all.size(), discs.size());
        const HitIndex index(piece, piece.layer());
        for (int i = 0; i < 3000; ++i) {
            const Point at{double(random() % 6000) / 100, double(random() % 4000) / 100};
            const Disc* nearest = &discs[0];
            for (const Disc& d : discs)
                if (std::hypot(d.x - at.x, d.y - at.y) - d.r < std::hypot(nearest->x - at.x, nearest->y - at.y) - nearest->r)
                    nearest = &d;
            const double gap = std::hypot(nearest->x - at.x, nearest->y - at.y) - nearest->r;
            if (std::abs(gap) > 0.03) { // the edge is known to a few hundredths
                const int part = index.partAt(at, 0);
                QCOMPARE(part >= 0, gap < 0);
                if (part >= 0)
                    QVERIFY(piece.layer().parts->all[std::size_t(part)].box.contains(at));
            }
            if (std::abs(std::abs(gap - 0.4) - 1) > 0.05) // of the line's reach
                QCOMPARE(index.lineAt(at, 1).has_value(), std::abs(gap - 0.4) < 1);
            QVERIFY2(std::abs(index.distanceTo(0, at) - (gap - 0.4)) < 0.05, qPrintable(QString("%1 for %2").arg(index.distanceTo(0, at)).arg(gap - 0.4)));
            if (std::abs(gap - 0.4) > 0.05)
                QCOMPARE(index.covers(at), gap < 0.4);
        }
        QVERIFY(index.distanceTo(7, {1, 1}) > 1e6); // no such line
    }

    // As many as arithmetic has it, on sheets without marks; rows fill before a new one begins.
    // A newer picture of other pixels: the piece is as large as it was, what was set and done by hand lies where it lay, whatever
    // was cropped, turned or mirrored, and the lines are the same.
    void aNewerPictureTakesItsPlace_data()
    {
        QTest::addColumn<int>("piece");
        QTest::addColumn<int>("quarters");
        QTest::addColumn<bool>("mirror");
        QTest::newRow("edited") << 0 << 0 << false;
        QTest::newRow("cropped") << 1 << 0 << false;
        QTest::newRow("turned") << 1 << 1 << false;
        QTest::newRow("mirrored") << 3 << 0 << true;
    }
    void aNewerPictureTakesItsPlace()
    {
        QFETCH(int, piece);
        QFETCH(int, quarters);
        QFETCH(bool, mirror);
        Job job = openProject(YOKAI_DEMO_JOB);
        Piece& p = job.pieces[std::size_t(piece)];
        for (int k = 0; k < quarters; ++k)
            p.artwork.turnRight();
        if (mirror)
            p.artwork.mirrorAcross();
        const PictureInfo was = p.artwork.picture.info;
        p.guides.push_back({GuideId{900}, {was.width * 0.25, was.height * 0.5}, {was.width * 0.75, was.height * 0.5}});
        p.keep().onlyInside = {{{0, 0}, {double(was.width), 0}, {double(was.width), double(was.height)}, {0, double(was.height)}}};
        Touch rubbed;
        rubbed.radius = was.width * 0.02;
        rubbed.points = {{was.width * 0.4, was.height * 0.4}, {was.width * 0.5, was.height * 0.45}};
        p.keep().touches.push_back(rubbed);
        giveIds(job);
        StepCache cache;
        const Derived before = derive(job, cache, {}, Want::Lines);
        const SharedRgba px = decodePicture(p.artwork.picture);
        constexpr double times = 1.5;
        Rgba8 larger(int(px->width() * times), int(px->height() * times));
        cv::Mat to(larger.height(), larger.width(), CV_8UC4, larger.all().data());
        cv::resize(cv::Mat(px->height(), px->width(), CV_8UC4, const_cast<Rgba*>(px->all().data())), to, to.size(), 0, 0, cv::INTER_CUBIC);
        const double width = p.artwork.width(), height = p.artwork.height();
        replacePicture(p, pictureFromBytes(encodePng(larger), "second.png"));
        const double pixels = 1.5 / p.artwork.pxPerMm(); // a crop lies on whole ones
        QVERIFY(std::abs(p.artwork.width() - width) < pixels && std::abs(p.artwork.height() - height) < pixels);
        QVERIFY(distance(p.guides.back().a, {was.width * 0.25 * times, was.height * 0.5 * times}) < 1);
        const Derived after = derive(job, cache, {}, Want::Lines);
        const auto& lines = before.pieces[std::size_t(piece)].layer().lines;
        const auto& again = after.pieces[std::size_t(piece)].layer().lines;
        QCOMPARE(again.size(), lines.size());
        for (std::size_t k = 0; k < lines.size(); ++k) {
            QVERIFY2(std::abs(again[k].area / lines[k].area - 1) < 0.004, qPrintable(QString("%1 of %2").arg(again[k].area).arg(lines[k].area)));
            QCOMPARE(again[k].paths->size(), lines[k].paths->size());
        }
        const auto lost = [&](const Derived& d) { return std::count_if(d.findings.begin(), d.findings.end(), [&](const Finding& f) { return f.code == "lost-edit" && f.piece == p.id; }); };
        QCOMPARE(lost(after), lost(before));
    }

    void copiesFillTheSheet_data()
    {
        QTest::addColumn<double>("width");
        QTest::addColumn<double>("height");
        QTest::addColumn<double>("gap");
        QTest::addColumn<int>("across");
        QTest::addColumn<int>("down");
        // A4 less 10 mm all round: 190 x 277.
        QTest::newRow("just fits") << 190.0 << 277.0 << 3.0 << 1 << 1;
        QTest::newRow("a hair too wide") << 190.1 << 50.0 << 3.0 << 0 << 0;
        QTest::newRow("two and a gap") << 93.5 << 137.0 << 3.0 << 2 << 2;
        QTest::newRow("a gap too much") << 93.6 << 137.0 << 3.0 << 1 << 2;
        QTest::newRow("fifty") << 50.0 << 50.0 << 0.0 << 3 << 5;
        QTest::newRow("small") << 10.0 << 10.0 << 2.0 << 16 << 23;
        QTest::newRow("crumbs") << 2.0 << 2.0 << 0.5 << 76 << 111;
    }
    void copiesFillTheSheet()
    {
        QFETCH(double, width);
        QFETCH(double, height);
        QFETCH(double, gap);
        QFETCH(int, across);
        QFETCH(int, down);
        SheetSpec spec;
        spec.marks.style = MarkStyle::None;
        spec.gap = Length::um(std::llround(gap * 1000));
        const ToPlace piece{PieceId{1}, {-3, -4, width - 3, height - 4}, std::nullopt};
        const Layout layout = layOut(spec, std::vector{piece});
        QVERIFY(!layout.problem);
        QCOMPARE(layout.placed[0], across * down);
        for (std::size_t i = 0; i < layout.placements.size(); ++i) {
            const Point at = layout.placements[i].toSheet(Point{-3, -4});
            QVERIFY(std::abs(at.x - (10 + double(int(i) % across) * (width + gap))) < 1e-9);
            QVERIFY(std::abs(at.y - (10 + double(int(i) / across) * (height + gap))) < 1e-9);
            QCOMPARE(layout.placements[i].copy, int(i));
        }
        QVERIFY(std::abs(layout.usedOf(0) - across * down * width * height / (210 * 297)) < 1e-9);
    }
};

QTEST_APPLESS_MAIN(TestJob)
#include "test_job.moc"
