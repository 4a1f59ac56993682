// The chain of steps: stopped at any time it stops at once, and takes up again what it
// had; what fails in one piece leaves the others alone; nothing is made twice.

#include "base/error.h"
#include "formats/project/project.h"
#include "job/derive.h"
#include "job/step_cache.h"
#include "shapes.h"

#include <QTest>

#include <atomic>
#include <chrono>
#include <cmath>
#include <numbers>
#include <random>
#include <thread>

using namespace yokai;
using namespace yokai::test;

namespace {

using Clock = std::chrono::steady_clock;
double ms(Clock::time_point from) { return std::chrono::duration<double, std::milli>(Clock::now() - from).count(); }

Piece pieceOf(const Rgba8& pixels, const char* name)
{
    Piece piece;
    piece.name = name;
    piece.artwork.picture = pictureFromBytes(encodePng(pixels), std::string(name) + ".png");
    return piece;
}

// A4 at 600 ppi with blobs, rings and crumbs, on white or clear.
Rgba8 heavy(bool clear)
{
    const int w = 4960, h = 7016;
    Rgba8 px(w, h, clear ? Rgba{0, 0, 0, 0} : Rgba{255, 255, 255, 255});
    std::mt19937 random(7);
    const auto disc = [&](int cx, int cy, int r, Rgba c) {
        for (int y = std::max(0, cy - r); y < std::min(h, cy + r); ++y)
            for (int x = std::max(0, cx - r); x < std::min(w, cx + r); ++x)
                if ((x - cx) * (x - cx) + (y - cy) * (y - cy) < r * r)
                    px.at(x, y) = c;
    };
    for (int i = 0; i < 48; ++i) {
        const int cx = 400 + (i % 6) * 800, cy = 450 + (i / 6) * 850;
        disc(cx, cy, 330, {std::uint8_t(40 + 3 * i), 90, 160, 255});
        if (i % 3 == 0)
            disc(cx, cy, 120, clear ? Rgba{0, 0, 0, 0} : Rgba{255, 255, 255, 255});
    }
    for (int i = 0; i < 3000; ++i)
        disc(int(random() % unsigned(w)), int(random() % unsigned(h)), 3 + int(random() % 4), {10, 10, 10, 255});
    return px;
}

Rgba8 disc(int size)
{
    Rgba8 px(size, size, {0, 0, 0, 0});
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x)
            if ((x - size / 2) * (x - size / 2) + (y - size / 2) * (y - size / 2) < size * size / 9)
                px.at(x, y) = {200, 60, 40, 255};
    return px;
}

} // namespace

