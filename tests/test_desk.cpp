// The desk's parts by themselves: the jobs it remembers, the pictures the screen needs, the
// threads that work for it.
#include "artwork/artwork.h"
#include "desk/background.h"
#include "desk/history.h"
#include "desk/pictures.h"
#include "desk/worker.h"
#include "words.h"

#include <QImage>
#include <QPainter>
#include <QSignalSpy>
#include <QTest>

#include <atomic>
#include <fstream>
#include <random>
#include <set>
#include <stdexcept>
#include <unistd.h>

using namespace yokai;

namespace {

// Colours that change smoothly, some of them clear.
Rgba8 shades(int width, int height)
{
    Rgba8 px(width, height);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x)
            px.at(x, y) = {std::uint8_t(255 * x / width), std::uint8_t(255 * y / height), std::uint8_t((x + y) % 200), std::uint8_t(x < width / 4 ? 0 : 255)};
    return px;
}

PieceResult resultOf(Rgba8 px, SharedGray printed = {})
{
    PieceResult r;
    r.width = px.width();
    r.height = px.height();
    r.layers.resize(1);
    r.layers[0].printed = std::move(printed);
    r.pixels = std::make_shared<const Rgba8>(std::move(px));
    return r;
}

QImage drawn(const ScreenPicture& picture, QSize onto, const QRectF& from)
{
    QImage out(onto, QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    QPainter p(&out);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    picture.draw(p, QRectF(QPointF(), QSizeF(onto)), from, onto.width() / from.width());
    return out;
}

Job jobOf(int width, int height)
{
    Job job;
    Piece piece;
    piece.name = "shades";
    piece.artwork.picture = pictureFromBytes(encodePng(shades(width, height)), "shades.png");
    job.pieces.push_back(std::move(piece));
    giveIds(job);
    return job;
}

} // namespace

class TestDesk : public QObject {
    Q_OBJECT
private slots:
    // Any row of edits, runs, undos and redos against a plain list of jobs.
    void historyIsAListOfJobs()
    {
        std::mt19937 random(5);
        const auto pick = [&](int n) { return int(random() % unsigned(n)); };
        for (int round = 0; round < 40; ++round) {
            History history;
            history.start(Job{});
            std::vector<std::pair<Job, Revision>> jobs{{history.job(), history.revision()}};
            std::set<Revision> used{history.revision()};
            std::size_t at = 0;
            QString run; // the key that the next edit may join
            for (int step = 0; step < 120; ++step) {
                const int what = pick(10);
                if (what < 5) {
                    const QString key = pick(2) ? QString("key%1").arg(pick(2)) : QString();
                    const std::string name = "name " + std::to_string(pick(40));
                    const bool changes = history.job().name != name, joins = !key.isEmpty() && key == run;
                    QCOMPARE(history.edit(
                                 "rename", [&](Job& j) { j.name = name; }, key),
                             changes);
                    if (!changes)
                        continue;
                    jobs.resize(at + 1);
                    if (joins)
                        jobs.pop_back();
                    jobs.emplace_back(history.job(), history.revision());
                    at = jobs.size() - 1;
                    run = key;
                    QVERIFY(used.insert(history.revision()).second); // never used before
                    QVERIFY(history.undoText() == "rename" && history.job().name == name);
                } else if (what < 7) {
                    QCOMPARE(history.undo(), at > 0);
                    if (at > 0) {
                        --at;
                        run.clear();
                    }
                } else if (what < 9) {
                    QCOMPARE(history.redo(), at + 1 < jobs.size());
                    if (at + 1 < jobs.size()) {
                        ++at;
                        run.clear();
                    }
                } else {
                    history.settle();
                    run.clear();
                }
                QVERIFY(history.job() == jobs[at].first);
                QCOMPARE(history.revision(), jobs[at].second);
                QCOMPARE(history.canUndo(), at > 0);
                QCOMPARE(history.canRedo(), at + 1 < jobs.size());
            }
        }
    }

