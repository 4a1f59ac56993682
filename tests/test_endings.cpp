// Whatever ends a cut, on the simulator through its serial line: signals, kills, a machine that begins anew, a silent one. Afterwards the burn is
// out, the tool is up, and nothing is cut twice or elsewhere.

#include "device/left_cut.h"
#include "device/stand_in.h"
#include "formats/machine/own_files.h"
#include "formats/svg/svg.h"
#include "run.h"
#include "squares_to_cut.h"

#include <QDBusConnection>
#include <QDBusUnixFileDescriptor>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <atomic>
#include <csignal>
#include <fcntl.h>
#include <memory>
#include <thread>
#include <unistd.h>

using namespace yokai;
using namespace yokai::test;

// Hands out one end of a pipe, and sees by the other whether it is still held.
class LoginManager : public QObject {
    Q_OBJECT
    Q_CLASSINFO("D-Bus Interface", "org.freedesktop.login1.Manager")
public:
    QString what;
    bool held() const
    {
        char byte = 0;
        return end_ >= 0 && ::read(end_, &byte, 1) != 0; // 0: nobody has the other end any more
    }
    ~LoginManager() override { ::close(end_); }
public slots:
    QDBusUnixFileDescriptor Inhibit(const QString& of, const QString&, const QString&, const QString&)
    {
        what = of;
        int ends[2];
        if (::pipe2(ends, O_CLOEXEC | O_NONBLOCK) != 0)
            return {};
        end_ = ends[0];
        const QDBusUnixFileDescriptor out(ends[1]);
        ::close(ends[1]);
        return out;
    }

private:
    int end_ = -1;
};

class TestEndings : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString file(const QString& name) const { return dir_.filePath(name); }

    QString machineFile(const Machine& machine)
    {
        const Bytes bytes = writeMachine(machine);
        write(file("machine.json"), QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size())));
        return file("machine.json");
    }
    std::unique_ptr<StandIn> standIn(const Machine& machine, const QStringList& more)
    {
        QFile::remove(file("report.json"));
        return std::make_unique<StandIn>(YOKAI_STANDIN, QStringList{"--machine=" + machineFile(machine), "--report=" + file("report.json")} + more);
    }
    // It has begun with the machine.
    static bool hasOpen(const QProcess& program, const QString& port)
    {
        const QFileInfoList open = QDir(QString("/proc/%1/fd").arg(program.processId())).entryInfoList(QDir::Files | QDir::System | QDir::NoDotAndDotDot);
        return std::any_of(open.begin(), open.end(), [device = QFileInfo(port).canonicalFilePath()](const QFileInfo& f) { return f.symLinkTarget() == device; });
    }
    // The squares cut by a script; it has begun when this returns.
    bool begins(QProcess& batch, const QString& port)
    {
        batch.start(YOKAI_BATCH, {"cut", cutFile(), "--port", port, "--machine", file("machine.json"), "--find", "none"});
        return batch.waitForStarted() && QTest::qWaitFor([&] { return hasOpen(batch, port); }, 20'000);
    }
    // What it did, once it has ended.
    QJsonObject reportOf(std::unique_ptr<StandIn>& there)
    {
        there.reset();
        return QJsonDocument::fromJson(read(file("report.json"))).object();
    }
    static double cutLength(const QJsonObject& report)
    {
        double out = 0;
        for (const QJsonValue cut : report["cuts"].toArray()) {
            const QJsonArray p = cut.toObject()["bed_mm"].toArray();
            for (qsizetype k = 1; k < p.size(); ++k)
                out += std::hypot(p[k].toArray()[0].toDouble() - p[k - 1].toArray()[0].toDouble(), p[k].toArray()[1].toDouble() - p[k - 1].toArray()[1].toDouble());
        }
        return out;
    }
    static bool isSafe(const QJsonObject& report) { return report.contains("ends") && !report["ends"].toObject()["tool_down"].toBool() && !report["ends"].toObject()["burns"].toBool(); }

    // The squares as a cut file.
    QString cutFile()
    {
        Drawing d;
        d.width = d.height = 200;
        for (int k = 0; k < 20; ++k) {
            CutItem item;
            item.copy = k;
            const double x = 5 + 9.0 * (k % 10), y = 5 + 9.0 * (k / 10);
            item.path = polygonPath(Polyline{{x, y}, {x + 6, y}, {x + 6, y + 6}, {x, y + 6}});
            d.cuts.push_back(std::move(item));
        }
        const Bytes bytes = writeSvg(d, Content::Cut, {});
        write(file("squares.svg"), QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size())));
        return file("squares.svg");
    }