class TestDerive : public QObject {
    Q_OBJECT
private slots:
    // Stops at random times in every step of an A4 sheet at 600 ppi: by transparency, by paper with
    // smoothing, turned by a little, many lines with all that they may have, a stroke of a brush.
    void aStopIsObeyedAtOnce_data()
    {
        QTest::addColumn<QString>("how");
        for (const char* how : {"by transparency", "by paper", "turned", "brushed"})
            QTest::newRow(how) << how;
    }
    void aStopIsObeyedAtOnce()
    {
        QFETCH(QString, how);
        Job job;
        job.pieces.push_back(pieceOf(heavy(how == "by transparency"), "heavy"));
        Piece& piece = job.pieces[0];
        piece.artwork.sizeBy = SizeBy::Ppi;
        piece.artwork.ppi = 600;
        if (how == "turned")
            piece.artwork.straightenTo(1.5);
        if (how != "by paper") {
            piece.bleed().distance = 2_mm;
            piece.underprint().on = true;
            piece.underprint().where = how == "turned" ? UnderprintWhere::Light : UnderprintWhere::All;
        }
        if (how == "by paper")
            piece.keep().smoothing = Length::um(60);
        if (how == "brushed") {
            piece.keep().touches.push_back({Touch::Kind::RubOut, false, 40, {{100, 100}, {4800, 6900}, {200, 6800}}});
            piece.keep().touches.push_back({Touch::Kind::RubOutLike, false, 0, {{20, 20}}, 5});
            piece.keep().onlyInside.push_back({{10, 10}, {4950, 10}, {4950, 7000}, {10, 7000}});
        }
        piece.lines() = {{LineKind::Through, 2_mm}, {LineKind::Kiss, 500_um}, {LineKind::Through, -(300_um)}};
        piece.lines()[0].roundInside = 1_mm;
        piece.lines()[1].joinGap = 2_mm;
        piece.lines()[1].openings = LineOpenings::None;
        // How long all of it takes, to spread the stops over.
        const auto begin = Clock::now();
        {
            StepCache cache;
            QVERIFY(!derive(job, cache).pieces[0].problem);
        }
        const double whole = ms(begin);
        StepCache cache; // kept from stop to stop, as in the window
        std::mt19937 random(11);
        std::vector<double> delays;
        constexpr int tries = 8;
        for (int i = 0; i < tries; ++i) {
            std::stop_source stop;
            std::atomic<Clock::rep> asked = 0;
            const double after = whole * (i % (tries / 2)) / (tries / 2.0) + double(random() % 40);
            std::jthread stopper([&] {
                std::this_thread::sleep_for(std::chrono::microseconds(int(after * 1000)));
                asked = Clock::now().time_since_epoch().count();
                stop.request_stop();
            });
            if (i == tries / 2)
                cache.~StepCache(), new (&cache) StepCache; // the second half from the start again
            try {
                derive(job, cache, Work{stop.get_token(), {}});
                stopper.join();
            } catch (const Cancelled&) {
                delays.push_back(ms(Clock::time_point(Clock::duration(asked.load()))));
            }
        }
        QVERIFY(!delays.empty());
        std::sort(delays.begin(), delays.end());
        qInfo("%zu stops in %.0f ms of work: median %.1f ms, longest %.1f ms", delays.size(), whole, delays[delays.size() / 2], delays.back());
        // How long a stop takes is a matter for the bench; here it only must not wait for the end of
        // a step: the longest of these take seconds.
        QVERIFY2(delays[delays.size() / 2] < 150 && delays.back() < 1'000, qPrintable(QString::number(delays.back())));
        QVERIFY(!derive(job, cache).pieces[0].problem); // and it goes on from there
    }

    // A picture that cannot be read, a size that cannot be, nothing kept, no memory: each is the
    // problem of its piece, and the others have their lines.
    void oneBadPieceLeavesTheOthers()
    {
        Job job;
        for (const char* name : {"good", "cut short", "too small", "nothing kept", "sliver", "huge"})
            job.pieces.push_back(pieceOf(disc(120), name));
        Bytes cut = *job.pieces[1].artwork.picture.bytes;
        cut.resize(cut.size() / 2);
        job.pieces[1].artwork.picture.bytes = std::make_shared<const Bytes>(cut);
        job.pieces[1].artwork.picture.digest = keyOf(1);
        job.pieces[2].artwork.setWidth(Length::um(100));
        job.pieces[3].keep().smallestPart = 1e6;
        job.pieces[4].artwork.crop = Rect{900, 900, 900.2, 900.2}; // off the picture altogether
        job.pieces[5].artwork.sizeBy = SizeBy::Both;
        job.pieces[5].artwork.side = 20'000_mm;
        job.pieces[5].artwork.down = 1_mm;
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        QVERIFY(d.pieces[0].whole() && !d.pieces[0].layer().lines[0].paths->empty());
        for (const std::size_t i : {1u, 2u, 3u, 5u}) {
            QVERIFY2(d.pieces[i].problem, job.pieces[i].name.c_str());
            const std::string line = d.pieces[i].problem->what();
            QVERIFY2(line.find('\n') == std::string::npos && line.find(';') != std::string::npos, line.c_str());
        }
        QCOMPARE(std::count_if(d.findings.begin(), d.findings.end(), [](const Finding& f) { return f.code == "no-cut-line"; }), 4);
        QVERIFY(d.sheet.placed[0] == 1 && d.sheet.placed[1] == 0);
    }

    // What libraries throw becomes one line that says what was being done; our own errors stay as they are.
    void exceptionsOfLibrariesAreErrors()
    {
        const auto said = [](auto thrown) {
            try {
                try {
                    throw thrown;
                } catch (...) {
                    rethrowAsError(ErrorKind::Input, "working on 'x'");
                }
            } catch (const Error& e) {
                return std::string(e.what());
            }
            return std::string();
        };
        QVERIFY(said(std::bad_alloc()).find("not enough memory") != std::string::npos);
        QVERIFY(said(std::runtime_error("(-4:Insufficient memory) Failed to allocate 9 bytes")).find("not enough memory") != std::string::npos);
        QVERIFY(said(std::logic_error("a\nb")).find("failed; undo") != std::string::npos && said(std::logic_error("a\nb")).find("a\nb") == std::string::npos);
        QVERIFY(said(std::logic_error("a\nb")).find('\n') == std::string::npos);
        QCOMPARE(said(Error(ErrorKind::Fit, "as it was; do this")), std::string("as it was; do this"));
    }

    // What was made is not made again; what the window holds is found though the cache let it go;
    // memory that is shared counts once.
    void resultsAreFoundAgain()
    {
        Job job;
        for (const char* name : {"one", "two"})
            job.pieces.push_back(pieceOf(disc(900), name));
        job.pieces[1].artwork.picture.digest = keyOf(std::string("another"));
        giveIds(job);
        StepCache cache;
        const Derived first = derive(job, cache);
        QVERIFY(first.milliseconds.at("decode") > 0);
        const Derived again = derive(job, cache);
        QVERIFY(again.milliseconds.empty());
        QCOMPARE(again.pieces[0].layer().lines[0].paths, first.pieces[0].layer().lines[0].paths);
        const std::size_t pixels = 900 * 900;
        // Decoded, framed and seen are one block: 4 bytes a pixel and one each of coverage and print.
        QVERIFY2(cache.bytes() < 2 * pixels * 4 + 2 * pixels * 2 + 3'000'000, qPrintable(QString::number(cache.bytes())));

        // A label is no change of what is computed.
        job.pieces[0].lines()[0].kind = LineKind::Kiss;
        job.pieces[0].name = "renamed";
        const Derived labelled = derive(job, cache);
        // But what falls out of a piece goes by the kind: its shape is looked at again, and found to be the same.
        QVERIFY(labelled.milliseconds.size() == 1 && labelled.milliseconds.contains("layout"));
        QCOMPARE(int(labelled.pieces[0].layer().lines[0].kind), int(LineKind::Kiss));

        // Two that push each other out, held by whoever shows them: no decoding at a change of offset.
        StepCache small(pixels * 5);
        const Derived shown = derive(job, small);
        job.pieces[0].lines()[0].offset = 3_mm;
        const Derived moved = derive(job, small);
        QVERIFY(!moved.milliseconds.contains("decode") && !moved.milliseconds.contains("frame"));
        QVERIFY(moved.milliseconds.contains("offset"));
    }

    // Two halves of a ring, whose lines meet round an opening that neither has: a line without
    // openings leaves it out and its outer outline as it was; over an area it depends on that.
    void openingsAriseBetweenParts()
    {
        Rgba8 px(600, 600, {0, 0, 0, 0}); // 300 ppi: 50.8 mm
        for (int y = 0; y < 600; ++y)
            for (int x = 0; x < 600; ++x) {
                const double r = std::hypot(x - 300.0, y - 300.0);
                if (r > 150 && r < 220 && std::abs(x - 300) > 6) // a gap of 1 mm
                    px.at(x, y) = {40, 60, 120, 255};
            }
        Job job;
        job.pieces.push_back(pieceOf(px, "halves"));
        LineSpec through{LineKind::Through, 1_mm};
        job.pieces[0].lines().clear();
        for (const auto& [openings, over] : {std::pair{LineOpenings::All, 4.0}, {LineOpenings::None, 4.0}, {LineOpenings::Over, 100.0}, {LineOpenings::Over, 900.0}}) {
            through.openings = openings;
            through.openingsOver = over;
            job.pieces[0].lines().push_back(through);
        }
        giveIds(job);
        StepCache cache;
        const Derived d = derive(job, cache);
        const LayerResult& layer = d.pieces[0].layer();
        QCOMPARE(layer.parts->keptParts, 2);
        std::vector<double> outer, inner;
        for (const CutLine& line : layer.lines) {
            double most = 0, least = 0;
            for (const Path& path : *line.paths)
                (std::abs(signedArea(path)) > 1000 ? most : least) = std::abs(signedArea(path));
            outer.push_back(most);
            inner.push_back(least);
        }
        const double radius = 220 * 25.4 / 300 + 1, hole = 150 * 25.4 / 300 - 1;
        for (const double area : outer)
            QVERIFY2(std::abs(area - std::numbers::pi * radius * radius) < 6 && std::abs(area - outer[0]) < 0.05, qPrintable(QString::number(area)));
        QVERIFY(std::abs(inner[0] - std::numbers::pi * hole * hole) < 6);
        QCOMPARE(inner[1], 0.0);
        QVERIFY(std::abs(inner[2] - inner[0]) < 0.05);
        QCOMPARE(inner[3], 0.0);
    }

    // Each touch goes on from the ones before, whatever is remembered of them.
    void aRowOfTouchesIsTheSameInOneGo()
    {
        Job job;
        job.pieces.push_back(pieceOf(disc(300), "touched"));
        StepCache stepwise;
        for (int i = 0; i < 5; ++i) {
            job.pieces[0].keep().touches.push_back({i % 2 ? Touch::Kind::BringBack : Touch::Kind::RubOut, i == 3, 9.0 + i, {{40.0 + 50 * i, 20}, {150, 280.0 - 30 * i}}});
            derive(job, stepwise);
        }
        const Derived a = derive(job, stepwise);
        StepCache fresh;
        const Derived b = derive(job, fresh);
        const Gray8 &x = *a.pieces[0].layer().coverage->pixels, &y = *b.pieces[0].layer().coverage->pixels;
        QVERIFY(std::equal(x.all().begin(), x.all().end(), y.all().begin()));
    }

    // Thousands of lost parts are counted at once: 90 000 dots.
    void lostPartsOfManyAreCounted()
    {
        Rgba8 px(2700, 2700, {0, 0, 0, 0});
        for (int y = 2; y + 4 < 2700; y += 9)
            for (int x = 2; x + 4 < 2700; x += 9)
                for (int j = 0; j < 4; ++j)
                    for (int i = 0; i < 4; ++i)
                        px.at(x + i, y + j) = {0, 0, 0, 255};
        Job job;
        job.pieces.push_back(pieceOf(px, "dots"));
        job.pieces[0].keep().smallestPart = 0;
        job.pieces[0].lines() = {{LineKind::Through, -(50_um)}};
        StepCache cache;
        const Derived d = derive(job, cache);
        QVERIFY(!d.pieces[0].problem);
        const CutLine& line = d.pieces[0].layer().lines[0];
        QCOMPARE(line.lostParts + int(line.paths->size()), d.pieces[0].layer().parts->keptParts);
        QVERIFY(d.pieces[0].layer().parts->keptParts > 89'000);
    }
};

QTEST_APPLESS_MAIN(TestDerive)
#include "test_derive.moc"
