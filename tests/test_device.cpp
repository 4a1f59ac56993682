// The stand-in through its real serial line, as any machine would be used: its answers, its eye, its time, what goes wrong, and
// whole cuts.

#include "device/cut_on_machine.h"
#include "device/eye.h"
#include "device/gcode_machine.h"
#include "device/hpgl_machine.h"
#include "device/stand_in.h"
#include "device/test_cut.h"
#include "formats/machine/own_files.h"
#include "formats/pdf/pdf.h"
#include "formats/project/project.h"
#include "machine/library.h"
#include "run.h"
#include "squares_to_cut.h"

#include <QElapsedTimer>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTest>

#include <atomic>
#include <chrono>
#include <poll.h>
#include <pty.h>
#include <random>
#include <string>
#include <thread>
#include <unistd.h>

using namespace yokai;
using namespace yokai::test;

namespace {

QString refusal(GcodeMachine& machine, const QString& line, int patienceMs = 5000)
{
    try {
        machine.ask(line, {}, patienceMs);
    } catch (const Error& e) {
        return e.kind() == ErrorKind::Device ? QString::fromUtf8(e.what()) : QString();
    }
    return {};
}

LinkSpec linkTo(const StandIn& there) { return {there.port().toStdString(), 115200, 127}; }

std::vector<std::string> linesOf(std::initializer_list<const char*> lines) { return {lines.begin(), lines.end()}; }

} // namespace

