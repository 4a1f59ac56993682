// Work that is not saved: kept beside the window, and offered after it was killed; jobs are saved whole or not at all.
// The window that is killed is this program itself, as a process of its own.

#include "driver.h"

#include "desk/recovery.h"

#include <QDirIterator>
#include <QMenu>
#include <QProcess>

#include <csignal>
#include <iostream>
#include <random>
#include <sys/resource.h>

using namespace yokai;
using namespace yokai::test;

namespace {

QString left() { return QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/left"); }

// Edits all the time, saves now and then or never, and says how far it is.
int victim(const QString& job, bool saves)
{
    MainWindow window;
    window.show();
    window.files().open({job});
    if (!QTest::qWaitFor([&] { return !window.desk().job().pieces.empty() && !window.desk().busy(); }, 30'000))
        return 1;
    for (int k = 1;; ++k) {
        window.desk().edit(QStringLiteral("step"), [k](Job& j) {
            j.name = "step " + std::to_string(k);
            j.pieces[0].copies = k;
        });
        std::cout << k << std::endl;
        if (saves && k % 40 == 0)
            window.saveJob();
        QTest::qWait(5);
    }
}

int stepOf(const Job& job) { return job.name.starts_with("step ") ? std::stoi(job.name.substr(5)) : 0; }

} // namespace

class TestRecovery : public Driver {
    Q_OBJECT
    void clean() { QDir(left()).removeRecursively(); }
    static bool somethingIsKept() { return QDirIterator(left(), {"job.json"}, QDir::Files, QDirIterator::Subdirectories).hasNext(); }

private slots:
    void initTestCase()
    {
        start();
        QApplication::setOrganizationName(QStringLiteral("yokai-test-recovery")); // as its victims
    }
    void init()
    {
        clean();
        open();
    }
    void cleanup()
    {
        window_.reset();
        clean();
    }

    // Nothing is left where nothing was changed, nor once it was saved, nor by a window that came to its end.
    void nothingIsLeftBehind()
    {
        drop({boxes()});
        QVERIFY(QTest::qWaitFor(somethingIsKept, 20'000));
        QVERIFY(Recovery::left().empty()); // this window is at it
        window_->files().save(dir_.filePath("saved.yokai"));
        QVERIFY(settled());
        QVERIFY(QTest::qWaitFor([] { return QDir(left()).isEmpty(); }, 5'000));
        desk().edit("more", [](Job& j) { j.name = "more"; });
        QVERIFY(QTest::qWaitFor([] { return !QDir(left()).isEmpty(); }, 20'000));
        window_.reset();
        QVERIFY(QDir(left()).isEmpty());
        open();
        QVERIFY(Recovery::left().empty());
    }

    // Killed fifty times at any moment while it edits and saves: the saved job opens, and what is offered is at most ten seconds old.
    void nothingIsLostByAKill()
    {
        std::mt19937 random(7);
        QElapsedTimer clock;
        for (int round = 0; round < 50; ++round) {
            const QString job = dir_.filePath("job.yokai");
            QFile::remove(job);
            QVERIFY(QFile::copy(QStringLiteral(YOKAI_DEMO_JOB), job));
            QFile::setPermissions(job, QFile::ReadOwner | QFile::WriteOwner);
            QProcess process;
            process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
            const bool longer = round % 25 == 0; // than work is kept after a change; it never saves, so that something is left
            process.start(QCoreApplication::applicationFilePath(), {QStringLiteral("--victim"), job, longer ? QStringLiteral("never") : QStringLiteral("saves")});
            QVERIFY(process.waitForStarted());
            std::vector<std::pair<qint64, int>> said; // when, and which step
            clock.start();
            // Most are killed in the midst of a save or before.
            const int life = longer ? 6'000 + int(random() % 1'000) : 250 + int(random() % 450);
            while (clock.elapsed() < life || (longer && !somethingIsKept() && clock.elapsed() < 60'000)) { // a busy machine starts slowly
                process.waitForReadyRead(20);
                for (const QByteArray& line : process.readAllStandardOutput().split('\n'))
                    if (!line.isEmpty())
                        said.emplace_back(clock.elapsed(), line.toInt());
            }
            const qint64 killed = clock.elapsed();
            process.kill();
            QVERIFY(process.waitForFinished());
            int kept = stepOf(openProject(job.toStdString())); // whole, whatever happened
            for (const LeftWork& work : Recovery::left()) {
                const Job j = openWork(work.folder.toStdString());
                QVERIFY(!j.pieces.empty() && j.pieces[0].copies == stepOf(j));
                kept = std::max(kept, stepOf(j));
            }
            constexpr qint64 most = 10'000;
            for (const auto& [when, step] : said)
                if (when < killed - most)
                    QVERIFY(kept >= step);
            if (longer)
                QVERIFY2(kept > 0 && !Recovery::left().empty(), qPrintable(QString::number(said.size())));
            clean();
        }
    }

    // The next start shows what there was, with its picture; opened it is as it was, not saved yet, and saved to its own place it is
    // offered no more. Thrown away it is gone.
    void whatIsLeftIsOffered()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        job.name = "Left behind";
        job.pieces[0].copies = 17;
        const QString folder = left() + "/one";
        QVERIFY(QDir().mkpath(folder));
        keepWork(job, folder.toStdString());
        write(folder + "/about.json", QStringLiteral("{\"name\": \"Left behind\", \"path\": \"%1\"}").arg(dir_.filePath("own.yokai")).toUtf8());
        answer("left-work", "Later");
        window_->offerLeftWork();
        QVERIFY(answered_ && desk().job().pieces.empty() && Recovery::left().size() == 1);
        answer("left-work", "Open it");
        window_->offerLeftWork();
        QVERIFY(settled());
        QVERIFY(answered_ && desk().job().name == "Left behind" && desk().job().pieces[0].copies == 17 && desk().modified());
        QCOMPARE(desk().path(), dir_.filePath("own.yokai"));
        QVERIFY(Recovery::left().empty() && QFileInfo::exists(folder)); // this window's own now
        window_->saveJob();
        QVERIFY(settled());
        QVERIFY(!QFileInfo::exists(folder));
        QCOMPARE(openProject(dir_.filePath("own.yokai").toStdString()).name, std::string("Left behind"));
        QVERIFY(QDir().mkpath(folder));
        keepWork(job, folder.toStdString());
        answer("left-work", "Throw it away");
        window_->offerLeftWork();
        QVERIFY(answered_ && !QFileInfo::exists(folder));
    }

    // A folder that is damaged is said to be so, and stays; each picture is written once, and dropped with its piece.
    void workIsKeptInPieces()
    {
        Job job = openProject(YOKAI_DEMO_JOB);
        const QString folder = left() + "/two";
        QVERIFY(QDir().mkpath(folder));
        keepWork(job, folder.toStdString());
        QVERIFY(openWork(folder.toStdString()) == job);
        const QFileInfoList pictures = QDir(folder).entryInfoList({"picture-*"});
        QCOMPARE(pictures.size(), 4);
        job.pieces[1].name = "another";
        job.pieces.pop_back();
        keepWork(job, folder.toStdString());
        const QFileInfoList fewer = QDir(folder).entryInfoList({"picture-*"});
        QCOMPARE(fewer.size(), 3);
        for (const QFileInfo& f : fewer)
            QVERIFY(std::any_of(pictures.begin(), pictures.end(), [&](const QFileInfo& b) { return b.fileName() == f.fileName() && b.lastModified() == f.lastModified(); }));
        QVERIFY(openWork(folder.toStdString()) == job);
        write(folder + "/job.json", read(folder + "/job.json").left(2000));
        QVERIFY_EXCEPTION_THROWN(openWork(folder.toStdString()), Error);
        answer("left-work", "Open it");
        window_->offerLeftWork();
        QVERIFY(QTest::qWaitFor([&] { return !desk().busy(); }, 20'000));
        QVERIFY2(answered_ && notice().contains("left in") && QFileInfo::exists(folder + "/job.json"), qPrintable(notice()));
    }

    // A job that was cut short opens with what is whole of it, says so, and is not written over by saving.
    void aDamagedJobOpensAsFarAsItCan()
    {
        const QByteArray good = read(QStringLiteral(YOKAI_DEMO_JOB));
        const QString path = dir_.filePath("short.yokai");
        write(path, good.left(good.size() / 2));
        window_->files().open({path});
        QVERIFY(settled());
        QVERIFY(!desk().job().pieces.empty() && desk().job().pieces.size() < 4);
        QVERIFY(desk().modified() && desk().path().isEmpty());
        QVERIFY2(notice().contains("'short.yokai' is opened as far as it can be") && notice().contains("cut short"), qPrintable(notice()));
        QCOMPARE(read(path), good.left(good.size() / 2));
    }

    // Opened and saved jobs are in the menu, the newest first, with a picture each; those that are gone are not.
    void recentJobsAreRemembered()
    {
        auto* menu = find<QMenu>("recent-jobs");
        auto* parent = qobject_cast<QMenu*>(menu->parent());
        QStringList paths;
        for (const char* name : {"one", "two"}) {
            paths << dir_.filePath(QString(name) + ".yokai");
            Job job = openProject(YOKAI_DEMO_JOB);
            job.name = name;
            saveProject(job, paths.back().toStdString());
            window_->files().open({paths.back()});
            QVERIFY(settled());
        }
        emit parent->aboutToShow();
        QVERIFY(menu->actions().size() >= 2);
        QVERIFY(menu->actions()[0]->text().startsWith("two") && menu->actions()[1]->text().startsWith("one"));
        QVERIFY(!menu->actions()[0]->icon().isNull());
        menu->actions()[1]->trigger();
        QVERIFY(settled());
        QCOMPARE(desk().job().name, std::string("one"));
        QFile::remove(paths[1]);
        emit parent->aboutToShow();
        QVERIFY(menu->actions()[0]->text().startsWith("one") && !menu->actions().value(1, menu->actions()[0])->text().startsWith("two"));
    }

    // The name in the header is pressed and typed over; Esc leaves it; undo brings it back.
    void theJobIsRenamedInPlace()
    {
        drop({boxes()});
        const std::string before = desk().job().name;
        auto* name = find<QLabel>("job-name");
        auto* field = find<QLineEdit>("job-new-name");
        QTest::mouseClick(name, Qt::LeftButton);
        QVERIFY(field->isVisible() && !name->isVisible());
        QTest::keyClicks(field, "Other");
        QTest::keyClick(field, Qt::Key_Escape);
        QVERIFY(!field->isVisible() && desk().job().name == before);
        QTest::keyClick(window_.get(), Qt::Key_F2);
        QTest::keyClicks(field, "Boat 9");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(!field->isVisible() && name->text() == "Boat 9" && desk().job().name == "Boat 9");
        desk().undo();
        QVERIFY(settled() && desk().job().name == before);
    }

    // A picture that is written anew elsewhere is offered; taken, it is in the piece with all that was set, and undo brings back the old
    // one. One that cannot be read is not.
    void aNewerPictureIsOffered()
    {
        const QString path = dir_.filePath("drawn.png");
        QFile::copy(boxes(), path);
        drop({path});
        desk().editLine("offset", [](LineSpec& l) { l.offset = 3_mm; });
        QVERIFY(settled());
        const Piece before = *desk().currentPiece();
        auto* press = find<QPushButton>("notice-press");
        write(path, read(path).left(500));
        QTest::qWait(1'200);
        QVERIFY(!press->isVisible());
        QImage(path.left(0) + boxes()).scaled(1200, 800, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).save(dir_.filePath("new.png"));
        QFile::remove(path);
        QVERIFY(QFile::rename(dir_.filePath("new.png"), path)); // as programs save
        QVERIFY(QTest::qWaitFor([&] { return press->isVisible(); }, 10'000));
        QVERIFY(notice().contains("'drawn.png' was written anew"));
        // What is said meanwhile covers it and does not end it.
        desk().say("Saved", Severity::Note);
        QVERIFY(notice() == "Saved" && !press->isVisible());
        QTRY_VERIFY_WITH_TIMEOUT(press->isVisible(), 10'000);
        QVERIFY(notice().contains("'drawn.png' was written anew"));
        QCOMPARE(desk().job().pieces[0], before);
        QTest::mouseClick(press, Qt::LeftButton);
        QVERIFY(settled());
        const Piece& after = *desk().currentPiece();
        QVERIFY(after.artwork.picture.info.width == 1200 && after.lines() == before.lines() && after.id == before.id);
        QVERIFY(std::abs(after.artwork.width() - before.artwork.width()) < 1e-6);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(settled());
        QCOMPARE(*desk().currentPiece(), before);
        // The old one is back, and a still newer one is offered for it.
        QImage(boxes()).scaled(900, 600, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).save(dir_.filePath("newest.png"));
        QFile::remove(path);
        QVERIFY(QFile::rename(dir_.filePath("newest.png"), path));
        QVERIFY(QTest::qWaitFor([&] { return press->isVisible(); }, 10'000));
        QTest::mouseClick(press, Qt::LeftButton);
        QVERIFY(settled());
        QCOMPARE(desk().currentPiece()->artwork.picture.info.width, 900);
        // An offer that no longer holds does not come back.
        QImage(boxes()).scaled(600, 400, Qt::IgnoreAspectRatio, Qt::SmoothTransformation).save(dir_.filePath("last.png"));
        QFile::remove(path);
        QVERIFY(QFile::rename(dir_.filePath("last.png"), path));
        QVERIFY(QTest::qWaitFor([&] { return press->isVisible(); }, 10'000));
        desk().say("Saved", Severity::Note);
        desk().edit("without", [](Job& job) { job.pieces.clear(); });
        auto* box = find<QWidget>("notice");
        QVERIFY(box->isVisible() && !press->isVisible());
        QTRY_VERIFY_WITH_TIMEOUT(!box->isVisible(), 10'000);
        desk().undo();
        QVERIFY(settled());
        // By hand, from another file.
        window_->files().replacePicture(pictures_ + "umbrella-imp.png");
        QVERIFY(settled());
        QVERIFY(desk().currentPiece()->artwork.picture.fileName == "umbrella-imp.png" && desk().currentPiece()->lines() == before.lines());
        QVERIFY(std::abs(desk().currentPiece()->artwork.width() - before.artwork.width()) < 1e-6);
    }

    // A full disk, a folder that was taken away, a place one may not write to: one line, the old file whole, and the work is still there.
    void aSaveThatFailsLosesNothing()
    {
        drop({boxes()});
        const QString path = dir_.filePath("kept.yokai");
        window_->files().save(path);
        QVERIFY(settled());
        const QByteArray before = read(path);
        desk().edit("name", [](Job& j) { j.name = "changed"; });
        rlimit was{};
        getrlimit(RLIMIT_FSIZE, &was);
        std::signal(SIGXFSZ, SIG_IGN);
        const rlimit little{100, was.rlim_max};
        setrlimit(RLIMIT_FSIZE, &little); // as a disk that is full
        window_->saveJob();
        const bool ended = settled();
        setrlimit(RLIMIT_FSIZE, &was);
        QVERIFY(ended && desk().modified());
        QVERIFY2(notice().contains("annot write"), qPrintable(notice()));
        QCOMPARE(read(path), before);
        window_->files().save(dir_.filePath("gone/away.yokai"));
        QVERIFY(settled());
        QVERIFY(desk().modified() && notice().contains("annot write") && desk().path() == path);
        QProcess holder; // another program that has it locked
        holder.start("/usr/bin/flock", {path, "-c", "echo held; read wait"});
        QVERIFY(holder.waitForReadyRead());
        window_->saveJob();
        QVERIFY(settled());
        QVERIFY(desk().modified() && notice().contains("has it locked"));
        QCOMPARE(read(path), before);
        holder.write("\n");
        QVERIFY(holder.waitForFinished());
        window_->saveJob();
        QVERIFY(settled());
        QVERIFY(!desk().modified());
        QCOMPARE(openProject(path.toStdString()).name, std::string("changed"));
        QCOMPARE(QDir(dir_.path()).entryList({"*kept.yokai*"}, QDir::Files | QDir::Hidden).size(), 1); // nothing half-written lies about
    }
};

int main(int argc, char** argv)
{
    QApplication app(argc, argv);
    QStandardPaths::setTestModeEnabled(true);
    QApplication::setOrganizationName(QStringLiteral("yokai-test-recovery"));
    QApplication::setApplicationName(QStringLiteral("Yokai"));
    if (argc == 4 && QByteArray(argv[1]) == "--victim") {
        theme::install(app);
        return victim(QString::fromLocal8Bit(argv[2]), QByteArray(argv[3]) == "saves");
    }
    TestRecovery test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_recovery.moc"