private slots:
    // While a cut is under way the computer is asked not to sleep, of a login manager of our own on a bus of our own; after it no more.
    void theComputerStaysAwake()
    {
        QProcess daemon;
        daemon.start("dbus-daemon", {"--session", "--nofork", "--print-address"});
        QVERIFY(daemon.waitForStarted());
        QVERIFY(daemon.waitForReadyRead(5000));
        const QString address = QString::fromUtf8(daemon.readLine()).trimmed();
        qputenv("DBUS_SYSTEM_BUS_ADDRESS", address.toUtf8());
        QDBusConnection bus = QDBusConnection::connectToBus(address, "login");
        LoginManager manager;
        QVERIFY(bus.registerObject("/org/freedesktop/login1", &manager, QDBusConnection::ExportAllSlots));
        QVERIFY(bus.registerService("org.freedesktop.login1"));
        const Machine machine = machineToCut(false);
        auto there = standIn(machine, {"--pace=40"});
        LinkSpec link = machine.link;
        link.port = there->port().toStdString();
        std::atomic<bool> done = false;
        std::thread cutting([&] {
            CutControl control;
            CutRun(link, programOf(squaresToCut(machine))).start(control, {}, {});
            done = true;
        });
        QTRY_VERIFY(!manager.what.isEmpty());
        QVERIFY(!done);
        QCOMPARE(manager.what, QString("sleep:idle"));
        QVERIFY(manager.held());
        QTRY_VERIFY_WITH_TIMEOUT(done, 20'000);
        cutting.join();
        QTRY_VERIFY(!manager.held());
        QVERIFY(isSafe(reportOf(there)));
        bus.unregisterService("org.freedesktop.login1");
        QDBusConnection::disconnectFromBus("login");
        daemon.kill();
        daemon.waitForFinished();
    }

    // A script's cut that is told to end stops the machine first.
    void signalsStopTheMachine()
    {
        for (const bool byHeight : {false, true})
            for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
                const Machine machine = machineToCut(byHeight);
                auto there = standIn(machine, {"--pace=6"});
                QProcess batch;
                QVERIFY(begins(batch, there->port()));
                QTest::qWait(1500);
                QVERIFY(batch.state() == QProcess::Running);
                ::kill(pid_t(batch.processId()), signal);
                QVERIFY(batch.waitForFinished(10'000));
                QCOMPARE(batch.exitCode(), 128 + signal);
                const QByteArray said = batch.readAllStandardError();
                QVERIFY2(said.startsWith("yokai-batch: stopped, with the tool up: "), said.constData());
                const QJsonObject report = reportOf(there);
                QVERIFY2(isSafe(report), QJsonDocument(report["ends"].toObject()).toJson().constData());
                QVERIFY(cutLength(report) > 5 && cutLength(report) < 470);
            }
    }

    // A beam that burns only while it moves stands nowhere, even where the program that drove it was killed.
    void killedNoBeamStands()
    {
        Machine machine = machineToCut(false);
        machine.tool.powerFollowsSpeed = true;
        auto there = standIn(machine, {"--pace=6"});
        QProcess batch;
        QVERIFY(begins(batch, there->port()));
        QTest::qWait(1500);
        batch.kill();
        batch.waitForFinished();
        QTest::qWait(1500); // what it still has, it does
        const QJsonObject report = reportOf(there);
        QVERIFY2(!report["ends"].toObject()["burns"].toBool(), "a beam stands");
    }

    // The window is told to end in the middle of a cut, as at a log-out.
    void anEndedWindowStopsTheMachine()
    {
        const QString picture = QString(YOKAI_DEMO_PICTURES) + "/river-imp.png";
        for (const bool byHeight : {false, true})
            for (const int signal : {SIGTERM, SIGHUP}) {
                auto there = standIn(machineToCut(byHeight), {"--pace=4"});
                QProcess window;
                const QTemporaryDir home; // what the one before left is not gone on with
                QProcessEnvironment own = QProcessEnvironment::systemEnvironment();
                own.insert("HOME", home.path());
                window.setProcessEnvironment(own);
                window.start(YOKAI_WINDOW_THAT_CUTS, byHeight ? QStringList{picture, there->port(), "z"} : QStringList{picture, there->port()});
                QVERIFY(window.waitForStarted());
                QVERIFY2(window.waitForReadyRead(60'000), window.readAllStandardError().constData());
                QCOMPARE(window.readAllStandardOutput(), QByteArray("cutting\n"));
                ::kill(pid_t(window.processId()), signal);
                QVERIFY(window.waitForFinished(20'000));
                QCOMPARE(window.exitCode(), 128 + signal);
                const QJsonObject report = reportOf(there);
                QVERIFY2(isSafe(report), QJsonDocument(report["ends"].toObject()).toJson().constData());
                QVERIFY(cutLength(report) > 5);
            }
    }

    // Told to end while its cable is out, it does not say that the tool is up: nobody knows.
    void whatIsNotHeardIsNotSaid()
    {
        const Machine machine = machineToCut(true);
        auto there = standIn(machine, {"--pace=20", "--fault=link@40"});
        QProcess batch;
        QVERIFY(begins(batch, there->port()));
        QTest::qWait(3000);
        QVERIFY(batch.state() == QProcess::Running);
        ::kill(pid_t(batch.processId()), SIGTERM);
        QVERIFY(batch.waitForFinished(20'000));
        const QByteArray said = batch.readAllStandardError();
        QCOMPARE(batch.exitCode(), 4);
        QVERIFY2(said.contains("see for yourself") && said.count('\n') == 1, said.constData());
    }

    // Stopped in the middle of a path, driven by hand, gone on with, at whatever place: a tool that is lowered by its height is up on
    // every way, and each square is cut once.
    void stoppedAndGoneOnWith()
    {
        for (const bool byHeight : {false, true})
            for (int stop = 0; stop < 4; ++stop) {
                const Machine machine = machineToCut(byHeight);
                auto there = standIn(machine, {"--pace=20"});
                LinkSpec link = machine.link;
                link.port = there->port().toStdString();
                const Program program = programOf(squaresToCut(machine));
                CutRun run(link, program, file("far.json").toStdString());
                CutControl control;
                {
                    std::stop_source stopping;
                    SerialMachine::Watch watch;
                    watch.told = [&, n = 0](const Streamed&) mutable {
                        if (++n == 25 + 17 * stop)
                            stopping.request_stop();
                    };
                    QVERIFY_EXCEPTION_THROWN(run.start(control, watch, {stopping.get_token(), {}}), Cancelled);
                }
                QVERIFY(run.knowsWhatIsLeft());
                {
                    MachineLine line(link, machine);
                    SerialMachine& head = line.reached({});
                    QVERIFY(head.status({}).at.x > 0);
                    head.jogTo({250, 250}, 6000, {});
                    while (head.status({}).state != MachineState::Idle) {
                    }
                }
                run.goOn(control, {}, {});
                const QJsonObject report = reportOf(there);
                QVERIFY(isSafe(report));
                const double cut = cutLength(report);
                QVERIFY2(std::abs(cut - 20 * 24) < 1, qPrintable(QString::number(cut)));
            }
    }

    // Switched off and on in the middle, by its greeting or, where that is lost, by its place: the rest is not cut as if nothing had been.
    void aMachineThatBeginsAnewIsNoticed()
    {
        for (const bool byHeight : {false, true})
            for (const int line : {30, 61, 90}) {
                const Machine machine = machineToCut(byHeight);
                auto there = standIn(machine, {"--pace=20", QString("--fault=anew@%1").arg(line)});
                QProcess batch;
                QVERIFY(begins(batch, there->port()));
                QVERIFY(batch.waitForFinished(60'000));
                const QByteArray said = batch.readAllStandardError();
                QCOMPARE(batch.exitCode(), 4);
                QVERIFY2(said.contains("no longer knows where it is"), said.constData());
                const QJsonObject report = reportOf(there);
                QVERIFY(isSafe(report));
                QVERIFY(cutLength(report) < 20 * 24 - 20);
            }
        // By its place alone.
        const std::vector<std::string> lines = {"G21", "G90", "G0 X10 Y10", "M3 S10", "G1 X60 Y10 F600", "G1 X60 Y60", "G3 X10 Y60 I-25 J0"};
        const Whereabouts where(lines, Dialect::Gcode);
        QVERIFY(where.mayBeAt({30, 10.5}, 4, 5, 1) && where.mayBeAt({60, 40}, 4, 6, 1) && !where.mayBeAt({0, 0}, 3, 7, 1) && where.mayBeAt({35, 80}, 6, 7, 1));
        QVERIFY(!where.mayBeAt({35, 80}, 4, 6, 1) && where.mayBeAt({150, 7}, 0, 3, 1)); // on its way from nobody knows where
        QCOMPARE(where.after(5)->x, 60.0);
    }

    // One that says nothing any more is held and reset blindly before it is given up.
    void aSilentMachineIsQuenched()
    {
        for (const bool byHeight : {false, true}) {
            const Machine machine = machineToCut(byHeight);
            auto there = standIn(machine, {"--pace=6", "--fault=stall@50"});
            LinkSpec link = machine.link;
            link.port = there->port().toStdString();
            CutRun run(link, programOf(squaresToCut(machine)), file("far.json").toStdString());
            CutControl control;
            QVERIFY_EXCEPTION_THROWN(run.start(control, {}, {}, 0.5), LinkLost);
            const auto record = readRecord(file("far.json").toStdString());
            QVERIFY(record && record->sent > 0 && !record->finished);
            QTest::qWait(500);
            const QJsonObject report = reportOf(there);
            QVERIFY2(isSafe(report), QJsonDocument(report["ends"].toObject()).toJson().constData());
        }
    }

    // The program that drove it killed anywhere, first within the first path: something is always left to go on with, and then each
    // square is cut once.
    void killedAnywhereItGoesOn()
    {
        for (const int ms : {150, 300, 500, 700, 900, 1200, 1500, 1900, 2300}) {
            const bool byHeight = ms % 200 == 100;
            const Machine machine = machineToCut(byHeight);
            auto there = standIn(machine, {"--pace=8"});
            const QString folder = file(QString("left-%1").arg(ms));
            QProcess cutting;
            cutting.start(YOKAI_CUT_UNTIL_KILLED, byHeight ? QStringList{there->port(), folder, "z"} : QStringList{there->port(), folder});
            QVERIFY(cutting.waitForStarted());
            // From when it is at it.
            QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(folder + "/how-far.json"), 5000);
            QTest::qWait(ms);
            cutting.kill();
            cutting.waitForFinished();
            const auto left = leftCut(folder.toStdString());
            const auto record = readRecord(recordIn(folder.toStdString()));
            QVERIFY2(left || (record && record->sent == 0), qPrintable(QString::number(ms)));
            if (!left)
                continue;
            QVERIFY2(left->known, qPrintable(QString::number(ms)));
            CutControl control;
            CutRun run(left->machine.link, left->program, recordIn(folder.toStdString()));
            try {
                run.goOn(control, {}, {});
            } catch (const Error& e) {
                QFAIL(qPrintable(QString("killed after %1 ms: %2").arg(ms).arg(e.what())));
            }
            const QJsonObject report = reportOf(there);
            QVERIFY(isSafe(report));
            const double cut = cutLength(report);
            QVERIFY2(std::abs(cut - 20 * 24) < 1, qPrintable(QString("%1 ms: %2 mm").arg(ms).arg(cut)));
            QVERIFY(!leftCut(folder.toStdString()));
        }
    }
};

QTEST_GUILESS_MAIN(TestEndings)
#include "test_endings.moc"