    // What it remembers is bounded by bytes: 100 000 random edits of a job with a lot drawn by hand stay under 1 GB, all of it
    // counted, and the newest steps are there; one step there always is, whatever it weighs.
    void historyIsBoundedByBytes()
    {
        const auto resident = [] {
            std::ifstream status("/proc/self/statm");
            std::size_t all = 0, held = 0;
            status >> all >> held;
            return held * std::size_t(sysconf(_SC_PAGESIZE));
        };
        History history;
        Job heavy = jobOf(40, 30);
        Edit drawn;
        drawn.shape.resize(600);
        heavy.pieces[0].lines()[0].edits.resize(30, drawn);
        history.start(heavy);
        const std::size_t before = resident();
        std::mt19937 random(3);
        for (int k = 0; k < 100'000; ++k) {
            history.edit(QString::number(k), [&](Job& job) {
                job.name = std::to_string(k);
                LineSpec& line = job.pieces[0].lines()[0];
                line.edits[random() % line.edits.size()].shape[0] = {double(random() % 1000), double(k)};
            });
            if (k % 7 == 0)
                history.undo();
            if (k % 14 == 0)
                history.redo();
        }
        QVERIFY(history.weight() <= History::mostWeight && history.weight() > History::mostWeight / 2);
        QVERIFY2(resident() - before < (std::size_t(1) << 30), qPrintable(QString::number((resident() - before) >> 20)));
        const std::string now = history.job().name;
        int steps = 0;
        while (history.undo())
            ++steps;
        QVERIFY(steps > 100);
        for (; steps > 0; --steps)
            QVERIFY(history.redo());
        QCOMPARE(history.job().name, now);
        // Pictures that were taken out weigh for as long as they could come back.
        History large;
        large.start(Job{});
        for (int k = 0; k < 5; ++k) {
            Picture picture;
            picture.fileName = std::to_string(k);
            picture.bytes = std::make_shared<const Bytes>(History::mostWeight / 2 + 1);
            picture.digest = {std::uint64_t(k + 1), 0};
            large.edit("another", [&](Job& job) {
                job.pieces.resize(1);
                job.pieces[0].artwork.picture = picture;
                job.pieces[0].copies = k + 2;
            });
        }
        QVERIFY(large.weight() <= History::mostWeight && large.canUndo());
    }

    // At any size the screen sees what scaling the whole picture gives; what is not kept is faint
    // while working and gone in print.
    void screenPicturesAreThePicture()
    {
        const int w = 1501, h = 1003;
        const auto printed = std::make_shared<Gray8>(w, h, std::uint8_t(0));
        for (int y = 200; y < 800; ++y)
            std::fill_n(printed->row(y) + 500, 700, std::uint8_t(255));
        const PieceResult piece = resultOf(shades(w, h), printed);
        PictureCache cache;
        const PiecePicture picture = cache.of(piece, {}, {});
        QCOMPARE(picture.working->size(), QSize(w, h));
        QVERIFY(picture.thumbnail.width() == 112 && picture.thumbnail.height() <= 112);
        for (const bool working : {true, false}) {
            QImage whole(w, h, QImage::Format_ARGB32);
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) {
                    const Rgba c = piece.pixels->at(x, y);
                    const int kept = printed->at(x, y), faint = working ? c.a * 72 / 255 : 0;
                    whole.setPixel(x, y, qRgba(c.r, c.g, c.b, std::max(kept, faint)));
                }
            whole.convertTo(QImage::Format_ARGB32_Premultiplied);
            const ScreenPicture& is = working ? *picture.working : *picture.printed;
            for (const double scale : {2.0, 1.0, 0.5, 0.25, 0.13}) {
                const QRectF part(240, 150, 1040, 720); // over the border of what is kept
                const QSize onto(int(part.width() * scale), int(part.height() * scale));
                const QImage seen = drawn(is, onto, part);
                const QImage should = whole.copy(part.toRect()).scaled(onto, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
                double sum = 0;
                for (int y = 0; y < onto.height(); ++y)
                    for (int x = 0; x < onto.width(); ++x) {
                        const QRgb a = seen.pixel(x, y), b = should.pixel(x, y);
                        sum += std::abs(qRed(a) * qAlpha(a) - qRed(b) * qAlpha(b)) / 255.0 + std::abs(qAlpha(a) - qAlpha(b));
                    }
                const double mean = sum / (double(onto.width()) * onto.height());
                // Along the border of what is kept a pixel may be half of either.
                QVERIFY2(mean < 1.5 + 0.25 / scale, qPrintable(QString("%1 at %2: %3").arg(working ? "working" : "printed").arg(scale).arg(mean)));
            }
        }
        // As long as nothing of it is other, the same picture is not made again; what nobody asks for goes.
        QCOMPARE(cache.of(piece, {}, {}).working, picture.working);
        cache.forgetOthers();
        QCOMPARE(cache.of(piece, {}, {}).working, picture.working);
        cache.forgetOthers();
        cache.forgetOthers();
        QVERIFY(cache.of(piece, {}, {}).working != picture.working);
        QVERIFY(!cache.of(PieceResult{}, {}, {}).working);
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_EXCEPTION_THROWN(PictureCache().of(resultOf(shades(2000, 2000)), {}, Work{stop.get_token(), {}}), Cancelled);
    }