class TestDevice : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    Job job_;
    Derived derived_;
    QString file(const QString& name) const { return dir_.filePath(name); }

    QJsonObject report(const LinkSpec& link, Dialect dialect = Dialect::Gcode)
    {
        MachineLine line(link, dialect, {});
        SerialMachine& machine = line.reached({});
        machine.ask("$YREPORT=" + file("report.json"), {}, 60'000);
        return QJsonDocument::fromJson(read(file("report.json"))).object();
    }

    // How much the machine there cut, mm.
    double cutLength(const LinkSpec& link)
    {
        double out = 0;
        for (const QJsonValue cut : report(link)["cuts"].toArray()) {
            const QJsonArray p = cut.toObject()["bed_mm"].toArray();
            for (qsizetype k = 1; k < p.size(); ++k)
                out += std::hypot(p[k].toArray()[0].toDouble() - p[k - 1].toArray()[0].toDouble(), p[k].toArray()[1].toDouble() - p[k - 1].toArray()[1].toDouble());
        }
        return out;
    }

    // How much of each of the plan's squares the machine there cut, mm.
    std::vector<double> cutOfEach(const Plan& plan, const LinkSpec& link)
    {
        std::vector<double> out(plan.runs.size(), 0);
        std::vector<Rect> boxes;
        for (const ToolRun& run : plan.runs)
            boxes.push_back(bounds(std::span<const Point>(flatten(run.track, 0.01))).grown(0.05));
        for (const QJsonValue cut : report(link, plan.machine.dialect)["cuts"].toArray()) {
            Polyline points;
            for (const QJsonValue p : cut.toObject()["bed_mm"].toArray())
                points.push_back({p.toArray()[0].toDouble(), p.toArray()[1].toDouble()});
            for (std::size_t k = 1; k < points.size(); ++k)
                for (std::size_t r = 0; r < plan.runs.size(); ++r)
                    if (boxes[r].contains(mix(points[k - 1], points[k], 0.5)))
                        out[r] += distance(points[k - 1], points[k]);
        }
        return out;
    }

    // Options of a stand-in that speaks a language.
    QStringList speaking(Dialect dialect)
    {
        Machine machine;
        machine.dialect = dialect;
        const Bytes bytes = writeMachine(machine);
        write(file("speaks.json"), QByteArray(reinterpret_cast<const char*>(bytes.data()), qsizetype(bytes.size())));
        return {"--machine=" + file("speaks.json")};
    }

    static Plan squares(int count, const Machine& machine = {}) { return squaresToCut(machine, count); }

private slots:
    void initTestCase()
    {
        job_ = openProject(YOKAI_DEMO_JOB);
        StepCache cache;
        derived_ = derive(job_, cache);
        const Bytes pdf = writePdf(drawSheet(job_, derived_, 0), Content::Print);
        write(file("print.pdf"), QByteArray(reinterpret_cast<const char*>(pdf.data()), qsizetype(pdf.size())));
    }

    // ok, error:n with what it means, ALARM:n and what frees it, the state and where it is, jogs and a reset.
    void answersAndRefuses()
    {
        StandIn there(YOKAI_STANDIN);
        GcodeMachine machine(there.port());
        machine.greet({});
        QVERIFY(machine.ask("$I", {}).first().startsWith("[VER:Yokai stand-in"));
        for (const auto& [line, why] : {std::pair("G7 X1", "does not know that word"), {"G1 X", "did not understand"}, {"G1 X5", "no speed"}, {"G2 X5 Y5 I9 J0 F100", "that arc"}, {"$Q", "error 3"},
                                        {"hello", "did not understand"}, {"Q5", "does not know"}, {"$J=G91 X-50 F1000", "outside its bed"}, {"$YASKEW=9,1,0,0,0,0", "six or seven numbers"}, {"$YSHEET=/nowhere.pdf", "not a PDF"},
                                        {"$YVIEW=x.png", "no sheet is loaded"}})
            QVERIFY2(refusal(machine, line).contains(why), qPrintable(QString(line) + ": " + refusal(machine, line)));
        // It goes on after every refusal.
        machine.ask("G0 X10.004 Y3", {});
        while (machine.status({}).state != MachineState::Idle) {
        }
        QCOMPARE(machine.status({}).at.x, 10.004);
        machine.ask("$J=G91 X1.5 Y-0.1 F600", {});
        QTRY_COMPARE(machine.status({}).at.x, 11.504);
        QVERIFY(refusal(machine, "G0 X1000").contains("leave its bed"));
        QCOMPARE(int(machine.status({}).state), int(MachineState::Alarm));
        QVERIFY(refusal(machine, "G0 X1").contains("locked"));
        machine.ask("$X", {});
        machine.ask("G20", {});
        machine.ask("G0 X1 Y0", {});
        QTRY_COMPARE(machine.status({}).at.x, 25.4);
    }

    // Lines that say a state are read, whatever else comes is not taken for one.
    void statesAreRead()
    {
        const auto s = statusFrom("<Hold:0|MPos:1.5,-2.25,0.000|Bf:15,128|Ln:99|FS:500,0|Ov:100,100,100>");
        QVERIFY(s && s->state == MachineState::Hold && s->at.x == 1.5 && s->at.y == -2.25 && s->freeChars == 128 && s->line == 99);
        QVERIFY(s->ownZero && !s->offset);
        const auto w = statusFrom("<Idle|WPos:0.000,0.000>"), o = statusFrom("<Run|MPos:-10.000,5.000,0.000|WCO:-300.000,-200.500,0.000>");
        QVERIFY(w && !w->ownZero && o && o->offset && o->offset->x == -300 && o->offset->y == -200.5);
        QVERIFY(!statusFrom("<Run|MPos:1,2,3|WCO:4>"));
        std::mt19937 random(3);
        const std::string good = "<Run|MPos:10.000,20.000,0.000|Bf:3,40|FS:1200,300>";
        for (const char* bad : {"", "<", "<>", "ok", "<|>", "<Idle>", "<Idle|MPos:>", "<Idle|MPos:1>", "<Idle|MPos:nan,1>", "<Idle|MPos:1,2|Bf:x>", "error:1"})
            QVERIFY2(!statusFrom(bad), bad);
        for (int n = 0; n < 20'000; ++n) { // never more than a wrong number
            std::string text = good;
            for (int k = 1 + int(random() % 4); k > 0; --k)
                text[random() % text.size()] = char(random() % 256);
            text.resize(random() % (text.size() + 1));
            statusFrom(text);
        }
    }

    // The eye finds discs 3 mm off where they should be, and nothing else for one.
    void theEyeFindsOnlyMarks()
    {
        StandIn there(YOKAI_STANDIN, {"--askew=1,1,0.4,0,22,19", "--sheet=" + file("print.pdf"), "--eye=0.01"});
        GcodeMachine machine(there.port());
        machine.greet({});
        Machine profile;
        profile.bed.depth = 610_mm;
        const double h = derived_.sheet.height;
        const auto found = findByEye(machine, profile, derived_.sheet.marks, h, {20, 20}, {});
        QCOMPARE(found.size(), derived_.sheet.marks.size());
        const Fit fit = fitMarks(found);
        QVERIFY2(fit.worst < 0.06 && std::abs(fit.turn - 0.4) < 0.02, qPrintable(QString::number(fit.worst)));
        Mark wrong = derived_.sheet.marks[0];
        wrong.centre = {105, 150};
        const auto unseen = [&](const Mark& m) {
            try {
                findByEye(machine, profile, std::span(&m, 1), h, {20, 20}, {});
            } catch (const Error& e) {
                return QString::fromUtf8(e.what());
            }
            return QString();
        };
        QVERIFY(unseen(wrong).contains("mark 1 is not seen"));
        wrong.centre = {105, 285}; // bare paper
        QVERIFY(unseen(wrong).contains("not seen"));
        wrong = derived_.sheet.marks[0];
        wrong.diameter = 9; // another size
        QVERIFY(unseen(wrong).contains("not seen"));
        wrong.style = MarkStyle::Crosses;
        QVERIFY(unseen(wrong).contains("reads only discs"));
    }

    // Its own motors take as long as the plan foretold, to 3 %: curves, corners and travel, slow and fast machines, blades and beams.
    void itTakesAsLongAsForetold()
    {
        for (const Machine& m : sampleMachines()) {
            Machine machine = m;
            write(file("m.json"), QByteArray::fromStdString([&] { const Bytes b = writeMachine(machine); return std::string(b.begin(), b.end()); }()));
            PlanSpec spec;
            spec.machine = machine;
            spec.material = sampleMaterials()[0];
            const Drawing sheet = drawSheet(job_, derived_, 0, Content::Cut);
            const Plan plan = planOf(sheet.cuts, sheet.width, sheet.height, spec);
            StandIn there(YOKAI_STANDIN, {"--machine=" + file("m.json")});
            CutControl control;
            CutRun run(linkTo(there), programOf(plan));
            run.start(control, {}, {});
            QCOMPARE(run.runsDone(), plan.runs.size());
            const QJsonObject told = report(linkTo(there), machine.dialect);
            const double took = told["seconds"].toDouble();
            QVERIFY2(std::abs(took / plan.seconds - 1) < 0.03, qPrintable(QString("%1: %2 s, foretold %3 s").arg(QString::fromStdString(m.name)).arg(took).arg(plan.seconds)));
            QCOMPARE(told["characters_lost"].toInt(), 0); // never more than its buffer holds
            QCOMPARE(told["cuts"].toArray().size(), qsizetype(plan.runs.size()) + (plan.runs.front().drawnIn.arcs.empty() ? 0 : 1));
        }
    }

    // Faults in the middle of a cut, whenever they come: every path is cut, none twice; or it is said where it stopped.
    void faultsCutNothingTwice()
    {
        std::mt19937 random(5);
        const int faults = qEnvironmentVariableIsSet("YOKAI_FAULTS") ? qEnvironmentVariableIntValue("YOKAI_FAULTS") : 24; // more, for those who wait
        for (int n = 0; n < faults; ++n) {
            Machine machine;
            machine.dialect = n % 2 ? Dialect::Hpgl : Dialect::Gcode;
            const Plan plan = squares(40, machine);
            const Program program = programOf(plan);
            const QString kind = QStringList{"link", "garble", "stall"}[n % 3];
            const int line = 3 + int(random() % (program.lines.size() - 4));
            const QString name = file("line" + QString::number(n));
            StandIn there(YOKAI_STANDIN, speaking(machine.dialect) + QStringList{"--link=" + name, QString("--fault=%1@%2%3").arg(kind).arg(line).arg(kind == "garble" ? "" : ":0.3")});
            CutControl control;
            CutRun run(linkTo(there), program, file("record.json").toStdString());
            run.start(control, {}, {});
            QCOMPARE(run.runsDone(), plan.runs.size());
            for (const double l : cutOfEach(plan, linkTo(there)))
                QVERIFY2(std::abs(l - 24) < 0.1, qPrintable(QString("%1 at line %2 (%3): %4 mm of 24").arg(kind).arg(line).arg(n).arg(l)));
        }
    }

    // Stopped or held in the middle of a line, again and again: it goes on from that place, and nothing is cut twice. Arcs are gone on with as well.
    void stoppedAnywhereItGoesOn()
    {
        std::mt19937 random(7);
        for (const Dialect dialect : {Dialect::Gcode, Dialect::Hpgl}) {
            Machine machine;
            machine.dialect = dialect;
            machine.motion.acceleration = 2000;
            CutItems items;
            for (int k = 0; k < 12; ++k) {
                const double x = 8 + 14.0 * (k % 4), y = 8 + 14.0 * (k / 4);
                CutItem item;
                item.copy = k;
                item.path = k % 2 ? pathOf({x + 5, y}, {{{x - 5, y}, 1}, {{x + 5, y}, 1}}, true) : polygonPath(Polyline{{x - 5, y - 5}, {x + 5, y - 5}, {x + 5, y + 5}, {x - 5, y + 5}});
                items.push_back(item);
            }
            PlanSpec spec;
            spec.machine = machine;
            const Plan plan = planOf(items, 200, 200, spec);
            const Program program = programOf(plan);
            // As a board that was homed to its far corner counts.
            StandIn there(YOKAI_STANDIN, speaking(dialect) + QStringList{"--pace=12", "--offset=-300,-299.5"});
            const std::filesystem::path record = file("stopped.json").toStdString();
            CutControl control;
            int stops = 0;
            for (bool first = true; first || CutRun(linkTo(there), program, record).canGoOn(); first = false) {
                std::stop_source stop;
                CutRun run(linkTo(there), program, record);
                // Counted from where it has begun: what is stopped before is not begun at all.
                std::atomic<bool> begun = false;
                SerialMachine::Watch watch;
                watch.told = [&](const Streamed&) { begun = true; };
                std::jthread stopper([&, after = 30 + int(random() % 250), holds = stops % 2 == 1](const std::stop_token& over) {
                    while (!begun && !over.stop_requested())
                        std::this_thread::sleep_for(std::chrono::milliseconds(1));
                    std::this_thread::sleep_for(std::chrono::milliseconds(after));
                    control.hold = holds;
                    std::this_thread::sleep_for(std::chrono::milliseconds(holds ? 150 : 0));
                    control.hold = false;
                    std::this_thread::sleep_for(std::chrono::milliseconds(holds ? 150 : 0));
                    if (!over.stop_requested())
                        stop.request_stop();
                });
                try {
                    first ? run.start(control, watch, Work{stop.get_token(), {}}) : run.goOn(control, watch, Work{stop.get_token(), {}});
                } catch (const Cancelled&) {
                    ++stops;
                    QVERIFY2(run.knowsWhatIsLeft(), read(file("stopped.json")).constData());
                }
                QVERIFY(stops < 60);
            }
            const std::vector<double> each = cutOfEach(plan, linkTo(there));
            for (std::size_t r = 0; r < each.size(); ++r) {
                const double whole = lengthOf(plan.runs[r].track);
                QVERIFY2(std::abs(each[r] - whole) < 0.1 + 0.02 * stops, qPrintable(QString("%1: %2 mm of %3, %4 stops").arg(r).arg(each[r]).arg(whole).arg(stops)));
            }
            QVERIFY2(stops >= 5, qPrintable(QString::number(stops)));
        }
    }

    // The window is ended in the middle; another goes on where the first stopped.
    void anotherGoesOn()
    {
        const Plan plan = squares(30);
        StandIn there(YOKAI_STANDIN, {"--link=" + file("another"), "--fault=link@80:0.3"});
        const std::filesystem::path record = file("left.json").toStdString();
        const Program program = gcodeOf(plan);
        CutControl control;
        {
            CutRun first(linkTo(there), program, record);
            QVERIFY(!first.canGoOn());
            QVERIFY_EXCEPTION_THROWN(first.start(control, {}, {}, 0), LinkLost);
            QVERIFY(first.runsDone() > 3 && first.runsDone() < 20);
        }
        CutRun second(linkTo(there), program, record);
        QVERIFY(second.canGoOn());
        second.goOn(control, {}, {});
        QVERIFY(!second.canGoOn());
        QVERIFY2(std::abs(cutLength(linkTo(there)) - 30 * 24) < 1, qPrintable(QString::number(cutLength(linkTo(there)))));
        CutRun other(linkTo(there), gcodeOf(squares(3)), record);
        QVERIFY(!other.canGoOn()); // another program
        // A machine that says nothing any more is an error, no freeze. Reset while it moved, it must be set up anew, and that is said;
        // reset while it happened to stand still, it goes on and cuts nothing twice.
        StandIn hung(YOKAI_STANDIN, {"--fault=stall@80"});
        CutRun third(linkTo(hung), program, record);
        QElapsedTimer time;
        time.start();
        QVERIFY_EXCEPTION_THROWN(third.start(control, {}, {}, 0), LinkLost);
        QVERIFY(time.elapsed() < 10'000);
        GcodeMachine(hung.port()).reset();
        try {
            CutRun(linkTo(hung), program, record).goOn(control, {}, {}, 0);
            QVERIFY2(std::abs(cutLength(linkTo(hung)) - 30 * 24) < 1, qPrintable(QString::number(cutLength(linkTo(hung)))));
        } catch (const Error& e) {
            QVERIFY2(QString(e.what()).contains("look at"), e.what());
        }
    }

    // Held, it stands still and goes on; stopped, the tool is up at once though its buffer is full.
    void holdAndStop()
    {
        StandIn there(YOKAI_STANDIN, {"--pace=1"});
        std::vector<std::string> lines = linesOf({"G21", "G90", "G0 X1 Y1", "M3 S1000"});
        for (int k = 0; k < 60; ++k)
            lines.push_back("G1 X" + std::to_string(1 + k % 2 * 200) + " Y" + std::to_string(1 + k) + " F6000");
        CutControl control;
        std::stop_source stop;
        Streamed progress;
        std::atomic<double> x = -1;
        std::atomic<MachineState> state = MachineState::Unknown;
        std::atomic<int> seen = 0;
        std::thread streaming([&] {
            GcodeMachine machine(there.port());
            machine.greet({});
            try {
                machine.stream({lines, 0}, 1, control, progress, {{}, [&](const MachineStatus& s) { x = s.at.x; state = s.state; ++seen; }}, Work{stop.get_token(), {}});
            } catch (const Cancelled&) {
            }
        });
        QTRY_VERIFY(seen > 3 && state == MachineState::Run);
        control.hold = true;
        QTRY_COMPARE(int(state.load()), int(MachineState::Hold));
        QTest::qWait(600);
        const double held = x;
        const int before = seen;
        QTRY_VERIFY(seen > before + 3);
        QCOMPARE(x.load(), held);
        control.hold = false;
        QTRY_VERIFY(x != held);
        QElapsedTimer time;
        time.start();
        stop.request_stop();
        streaming.join();
        QVERIFY(time.elapsed() < 500);
        GcodeMachine machine(there.port());
        machine.greet({});
        const MachineStatus after = machine.status({});
        QCOMPARE(after.power, 0.0);
        QCOMPARE(int(after.state), int(MachineState::Idle)); // it still knows where it is
        QVERIFY(progress.stood && distance(progress.stood->at, after.at) < 1e-9);
        QTest::qWait(200);
        QVERIFY(distance(machine.status({}).at, after.at) < 1e-9);
    }

    // What is no machine at all, or one with a bad line: nonsense without end is neither an answer nor a place, and ends in a line that says so.
    void nonsenseIsNoMachine()
    {
        int master = -1, slave = -1;
        char name[128];
        QVERIFY(::openpty(&master, &slave, name, nullptr, nullptr) == 0);
        std::atomic<bool> over = false;
        std::thread babbler([&] {
            std::mt19937 random(11);
            const std::string pieces[] = {"<Idle|MPos:1,2", "1200,84", "\r", "ok1", "err", "<|>\n", ",,", "99999999999999999999", "1e999,1,1\r", "\xff\xfe", "ALARMS:1\n", "[PRB:\n"};
            while (!over) {
                std::string text;
                for (int k = 0; k < 40; ++k)
                    text += random() % 2 ? pieces[random() % std::size(pieces)] : std::string(1, char(random() % 2 ? 0x80 + random() % 128 : 'a' + random() % 26));
                if (::write(master, text.data(), text.size()) < 0)
                    break;
                char heard[4096];
                pollfd wait{master, POLLIN, 0};
                if (::poll(&wait, 1, 1) > 0 && ::read(master, heard, sizeof heard) < 0)
                    break;
            }
        });
        const auto said = [](const std::function<void()>& asks) {
            try {
                asks();
            } catch (const Error& e) {
                return QString::fromUtf8(e.what());
            }
            return QString();
        };
        {
            GcodeMachine machine(QString::fromLatin1(name));
            QVERIFY(said([&] { machine.greet({}, 300); }).contains("does not answer"));
            QVERIFY(said([&] { static_cast<void>(machine.status({}, 300)); }).contains("does not answer"));
        }
        {
            HpglMachine machine(QString::fromLatin1(name));
            QVERIFY(said([&] { machine.reset(), static_cast<void>(machine.status({}, 300)); }).contains("does not answer"));
        }
        over = true;
        ::close(slave);
        babbler.join();
        ::close(master);
        for (const char* bad : {"", ",", "1,2", "1,2,2", "1,2,3,4", "x,1,0", "nan,1,0", "1,inf,1", "1e999,1,1"})
            QVERIFY2(!plotterStatusFrom(bad), bad);
        QCOMPARE(plotterStatusFrom("-40,80,1")->at, (Point{-1, 2}));
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
            GcodeMachine machine(QString::fromLatin1(name));
            QCOMPARE(machine.ask("600", {}, 5'000), QStringList{"[600]"});
            QCOMPARE(machine.ask("0", {}, 5'000), QStringList{"[0]"});
            QVERIFY(refusal(machine, "700", 200).contains("does not answer"));
            QVERIFY(refusal(machine, "1").contains("out of step"));
            QTest::qWait(800);
            QVERIFY(refusal(machine, "2").contains("out of step"));
        }
        GcodeMachine again(QString::fromLatin1(name)); // what came late is thrown away
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

    void wrongPortsAndStops()
    {
        QVERIFY_EXCEPTION_THROWN(GcodeMachine("/dev/no-such-port"), Error);
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

    // The same without a window, with a beam that has a width: the report tells what was found, and where it may fail by what.
    void cutsWithoutAWindow()
    {
        const auto batch = [&](QStringList more) { return run(YOKAI_BATCH, QStringList{"cut", YOKAI_DEMO_JOB, "--report", "-"} + more); };
        write(file("m.json"), "{\"yokai_machine\":1,\"length_unit\":\"mm\",\"kind\":\"laser\",\"bed\":{\"width\":400,\"depth\":400},\"tool\":{\"kerf\":0.2,\"lead_in\":1}}");
        StandIn there(YOKAI_STANDIN, {"--machine=" + file("m.json"), "--askew=1.002,0.999,0.5,0.05,2,3", "--sheet=" + file("print.pdf"), "--offset=-400,12.5"});
        const Ran r = batch({"--port", there.port(), "--machine", file("m.json"), "--material", "Paper"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject told = QJsonDocument::fromJson(r.bytes).object();
        QVERIFY(std::abs(told["fit"].toObject()["turn_deg"].toDouble() - 0.5) < 0.03);
        QCOMPARE(told["marks"].toArray().size(), 5);
        QCOMPARE(report(linkTo(there))["cuts"].toArray().size(), qsizetype(told["paths_cut"].toInt()));
        // The stand-in itself says how far each cut is from the lines as designed.
        QCOMPARE(run(YOKAI_BATCH, {"sheet", YOKAI_DEMO_JOB, "--cut", file("designed.svg")}).code, 0);
        {
            StandIn knows(YOKAI_STANDIN, {"--machine=" + file("m.json"), "--askew=1.002,0.999,0.5,0.05,2,3", "--sheet=" + file("print.pdf"), "--lines=" + file("designed.svg"), "--report=" + file("landed.json")});
            QCOMPARE(batch({"--port", knows.port(), "--machine", file("m.json"), "--material", "Paper"}).code, 0);
        }
        const QJsonObject landed = QJsonDocument::fromJson(read(file("landed.json"))).object();
        QVERIFY2(landed["worst_mm"].toDouble() > 0.001 && landed["worst_mm"].toDouble() < 0.1, qPrintable(QString::number(landed["worst_mm"].toDouble())));
        for (const QJsonValue cut : landed["cuts"].toArray())
            QVERIFY(cut.toObject()["mean_mm"].toDouble() <= cut.toObject()["worst_mm"].toDouble() && cut.toObject().contains("worst_mm"));
        // One mark that lies astray is left out by the others; nothing is cut by that until somebody is sure.
        QJsonObject measured{{"marks", told["marks"]}};
        QJsonArray marks = told["marks"].toArray();
        QJsonObject astray = marks[1].toObject();
        astray["measured_mm"] = QJsonArray{astray["measured_mm"].toArray()[0].toDouble() + 2, astray["measured_mm"].toArray()[1].toDouble()};
        marks[1] = astray;
        measured["marks"] = marks;
        write(file("astray.json"), QJsonDocument(measured).toJson());
        const QStringList byHand{"--port", there.port(), "--machine", file("m.json"), "--measured", file("astray.json")};
        const auto before = report(linkTo(there))["cuts"].toArray().size();
        const Ran doubted = batch(byHand);
        QVERIFY2(doubted.code == 1 && doubted.err.contains("mark 2 lies") && doubted.err.contains("--sure"), qPrintable(doubted.err));
        QCOMPARE(report(linkTo(there))["cuts"].toArray().size(), before);
        QCOMPARE(batch(byHand + QStringList{"--sure"}).code, 0);
        QVERIFY(report(linkTo(there))["cuts"].toArray().size() > before);
        // An eye beside the tool cannot look over the bed's edge; where the sheet lies can be said.
        StandIn reed(YOKAI_STANDIN, {"--machine=Reed, desk cutter", "--askew=1,1,0.3,0,31,29", "--sheet=" + file("print.pdf")});
        const Ran edge = batch({"--port", reed.port(), "--machine", "Reed, desk cutter"});
        QVERIFY2(edge.code == 4 && edge.err.contains("where the machine's eye cannot look"), qPrintable(edge.err));
        QCOMPARE(batch({"--port", reed.port(), "--machine", "Reed, desk cutter", "--sheet-at", "30mm,30mm"}).code, 0);
        QCOMPARE(batch({"--port", reed.port(), "--machine", "Reed, desk cutter", "--sheet-at", "30mm"}).code, 2);
        QCOMPARE(batch({}).code, 2);                                   // no port
        QCOMPARE(batch({"--port", "/dev/no-such-port"}).code, 4);      // nobody there
        QCOMPARE(batch({"--port", there.port(), "--find", "hope"}).code, 2);
        StandIn empty(YOKAI_STANDIN, {"--machine=" + file("m.json")});
        const Ran blind = batch({"--port", empty.port(), "--machine", file("m.json")});
        QVERIFY2(blind.code == 4 && blind.err.contains("mark 1 is not seen"), qPrintable(blind.err));
        QCOMPARE(batch({"--port", empty.port(), "--machine", file("m.json"), "--find", "none"}).code, 0);
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

    // Sheets stretched, turned, skewed and shifted at random, four marks, an eye whose readings stray by 0.05 mm: 95 of 100 land within 0.1 mm at
    // every cut.
    void sheetsLand()
    {
        const int sheets = qEnvironmentVariableIsSet("YOKAI_SHEETS") ? qEnvironmentVariableIntValue("YOKAI_SHEETS") : 6;
        std::mt19937 random(12);
        const auto any = [&](double least, double most) { return least + (most - least) * double(random() % 10'000) / 9'999; };
        int landed = 0;
        double worst = 0;
        Job four = job_;
        four.sheet.marks.count = 4;
        StepCache cache;
        const Derived derived = derive(four, cache);
        for (int n = 0; n < sheets; ++n) {
            Job job = four;
            // Wherever it counts from, and whichever way.
            Machine machine = sampleMachines().front();
            machine.bed.origin = BedCorner(n % 4);
            machine.bed.xLeft = n % 2 == 1;
            machine.bed.yNear = n % 3 == 1;
            job.cut.plan.machine = machine;
            job.cut.plan.sheetX = job.cut.plan.sheetY = 25_mm;
            job.cut.standIn = {any(0.993, 1.007), any(0.993, 1.007), any(-1.2, 1.2), any(-0.2, 0.2), Length::mm(any(-4, 4)), Length::mm(any(-4, 4)), Length()};
            const TestCutResult r = runTestCut(job, derived, 0, YOKAI_STANDIN, {});
            landed += r.worst < 0.1;
            worst = std::max(worst, r.worst);
        }
        qInfo("%d of %d sheets landed within 0.1 mm, worst %.3f mm", landed, sheets, worst);
        QVERIFY(landed >= 0.95 * sheets);
    }

    // A length of roll that swells as it goes: with a band of marks every so far the cut follows what shows at the edges; with
    // marks at its ends alone it cannot.
    void rollsAreFollowed()
    {
        double mean[2];
        for (const bool bands : {false, true}) {
            Job job = job_;
            job.sheet.media = mediaFrom("180x700");
            job.sheet.marks.bandGap = bands ? 150_mm : 0_mm;
            job.cut.standIn = {1.002, 0.999, 0.1, 0, 1_mm, -(1_mm), 250_um};
            StepCache cache;
            const Derived derived = derive(job, cache);
            const TestCutResult r = runTestCut(job, derived, 0, YOKAI_STANDIN, {});
            QVERIFY2(bands == !r.fit->bend.bands.empty(), qPrintable(QString::number(r.fit->bend.bands.size())));
            mean[bands] = r.mean;
        }
        QVERIFY2(mean[1] < 0.75 * mean[0], qPrintable(QString("%1 %2").arg(mean[0]).arg(mean[1])));
    }

    // The whole: printed, found by the eye, fitted, cut; with a blade that trails, with a beam that has a width.
    void everyModelFitsWhatItCan()
    {
        for (const auto& [model, most] : {std::pair(FitModel::Affine, 0.1), {FitModel::Projective, 0.2}}) {
            Job job = job_;
            job.cut.model = model;
            const TestCutResult r = runTestCut(job, derived_, 0, YOKAI_STANDIN, {});
            QCOMPARE(int(r.fit->model), int(model));
            QVERIFY2(r.worst < most, qPrintable(QString::number(r.worst)));
        }
        // Paper that swells in waves between the marks nothing follows; the cuts miss by that, and by no more.
        Job wavy = job_;
        wavy.cut.standIn.swell = 300_um;
        const TestCutResult swollen = runTestCut(wavy, derived_, 0, YOKAI_STANDIN, {});
        QVERIFY2(swollen.worst > 0.15 && swollen.worst < 0.45, qPrintable(QString::number(swollen.worst)));
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
