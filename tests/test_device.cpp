// The stand-in through its real serial line, as any machine would be used.

#include "device/serial_machine.h"
#include "device/test_cut.h"
#include "formats/pdf/pdf.h"
#include "formats/project/project.h"
#include "run.h"

#include <QElapsedTimer>
#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <chrono>
#include <pty.h>
#include <string>
#include <thread>
#include <unistd.h>

using namespace yokai;
using namespace yokai::test;

namespace {

struct Running {
    QProcess process;
    QString port;
    Running()
    {
        process.start(QStringLiteral(YOKAI_STANDIN), QStringList());
        process.waitForStarted(10'000);
        if (process.canReadLine() || process.waitForReadyRead(10'000))
            port = QString::fromUtf8(process.readLine()).trimmed().mid(5);
    }
    ~Running()
    {
        process.closeWriteChannel();
        process.waitForFinished(2000);
    }
};

QString refusal(SerialMachine& machine, const QString& line)
{
    try {
        machine.ask(line, {});
    } catch (const Error& e) {
        return e.kind() == ErrorKind::Device ? QString::fromUtf8(e.what()) : QString();
    }
    return {};
}

} // namespace

class TestDevice : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Job job_;
    Derived derived_;

private slots:
    void initTestCase()
    {
        job_ = openProject(YOKAI_DEMO_JOB);
        StepCache cache;
        derived_ = derive(job_, cache);
        const Bytes pdf = writePdf(drawSheet(job_, derived_, 0), Content::Print);
        write(dir_.filePath("print.pdf"), QByteArray(reinterpret_cast<const char*>(pdf.data()), qsizetype(pdf.size())));
    }

    void answersAndRefuses()
    {
        Running standIn;
        SerialMachine machine(standIn.port);
        QVERIFY(machine.ask("$I", {}).first().startsWith("[ID:Yokai stand-in"));
        QVERIFY(refusal(machine, "$M 10 10 5").contains("no sheet is loaded"));
        QVERIFY(refusal(machine, "$P /nowhere.pdf").contains("not a PDF"));
        QVERIFY(refusal(machine, "G7 X1").contains("unsupported G7"));
        QVERIFY(refusal(machine, "G1 X").contains("number is missing"));
        QVERIFY(refusal(machine, "$D 9 1 0 0 0 0").contains("out of range"));
        QVERIFY(refusal(machine, "$D 1 1").contains("6 numbers"));
        QVERIFY(refusal(machine, "hello").contains("number is missing"));
        QVERIFY(refusal(machine, "Q5").contains("unsupported word"));
        // It goes on after every refusal, and motor steps are of 0.0125 mm.
        machine.ask("G0 X10.004 Y-3", {});
        machine.ask("$I", {});
    }

    void sensorFindsOnlyMarks()
    {
        Running standIn;
        SerialMachine machine(standIn.port);
        machine.ask("$D 1 1 0 0 0 0", {});
        machine.ask("$P " + dir_.filePath("print.pdf"), {}, 60'000);
        const double height = derived_.sheet.height;
        for (const Mark& m : derived_.sheet.marks) {
            // Sent there 2 mm off, as after a crude guess.
            const QStringList got = machine.ask(QString("$M %1 %2 5").arg(m.centre.x + 1.5).arg(height - m.centre.y - 1.3), {});
            const QStringList xy = got.first().mid(6).chopped(1).split(',');
            QVERIFY(distance({xy[0].toDouble(), xy[1].toDouble()}, {m.centre.x, height - m.centre.y}) < 0.09);
        }
        QVERIFY(refusal(machine, "$M 105 150 5").contains("no mark near")); // artwork is no mark
        QVERIFY(refusal(machine, "$M 105 20 5").contains("no mark near"));  // nor is bare paper
        QVERIFY(refusal(machine, "$M 12 285 9").contains("no mark near"));  // nor a disc of another size
    }

    void cutsAreWhatWasSent()
    {
        Running standIn;
        SerialMachine machine(standIn.port);
        QStringList lines{"G21", "G90"};
        for (int k = 0; k < 3; ++k) {
            lines << QString("G0 X%1 Y5").arg(10 * k) << "M3";
            for (int i = 1; i <= 400; ++i)
                lines << QString("G1 X%1 Y%2 F1200").arg(10 * k + i * 0.0125).arg(5 + i * 0.025);
            lines << "M5";
        }
        machine.stream(lines, {});
        machine.ask("$C " + dir_.filePath("cuts.json"), {});
        const QByteArray json = read(dir_.filePath("cuts.json"));
        QCOMPARE(json.count("],["), 3 * 400 + 2);
        QVERIFY(json.contains("[25.0,15.0]"));
        lines.insert(700, "G2 X1");
        QVERIFY_EXCEPTION_THROWN(machine.stream(lines, {}), Error);
    }

    void wrongPortsAndStops()
    {
        QVERIFY_EXCEPTION_THROWN(SerialMachine("/dev/no-such-port"), Error);
        QVERIFY_EXCEPTION_THROWN(runTestCut(job_, derived_, 0, "/no/such/stand-in", {}), Error);
        std::stop_source stop;
        const Work work{stop.get_token(), [&](double fraction, std::string_view) {
                            if (fraction > 0.3)
                                stop.request_stop();
                        }};
        QElapsedTimer time;
        time.start();
        QVERIFY_EXCEPTION_THROWN(runTestCut(job_, derived_, 0, YOKAI_STANDIN, work), Cancelled);
        QVERIFY(time.elapsed() < 20'000);
    }

    // A machine that takes its time: within patience it is waited for, and Stop does not wait with it;
    // past it the answer that comes late is not taken for the next line's.
    void lateAnswersAreNobodyElses()
    {
        int master = -1, slave = -1;
        char name[128];
        QVERIFY(::openpty(&master, &slave, name, nullptr, nullptr) == 0);
        // Answers each line by its own text and an ok, after the delay the line asks for.
        std::thread slow([master] {
            std::string line;
            for (char c; ::read(master, &c, 1) == 1;) {
                if (c != '\n') {
                    line += c;
                    continue;
                }
                std::this_thread::sleep_for(std::chrono::milliseconds(std::stoi(line)));
                const std::string answer = "[" + line + "]\nok\n";
                if (::write(master, answer.data(), answer.size()) < 0)
                    break;
                line.clear();
            }
        });
        {
            SerialMachine machine(QString::fromLatin1(name));
            QCOMPARE(machine.ask("600", {}, 5'000), QStringList{"[600]"});
            QCOMPARE(machine.ask("0", {}, 5'000), QStringList{"[0]"});
            try {
                machine.ask("700", {}, 200);
                QFAIL("silence was taken for an answer");
            } catch (const Error& e) {
                QVERIFY2(std::string_view(e.what()).find("does not answer") != std::string_view::npos, e.what());
            }
            QVERIFY(refusal(machine, "1").contains("out of step"));
            QTest::qWait(800);
            QVERIFY(refusal(machine, "2").contains("out of step"));
        }
        SerialMachine again(QString::fromLatin1(name)); // what came late is thrown away
        QCOMPARE(again.ask("3", {}, 5'000), QStringList{"[3]"});
        std::stop_source stop;
        std::thread stopper([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(100));
            stop.request_stop();
        });
        QElapsedTimer time;
        time.start();
        QVERIFY_EXCEPTION_THROWN(again.ask("1500", Work{stop.get_token(), {}}, 5'000), Cancelled);
        QVERIFY(time.elapsed() < 1'000);
        stopper.join();
        QVERIFY(refusal(again, "4").contains("out of step"));
        slow.detach(); // it ends with its line
        ::close(slave);
        QTest::qWait(1'600);
        ::close(master);
    }

    // A sheet loaded so crookedly that the marks lie elsewhere is refused, not cut.
    void hopelessSheetsAreRefused()
    {
        Job job = job_;
        job.cut.standIn.shiftX = Length::mm(9.5);
        job.cut.standIn.turn = 8;
        try {
            runTestCut(job, derived_, 0, YOKAI_STANDIN, {});
            QFAIL("cut a sheet whose marks cannot be found");
        } catch (const Error& e) {
            QVERIFY2(QString(e.what()).contains("mark"), e.what());
        }
        job = job_;
        job.sheet.marks.style = MarkStyle::None;
        StepCache cache;
        QVERIFY_EXCEPTION_THROWN(runTestCut(job, derive(job, cache), 0, YOKAI_STANDIN, {}), Error);
    }

    void everyModelFitsWhatItCan()
    {
        for (const auto& [model, most] : {std::pair(FitModel::Affine, 0.1), {FitModel::Projective, 0.2}}) {
            Job job = job_;
            job.cut.model = model;
            const TestCutResult r = runTestCut(job, derived_, 0, YOKAI_STANDIN, {});
            QCOMPARE(int(r.fit->model), int(model));
            QVERIFY2(r.worst < most, qPrintable(QString::number(r.worst)));
        }
        // A rigid fit cannot follow a stretch of 0.5 %, and says which mark is off.
        Job job = job_;
        job.cut.model = FitModel::Rigid;
        try {
            runTestCut(job, derived_, 0, YOKAI_STANDIN, {});
            QFAIL("a rigid fit followed a stretch");
        } catch (const Error& e) {
            QCOMPARE(int(e.kind()), int(ErrorKind::Fit));
        }
    }
};

QTEST_GUILESS_MAIN(TestDevice)
#include "test_device.moc"