    // Of many jobs asked for in a row the newest comes out, with its revision; each result is taken once.
    void theNewestJobIsDerived()
    {
        DeriveWorker worker;
        std::vector<Revision> seen;
        quint64 idle = 0;
        connect(&worker, &DeriveWorker::finished, this, [&] {
            if (const auto shown = worker.take())
                seen.push_back(shown->revision);
            QVERIFY(!worker.take());
        });
        connect(&worker, &DeriveWorker::idle, this, [&](quint64 request) { idle = request; });
        Job job = jobOf(900, 700);
        quint64 last = 0;
        for (Revision r = 1; r <= 12; ++r) {
            job.pieces[0].lines()[0].offset = Length::um(100 * std::int64_t(r));
            last = worker.request(job, r, {}, false, true);
            if (r == 6)
                QTest::qWait(40);
        }
        QVERIFY(QTest::qWaitFor([&] { return idle == last; }, 30'000));
        QVERIFY(!seen.empty() && seen.back() == 12 && std::is_sorted(seen.begin(), seen.end()) && seen.size() < 12);
        // One that is stopped before it began is never heard of, but that nothing is under way is said.
        seen.clear();
        std::size_t idles = 0;
        connect(&worker, &DeriveWorker::idle, this, [&] { ++idles; });
        job.name = "stopped";
        worker.request(job, 13, {}, false, true);
        worker.stop();
        QVERIFY(QTest::qWaitFor([&] { return idles > 0; }, 30'000));
        QTest::qWait(50);
        QVERIFY(seen.empty() || seen == std::vector<Revision>{13}); // it may have been done already
    }

    // Whatever a task throws becomes one line; only what came to its end has an afterwards.
    void tasksEndWell()
    {
        Background background;
        QStringList said;
        std::vector<int> how;
        connect(&background, &Background::said, this, [&](const QString& text, int severity) {
            said << text;
            how.push_back(severity);
        });
        int after = 0;
        const auto run = [&](std::function<QString(const Work&)> task) {
            QVERIFY(background.start("Writing", std::move(task), [&] { ++after; }));
            QVERIFY(background.busy());
            QVERIFY(QTest::qWaitFor([&] { return !background.busy(); }, 5000));
        };
        run([](const Work&) { return QString("Done"); });
        QVERIFY(after == 1 && said == QStringList{"Done"} && how.back() == int(Severity::Note));
        run([](const Work&) -> QString { throw std::bad_alloc(); });
        QVERIFY(said.back().contains("not enough memory for Writing") && how.back() == int(Severity::Error));
        run([](const Work&) -> QString { throw std::runtime_error("one\ntwo"); });
        QVERIFY(said.back().contains("Writing failed; undo"));
        run([](const Work&) -> QString { throw 7; });
        QVERIFY(said.back().contains("Writing failed; undo"));
        run([](const Work&) -> QString { throw Error(ErrorKind::Output, "'{}' is full; choose another folder", "here"); });
        QCOMPARE(said.back(), QString("'here' is full; choose another folder"));
        run([](const Work&) -> QString { throw Cancelled(); });
        QVERIFY(said.back().startsWith("Stopped") && how.back() == int(Severity::Note));
        QCOMPARE(after, 1);
        const qsizetype before = said.size();
        run([](const Work&) { return QString(); }); // nothing to say
        QVERIFY(after == 2 && said.size() == before);
    }

    // What is under way when its owner goes is stopped and waited for.
    void goingStopsWhatIsUnderWay()
    {
        std::atomic<bool> ended = false;
        QElapsedTimer since;
        {
            Background background;
            background.start("Waiting", [&](const Work& work) -> QString {
                try {
                    for (;;) {
                        work.check();
                        QThread::msleep(2);
                    }
                } catch (const Cancelled&) {
                    QThread::msleep(30);
                    ended = true;
                    throw;
                }
            });
            QTest::qWait(20);
            since.start();
        }
        QVERIFY(ended && since.elapsed() < 2000);
        {
            DeriveWorker worker;
            worker.request(jobOf(3000, 3000), 1, {}, false, true);
            QTest::qWait(10);
            since.start();
        }
        QVERIFY(since.elapsed() < 2000);
    }
};

QTEST_GUILESS_MAIN(TestDesk)
#include "test_desk.moc"
