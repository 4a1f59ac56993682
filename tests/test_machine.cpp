// Tool paths against closed forms, a blade integrated here, another route and another motion, and a reader of its own.

#include "base/speed.h"
#include "formats/cut_file.h"
#include "formats/machine/own_files.h"
#include "formats/program/program.h"
#include "formats/program/resume.h"
#include "machine/eye_place.h"
#include "machine/kerf.h"
#include "machine/library.h"
#include "machine/motion.h"
#include "machine/plan.h"
#include "machine/route.h"
#include "path/arcs.h"
#include "run.h"
#include "shapes.h"
#include "textbook_route.h"

#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTest>

#include <numbers>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

Path square(double x, double y, double side)
{
    Path p;
    p.start = {x, y};
    p.lineTo({x + side, y});
    p.lineTo({x + side, y + side});
    p.lineTo({x, y + side});
    p.lineTo(p.start);
    return p;
}

Path circle(Point c, double r)
{
    const double k = std::tan(std::numbers::pi / 8);
    Path p = pathOf({c.x + r, c.y}, {{{c.x, c.y + r}, k}, {{c.x - r, c.y}, k}, {{c.x, c.y - r}, k}, {{c.x + r, c.y}, k}}, true);
    return p;
}

CutItem item(Path path, LineKind kind = LineKind::Through, int copy = 0, bool opening = false)
{
    CutItem i;
    i.kind = kind;
    i.copy = copy;
    i.path = std::move(path);
    i.opening = opening;
    return i;
}

// What a program says, read by nothing of ours: strokes with the tool down, arcs stepped along their circles (RS-274/NGC, 3.5.3).
struct Read {
    std::vector<Polyline> strokes;
    double travel = 0, cut = 0;
    QStringList words;
};
Read readGcode(const std::vector<std::string>& lines)
{
    Read out;
    double x = 0, y = 0, inch = 1;
    bool down = false;
    for (const std::string& text : lines) {
        if (text[0] == '(')
            continue;
        double nx = x, ny = y, i = 0, j = 0;
        int g = -1;
        for (const QString& w : QString::fromStdString(text).split(' ')) {
            const double v = w.mid(1).toDouble();
            out.words << w.left(1) + (w[0] == 'G' || w[0] == 'M' ? w.mid(1) : QString());
            switch (w[0].unicode()) {
            case 'X':
                nx = v * inch;
                break;
            case 'Y':
                ny = v * inch;
                break;
            case 'I':
                i = v * inch;
                break;
            case 'J':
                j = v * inch;
                break;
            case 'G':
                g = int(v);
                inch = g == 20 ? 25.4 : g == 21 ? 1 : inch;
                break;
            case 'M':
                if (v == 3 || v == 4) {
                    down = true;
                    out.strokes.push_back({{x, y}});
                } else if (v == 5)
                    down = false;
                break;
            default:
                break;
            }
        }
        if (g == 0)
            out.travel += std::hypot(nx - x, ny - y);
        if ((g == 1 || g == 2 || g == 3) && down) {
            if (g == 1)
                out.strokes.back().push_back({nx, ny});
            else {
                const double r = std::hypot(i, j), a = std::atan2(-j, -i);
                double b = std::atan2(ny - y - j, nx - x - i) - a;
                if (std::abs(std::hypot(nx - x - i, ny - y - j) - r) > 0.002)
                    qWarning() << "an arc whose ends are not on one circle" << QString::fromStdString(text);
                if (g == 3 && b <= 0)
                    b += 2 * std::numbers::pi;
                if (g == 2 && b >= 0)
                    b -= 2 * std::numbers::pi;
                const int steps = std::max(2, int(std::abs(b) / 0.02));
                for (int k = 1; k <= steps; ++k)
                    out.strokes.back().push_back({x + i + r * std::cos(a + b * k / steps), y + j + r * std::sin(a + b * k / steps)});
            }
        }
        if (g >= 0 && g <= 3) {
            x = nx;
            y = ny;
        }
    }
    return out;
}

// The same of HPGL: PU and PD with a place each.
Read readHpgl(const std::vector<std::string>& lines)
{
    Read out;
    Point at;
    bool down = false;
    for (const std::string& text : lines) {
        const QString line = QString::fromStdString(text);
        const QStringList xy = line.mid(2).chopped(1).split(',');
        if (line.startsWith("PU"))
            down = false;
        if (line.startsWith("PD") && !std::exchange(down, true))
            out.strokes.push_back({at});
        if ((line.startsWith("PU") || line.startsWith("PD")) && xy.size() == 2) {
            at = {xy[0].toDouble() / 40, xy[1].toDouble() / 40};
            if (down)
                out.strokes.back().push_back(at);
        }
    }
    return out;
}

double cutBy(const Read& read)
{
    double sum = 0;
    for (const Polyline& stroke : read.strokes)
        for (std::size_t k = 1; k < stroke.size(); ++k)
            sum += distance(stroke[k - 1], stroke[k]);
    return sum;
}

double worstOff(const Polyline& points, const Path& path)
{
    double worst = 0;
    for (const Point p : points)
        worst = std::max(worst, nearestPlace({path}, p)->away);
    return worst;
}

Plan planned(const CutItems& items, const PlanSpec& spec, double w = 200, double h = 200) { return planOf(items, w, h, spec); }

} // namespace

class TestMachine : public QObject {
    Q_OBJECT
private slots:
    // A program interrupted anywhere: from where the tool stood what is left is left, and no more; in lines, arcs, inches and HPGL. Where it stands on
    // the way of several lines it is not guessed.
    void interruptedAnywhereTheRestIsLeft()
    {
        CutItems items;
        for (int k = 0; k < 6; ++k)
            items.push_back(k % 2 ? item(circle({30.0 + 25 * k, 60}, 9.3), LineKind::Through, k) : item(square(20 + 25.0 * k, 100, 17.7), LineKind::Kiss, k));
        std::mt19937 random(17);
        for (const int kind : {0, 1, 2, 3}) {
            PlanSpec spec;
            spec.machine = Machine{};
            spec.machine->inches = kind == 1;
            spec.machine->arcs = kind < 2;
            spec.machine->dialect = kind == 3 ? Dialect::Hpgl : Dialect::Gcode;
            spec.machine->tool.overcut = 1_mm;
            const Program program = programOf(planned(items, spec));
            const auto read = [&](const std::vector<std::string>& lines) { return kind == 3 ? readHpgl(lines) : readGcode(lines); };
            const double whole = cutBy(read(program.lines));
            int stops = 0;
            for (int n = 0; n < 150; ++n) {
                const std::size_t k = random() % program.lines.size();
                const auto before = std::vector(program.lines.begin(), program.lines.begin() + std::ptrdiff_t(k));
                const auto after = std::vector(program.lines.begin(), program.lines.begin() + std::ptrdiff_t(k) + 1);
                Read done = read(before), next = read(after);
                if (cutBy(next) - cutBy(done) < 0.2)
                    continue;
                // Somewhere along what this line adds.
                Polyline& stroke = next.strokes.back();
                const std::size_t was = next.strokes.size() > done.strokes.size() ? 1 : done.strokes.back().size();
                const std::size_t at = was + random() % (stroke.size() - was);
                stroke[at] = mix(stroke[at - 1], stroke[at], 0.1 + double(random() % 80) / 100);
                stroke.resize(at + 1);
                const Stood stood{stroke.back(), kind == 3 ? std::optional(true) : std::nullopt};
                const auto line = firstNotDone(program, k - std::min<std::size_t>(k, random() % 4), std::min(program.lines.size(), k + 1 + random() % 4), stood);
                if (!line) // an overcut goes over its beginning
                    continue;
                ++stops;
                const Read rest = read(restOf(program, *line, stood.at).lines);
                QVERIFY2(std::abs(cutBy(next) + cutBy(rest) - whole) < 0.08, qPrintable(QString("%1, line %2: %3 and %4 of %5").arg(kind).arg(k).arg(cutBy(next)).arg(cutBy(rest)).arg(whole)));
                QVERIFY(distance(rest.strokes.front().front(), stood.at) < 0.03);
            }
            QVERIFY2(stops > 20, qPrintable(QString::number(stops)));
            QVERIFY(!firstNotDone(program, 20, program.lines.size(), {{199, 199}, {}}));
        }
        // The way to a cut lies on the cut's own line: a machine that says no more may be on either.
        Program back;
        back.lines = {"G21 G90", "G0 X80 Y100", "G0 X100 Y100", "M3 S300", "G1 X80 Y100 F1200", "G1 X80 Y80"};
        QVERIFY(!firstNotDone(back, 1, 6, {{99.4, 100}, {}}));
        QCOMPARE(firstNotDone(back, 1, 6, {{99.4, 100}, true}), std::optional<std::size_t>(4));
        QCOMPARE(firstNotDone(back, 1, 6, {{99.4, 100}, false}), std::optional<std::size_t>(2));
        QCOMPARE(firstNotDone(back, 1, 6, {{80, 100}, true}), std::optional<std::size_t>(5));
        // A closed line ends where it began: a machine that says no more may be at either, one that says whether its tool is down is not.
        PlanSpec closed;
        closed.machine = Machine{};
        for (const Dialect dialect : {Dialect::Gcode, Dialect::Hpgl}) {
            closed.machine->dialect = dialect;
            const Program program = programOf(planned({item(square(20, 100, 17.7))}, closed));
            const Point corner = (dialect == Dialect::Hpgl ? readHpgl(program.lines) : readGcode(program.lines)).strokes[0][0];
            QVERIFY(!firstNotDone(program, 0, program.lines.size(), {corner, {}}));
            if (dialect == Dialect::Hpgl)
                QVERIFY(*firstNotDone(program, 0, program.lines.size(), {corner, true}) > *firstNotDone(program, 0, program.lines.size(), {corner, false}));
        }
    }

    // A reader that knows nothing of ours walks each program word by word: it never leaves the bed, ends at the machine's own (0, 0),
    // never goes quickly with the burn on or the tool down, and says a speed with every cut and a power that is the one that was asked for.
    void programsCannotHurt()
    {
        struct Origin {
            BedCorner corner;
            bool xLeft, yNear;
        };
        const CutItems items = {item(circle({60, 60}, 12.3)), item(square(100, 100, 33.3), LineKind::Kiss, 1)};
        Engraving burn;
        burn.spec.as = EngraveAs::Fill;
        burn.outline = {flatten(square(20, 20, 6), 0.01)};
        burn.box = {20, 20, 26, 26};
        for (const Origin& o : {Origin{BedCorner::NearLeft, false, false}, {BedCorner::FarRight, false, false}, {BedCorner::FarRight, true, true}, {BedCorner::FarLeft, false, true},
                                {BedCorner::NearRight, true, false}})
            for (const double most : {1.0, 255.0, 1000.0})
                for (const int overscan : {0, 2})
                    for (const ToolBy by : {ToolBy::Spindle, ToolBy::Height})
                        for (const Trial trial : {Trial::No, Trial::Faint}) {
                            PlanSpec spec;
                            spec.machine = Machine{};
                            Machine& m = *spec.machine;
                            m.kind = MachineKind::Laser;
                            m.bed = {300_mm, 200_mm, o.corner, o.xLeft, o.yNear};
                            m.tool.powerMost = most;
                            m.tool.by = by;
                            spec.material = Material{};
                            for (const Process p : processes)
                                spec.material->of(p).power = 40;
                            burn.spec.overscan = Length::mm(overscan);
                            const EngraveItem engraved{{}, 0, std::make_shared<const Engraving>(burn), {}};
                            const bool engraves = by == ToolBy::Spindle;
                            const Plan plan = planOf(items, 200, 150, spec, {}, {}, engraves ? std::span(&engraved, 1) : std::span<const EngraveItem>());
                            double x = 0, y = 0, z = 0, s = 0, f = 0;
                            bool on = false, burnt = false;
                            int motion = 0;
                            for (const std::string& line : gcodeOf(plan, trial).lines) {
                                if (line[0] == '(')
                                    continue;
                                bool moves = false;
                                for (const QString& word : QString::fromStdString(line).split(' ')) {
                                    const char c = word[0].toLatin1();
                                    const double v = word.mid(1).toDouble();
                                    if (c == 'G' && v <= 3)
                                        motion = int(v);
                                    else if (c == 'M' && v >= 3 && v <= 5)
                                        on = v < 5;
                                    else if (c == 'X')
                                        x = v, moves = true;
                                    else if (c == 'Y')
                                        y = v, moves = true;
                                    else if (c == 'Z')
                                        z = v;
                                    else if (c == 'S')
                                        s = v;
                                    else if (c == 'F')
                                        f = v;
                                }
                                const bool works = by == ToolBy::Spindle ? on && s > 0 : z < m.tool.up.mm();
                                QVERIFY2(!(moves && motion == 0 && works), line.c_str());
                                QVERIFY2(!moves || motion == 0 || f > 0, line.c_str());
                                if (moves && motion > 0 && by == ToolBy::Spindle && s > 0) {
                                    burnt = true;
                                    QVERIFY2(std::abs(s - (trial == Trial::No ? 0.4 : 0.005) * most) <= most * 0.0006, line.c_str());
                                }
                                const Point bed = m.bed.toMachine().inverse()({x, y});
                                QVERIFY2(bed.x > -0.01 && bed.x < 300.01 && bed.y > -0.01 && bed.y < 200.01, line.c_str());
                            }
                            QCOMPARE(std::pair(x, y), std::pair(0.0, 0.0));
                            QVERIFY(burnt || by == ToolBy::Height);
                        }
        // What leaves the bed is no program at all, in neither dialect; of a sheet without a machine either.
        for (const bool known : {true, false})
            for (const Dialect dialect : {Dialect::Gcode, Dialect::Hpgl}) {
                PlanSpec spec;
                if (known)
                    spec.machine = Machine{};
                if (known)
                    spec.machine->dialect = dialect;
                const Plan plan = planOf({item(square(known ? 280 : 80, 20, 40))}, 100, 100, spec);
                for (const bool hpgl : {false, true})
                    try {
                        hpgl ? hpglOf(plan) : gcodeOf(plan);
                        QFAIL("it was written");
                    } catch (const Error& e) {
                        QCOMPARE(int(e.kind()), int(ErrorKind::Reach));
                        QVERIFY2(std::string(e.what()).find("20 mm past") != std::string::npos, e.what());
                    }
            }
        // HPGL ends at its own corner, with no more force than there is and at a speed it can be told.
        PlanSpec spec;
        spec.machine = sampleMachines()[1];
        spec.machine->bed.origin = BedCorner::FarRight;
        spec.machine->tool.forceMost = 300;
        spec.material = Material{};
        for (const Process p : processes)
            spec.material->of(p).force = 900;
        const Program plotted = hpglOf(planOf(items, 200, 150, spec));
        QVERIFY(std::find(plotted.lines.begin(), plotted.lines.end(), "FS300;") != plotted.lines.end());
        QCOMPARE(plotted.lines[plotted.lines.size() - 2], std::string("PU0,0;"));
        spec.operations.back().settings = ProcessSettings{};
        spec.operations.back().settings->speed = Speed::mmPerSecond(3);
        QVERIFY_EXCEPTION_THROWN(planOf(items, 200, 150, spec), Error);
        spec.operations.back().settings->speed = Speed::mmPerSecond(4000);
        QVERIFY_EXCEPTION_THROWN(planOf(items, 200, 150, spec), Error);
    }

    // The place that is proposed: all of the sheet on the bed, and the eye, which sees only where the tool does not stand, at every mark with room
    // to look about; where the bed has no such place, as many as can be, counted here anew.
    void theEyeReachesTheMarks()
    {
        const std::vector<Point> marks = {{12, 12}, {198, 12}, {198, 285}, {12, 285}, {86, 53}};
        std::mt19937 random(12);
        int whole = 0;
        for (int n = 0; n < 500; ++n) {
            Machine m;
            m.bed.width = Length::mm(200 + int(random() % 150));
            m.bed.depth = Length::mm(290 + int(random() % 200));
            m.eye = {Eye::Sensor, Length::mm(int(random() % 120) - 60), Length::mm(int(random() % 80) - 40), 50_um, 8_mm};
            const double w = m.bed.width.mm(), d = m.bed.depth.mm();
            const auto seenAt = [&](Point corner, double room) {
                return std::size_t(std::count_if(marks.begin(), marks.end(), [&](Point p) {
                    const Point tool = p + corner - Point{m.eye.x.mm(), m.eye.y.mm()};
                    return tool.x >= room && tool.y >= room && tool.x <= w - room && tool.y <= d - room;
                }));
            };
            const EyePlace place = placeForEye(m, 210, 297, marks, 5);
            QVERIFY(place.corner.x >= 0 && place.corner.y >= 0);
            QVERIFY(place.corner.x + 210 <= std::max(210.0, w) + 1e-6 && place.corner.y + 297 <= std::max(297.0, d) + 1e-6);
            QCOMPARE(seenAt(place.corner, 4.99), place.seen);
            std::size_t most = 0; // of all places, tried one by one
            for (double x = 0; x <= std::max(0.0, w - 210); x += 1)
                for (double y = 0; y <= std::max(0.0, d - 297); y += 1)
                    most = std::max(most, seenAt({x, y}, 5));
            QVERIFY2(place.seen >= most, qPrintable(QString("%1 of %2").arg(place.seen).arg(most)));
            whole += place.seen == marks.size();
        }
        QVERIFY2(whole > 50 && whole < 450, qPrintable(QString::number(whole)));
        // A desk cutter of the samples reads all of an A4 sheet.
        QCOMPARE(placeForEye(sampleMachines()[0], 210, 297, marks, 5).seen, marks.size());
    }

    // What a beam is wide it takes from what holds: uncut stays as much as was asked, of bridges and of a perforation. What it swallows is said.
    void kerfLeavesWhatHolds()
    {
        PlanSpec spec;
        spec.machine = Machine{};
        spec.machine->kind = MachineKind::Laser;
        spec.machine->tool.kerf = 400_um;
        CutItem bridged = item(square(20, 20, 40)), perforated = item(circle({120, 60}, 20), LineKind::Perforate, 1);
        bridged.breaks = {0, 0.3, {20, 60, 100, 140}};
        perforated.breaks = {2, 0.3, {}};
        const Plan plan = planned({bridged, perforated}, spec);
        for (const int index : {0, 1}) {
            std::vector<const ToolRun*> runs;
            for (const ToolRun& run : plan.runs)
                if (run.item == index)
                    runs.push_back(&run);
            QVERIFY(runs.size() >= 4);
            for (std::size_t k = 0; k < runs.size(); ++k) {
                const double apart = distance(runs[k]->track.end(), runs[(k + 1) % runs.size()]->track.start);
                QVERIFY2(std::abs(apart - 0.4 - 0.3) < 0.02, qPrintable(QString::number(apart)));
            }
        }
        // An opening of 1.36 mm under a beam of 2 mm is gone, and so is a notch of 0.3 mm in an outline; a plain square loses nothing.
        spec.machine->tool.kerf = 2_mm;
        Path slit = square(100, 100, 30);
        slit.segments.clear();
        slit.corners.clear();
        for (const Point p : {Point{130, 100}, {130, 130}, {115.15, 130}, {115.15, 115}, {114.85, 115}, {114.85, 130}, {100, 130}, {100, 100}})
            slit.lineTo(p);
        const Plan lossy = planned({item(square(20, 20, 40)), item(circle({40, 40}, 0.68), LineKind::Through, 0, true), item(slit, LineKind::Through, 1)}, spec);
        QCOMPARE(lossy.lost.size(), std::size_t(2));
        QCOMPARE(lossy.lost[0].item, 1);
        QVERIFY2(std::abs(lossy.lost[0].width - 1.36) < 0.03, qPrintable(QString::number(lossy.lost[0].width)));
        QCOMPARE(lossy.lost[1].item, 2);
        QVERIFY2(std::abs(lossy.lost[1].width - 0.3) < 0.05, qPrintable(QString::number(lossy.lost[1].width)));
    }

    // A toothed edge has no stretch as long as a dash: the pattern goes on over its corners, even to a quarter.
    void perforationsGoOnOverTeeth()
    {
        Path teeth;
        teeth.start = {20, 20};
        for (int k = 0; k < 60; ++k) {
            teeth.lineTo({20.5 + k, 20});
            teeth.lineTo({20.5 + k, 22});
            teeth.lineTo({21.0 + k, 22});
            teeth.lineTo({21.0 + k, 20});
        }
        teeth.lineTo({81, 80});
        teeth.lineTo({20, 80});
        teeth.lineTo({20, 20});
        const Paths dashes = dashed(teeth, 20, 1);
        QVERIFY(dashes.size() > 8);
        double sum = 0;
        for (const Path& dash : dashes) {
            QVERIFY2(length(dash) > 20 * 0.7 && length(dash) < 20 * 1.3, qPrintable(QString::number(length(dash))));
            sum += length(dash);
        }
        QVERIFY(std::abs(sum + double(dashes.size()) - length(teeth)) < 1e-3);
    }

    // A speed is shown in four units and comes back as it was: 1 in is 25.4 mm.
    void speedsDoNotDrift()
    {
        for (const char* text : {"20mm/s", "1200mm/min", "0.5in/s", "30in/min", "333.3mm/min", "0.123in/s"}) {
            Speed s = parseSpeed(text);
            const Speed first = s;
            for (int turn = 0; turn < 50; ++turn)
                for (const SpeedUnit u : speedUnits)
                    s = Speed::of(s.in(u), u);
            QCOMPARE(s.perMinute.ticks(), first.perMinute.ticks());
        }
        QCOMPARE(parseSpeed("1in/s").mmPerSecond(), 25.4);
        QCOMPARE(parseSpeed("600").mmPerSecond(), 10.0);
        for (const char* bad : {"fast", "-3mm/s", "0", "3mm", "mm/s", "1e99mm/s", "200000mm/s", "0.01", "99999999mm/s"})
            QVERIFY_EXCEPTION_THROWN(parseSpeed(bad), Error);
    }

    // Squares and circles in closed form: a square stays one with sharp corners, a circle's radius grows by half the kerf; an opening
    // shrinks. The lines between are moved exactly.
    void kerfIsHalfOutsideAndHalfInside()
    {
        const Paths out = movedAside(square(10, 10, 30), 0.1, 0.005), in = movedAside(square(10, 10, 30), -0.1, 0.005);
        QCOMPARE(out.size(), std::size_t(1));
        QVERIFY(std::abs(signedArea(out[0]) - 30.2 * 30.2) < 1e-6 && std::abs(signedArea(in[0]) - 29.8 * 29.8) < 1e-6);
        QCOMPARE(int(out[0].segments.size()), 4);
        for (const double by : {0.1, -0.1}) {
            const Paths c = movedAside(reversed(circle({50, 50}, 8)), by, 0.005);
            QCOMPARE(c.size(), std::size_t(1));
            QVERIFY(signedArea(c[0]) < 0); // drawn as it was
            for (const Point p : flatten(c[0], 0.001))
                QVERIFY(std::abs(distance(p, {50, 50}) - (8 + by)) < 0.002);
        }
        // What is narrower than the kerf is gone; a neck narrower than it falls apart.
        QVERIFY(movedAside(square(0, 0, 0.15), -0.1, 0.005).empty());
        Path bone;
        bone.start = {0, 0};
        for (const Point p : {Point{10, 0}, {10, 4.95}, {20, 4.95}, {20, 0}, {30, 0}, {30, 10}, {20, 10}, {20, 5.05}, {10, 5.05}, {10, 10}, {0, 10}, {0, 0}})
            bone.lineTo(p);
        QCOMPARE(movedAside(bone, -0.1, 0.005).size(), std::size_t(2));
        QCOMPARE(movedAside(bone, 0.1, 0.005).size(), std::size_t(1));
    }

    // The line of a real outline moved aside lies at its distance everywhere, but for inside corners.
    void kerfKeepsItsDistance()
    {
        std::mt19937 random(4);
        for (int n = 0; n < 20; ++n) {
            Path blob;
            const int lobes = 3 + int(random() % 6);
            Polyline points;
            for (int k = 0; k < 400; ++k) {
                const double a = 2 * std::numbers::pi * k / 400, r = 20 + 4 * std::sin(lobes * a) + 1.5 * std::cos((lobes + 2) * a + n);
                points.push_back({50 + r * std::cos(a), 50 + r * std::sin(a)});
            }
            blob = polygonPath(points);
            for (const double by : {0.09, -0.09}) {
                const Paths moved = movedAside(blob, by, 0.005);
                QCOMPARE(moved.size(), std::size_t(1));
                for (const Point p : flatten(moved[0], 0.05)) {
                    const double away = nearestPlace({blob}, p)->away;
                    QVERIFY2(std::abs(away - 0.09) < 0.006, qPrintable(QString::number(away)));
                }
            }
        }
    }

    // The way a trailing blade's tip takes, integrated in small steps: on the line to 0.02 mm, right into each corner; without being
    // led it would cut them off. Circles too.
    void bladesFollowTheLine()
    {
        for (const double offset : {0.25, 0.9})
            for (const double angle : {0.0, 1.9, 3.14, 4.4}) { // where it points before it was ever down, nobody knows
                PlanSpec spec;
                spec.machine = Machine{};
                spec.machine->tool.bladeOffset = Length::mm(offset);
                spec.machine->tool.overcut = 1_mm;
                const CutItems items = {item(square(20, 20, 30)), item(circle({100, 100}, 5), LineKind::Through, 1), item(square(120, 20, 10), LineKind::Kiss, 2)};
                const Plan plan = planned(items, spec);
                QCOMPARE(plan.runs.size(), std::size_t(3));
                std::vector<const Track*> tracks = {&plan.runs[0].drawnIn};
                QVERIFY(!tracks[0]->arcs.empty());
                for (const ToolRun& run : plan.runs)
                    tracks.push_back(&run.track);
                const Affine up{1, 0, 0, -1, 0, 200};
                // Our own integration: the tip is pulled along by the pivot.
                Point tip = tracks[0]->start - Affine::turn(angle)({offset, 0});
                for (std::size_t r = 0; r < tracks.size(); ++r) {
                    const Polyline pivots = flatten(*tracks[r], 0.0005);
                    // Lifted, it keeps its heading.
                    const Point heading = r == 0 ? unit(pivots[0] - tip) : unit(tracks[r - 1]->end() - tip);
                    tip = pivots[0] - heading * offset;
                    Polyline tips = {tip};
                    for (std::size_t k = 1; k < pivots.size(); ++k) {
                        const int steps = std::max(1, int(distance(pivots[k - 1], pivots[k]) / 0.004));
                        for (int s = 1; s <= steps; ++s) {
                            const Point pivot = mix(pivots[k - 1], pivots[k], double(s) / steps);
                            tip = pivot - unit(pivot - tip) * offset;
                            tips.push_back(tip);
                        }
                    }
                    if (r == 0) { // in the waste: nothing of a piece is near
                        for (const Point p : tips)
                            for (const CutItem& other : items) {
                                const Path outline = transformed(other.path, up);
                                QVERIFY(!contains(flatten(outline, 0.01), p) && nearestPlace({outline}, p)->away > 0.1);
                            }
                        continue;
                    }
                    const Path line = transformed(items[std::size_t(plan.runs[r - 1].item)].path, up);
                    const auto toCorner = [&](Point p) {
                        double nearest = 1e9;
                        for (const Segment& s : line.segments)
                            nearest = line.corners[0] ? std::min(nearest, distance(p, s.end)) : nearest;
                        return nearest;
                    };
                    QVERIFY2(toCorner(tips.front()) > 3, "begun at a corner");
                    double worst = 0, atCorner = 0;
                    for (const Point p : tips) {
                        const double off = nearestPlace({line}, p)->away;
                        (toCorner(p) < 1 ? atCorner : worst) = std::max(toCorner(p) < 1 ? atCorner : worst, off);
                    }
                    QVERIFY2(worst < 0.05 && atCorner < 0.1, qPrintable(QString("blade %1, pointed %2: %3, %4 at corners").arg(offset).arg(angle).arg(worst).arg(atCorner)));
                    for (const Segment& s : line.segments) {
                        double nearest = 1e9;
                        for (const Point p : tips)
                            nearest = std::min(nearest, distance(p, s.end));
                        QVERIFY(!line.corners[0] || nearest < 0.02);
                    }
                    // Once round, and the overcut, no more.
                    const double past = distance(tips.front(), tips.back());
                    QVERIFY2(std::abs(past - 1) < 0.02, qPrintable(QString::number(past)));
                }
                for (const Polyline& cut : cutsOf(plan, 0.01))
                    QVERIFY(cut.size() > 100);
            }
        // Where nothing is waste it goes over the beginning of its first line again.
        PlanSpec spec;
        spec.machine = Machine{};
        spec.machine->tool.bladeOffset = 250_um;
        const Plan full = planned({item(square(0.5, 0.5, 199)), item(square(20, 20, 30))}, spec);
        QCOMPARE(full.runs.size(), std::size_t(2));
        const double turns = 4 * 0.25 * std::numbers::pi / 2; // of the pivot about the tip, at corners
        QVERIFY2(std::abs(lengthOf(full.runs[0].track) - 120 - 5 * 0.25 - turns) < 0.05, qPrintable(QString::number(lengthOf(full.runs[0].track))));
    }

    // Inner before outer, copy after copy, lighter before heavier; leads begin in the waste; nothing is doubled.
    void orderAndLeads()
    {
        CutItems items;
        for (int c = 0; c < 4; ++c) {
            const double x = 10 + 45 * c;
            items.push_back(item(square(x, 20, 40), LineKind::Through, c));
            items.push_back(item(circle({x + 20, 40}, 6), LineKind::Through, c, true));
            items.push_back(item(square(x + 5, 25, 30), LineKind::Kiss, c));
        }
        PlanSpec spec;
        spec.machine = sampleMachines()[2];
        spec.machine->tool.leadOut = 1_mm;
        const Plan plan = planned(items, spec);
        QCOMPARE(plan.runs.size(), items.size());
        for (std::size_t r = 0; r < plan.runs.size(); ++r) {
            const ToolRun& run = plan.runs[r];
            const CutItem& cut = items[std::size_t(run.item)];
            QCOMPARE(items[std::size_t(plan.runs[r / 3 * 3].item)].copy, cut.copy);
            QCOMPARE(int(plan.steps[std::size_t(run.step)].operation),
                     int(std::vector{Operation::Kiss, Operation::InnerThrough, Operation::OuterThrough}[r % 3]));
            // Both ends in the waste, 0.06 mm (half the kerf) and more off the line.
            const Path line = transformed(cut.path, {1, 0, 0, -1, 0, 200});
            const Polyline outline = flatten(line, 0.002);
            for (const Point p : {run.track.start, run.track.end()}) {
                QCOMPARE(contains(outline, p), cut.opening);
                QVERIFY(nearestPlace({line}, p)->away > 0.3);
            }
        }
        spec.byOperation = true;
        spec.operations[1].on = false;                                                                // crease
        std::rotate(spec.operations.begin() + 2, spec.operations.begin() + 3, spec.operations.end()); // kiss last
        const Plan other = planned(items, spec);
        for (std::size_t r = 0; r < other.runs.size(); ++r)
            QCOMPARE(int(other.steps[std::size_t(other.runs[r].step)].operation),
                     int(std::vector{Operation::InnerThrough, Operation::OuterThrough, Operation::Kiss}[r / 4]));
        spec.operations[5].guide = true;
        spec.operations[3].settings = ProcessSettings{};
        spec.operations[3].settings->passes = 3;
        QCOMPARE(planned(items, spec).runs.size(), std::size_t(4 + 4 * 3));
        // A line put on an operation of its own goes with it, and comes up nowhere else.
        items[0].line = LineId{7};
        spec.operations.push_back({Operation::OuterThrough, "slowly", {LineId{7}}});
        const Plan own = planned(items, spec);
        QCOMPARE(own.steps.back().name, std::string("slowly"));
        QCOMPARE(own.steps.back().paths, 1);
    }

    // Never longer than nearest neighbour with 2-opt, both from and to the same places; 5 000 stops.
    void routesAreShort()
    {
        std::mt19937 random(1);
        for (const int count : {12, 60, 300, 1500}) {
            std::vector<Point> stops;
            for (int i = 0; i < count; ++i)
                stops.push_back({double(random() % 20000) / 100, double(random() % 28000) / 100});
            const std::vector<int> ours = shortRoute(stops, {}, {});
            std::vector<int> all = ours;
            std::sort(all.begin(), all.end());
            for (int i = 0; i < count; ++i)
                QCOMPARE(all[std::size_t(i)], i);
            const double length = lengthOfRoute(stops, ours), plain = lengthOfRoute(stops, textbookRoute(stops));
            QVERIFY2(length <= plain + 1e-6, qPrintable(QString("%1: %2 %3").arg(count).arg(length).arg(plain)));
        }
    }

    // A single move in closed form; and many against a machine stepped through time.
    void timeFollowsTheMotion()
    {
        MotionSpec motion;
        motion.acceleration = 1000;
        const auto one = [&](double length, double speed) {
            const Move m{length, speed, {1, 0}, {1, 0}};
            return secondsOf({&m, 1}, motion);
        };
        QVERIFY(std::abs(one(100, 50) - (100 / 50.0 + 50 / 1000.0)) < 1e-9); // up, along, down
        QVERIFY(std::abs(one(1, 200) - 2 * std::sqrt(1 / 1000.0)) < 1e-9);   // never at its speed
        // Straight on, cut into pieces, takes as long as whole; a right angle slows down, a way back stops.
        const auto two = [&](Point second) {
            const Move m[] = {{50, 50, {1, 0}, {1, 0}}, {50, 50, second, second}};
            return secondsOf(m, motion);
        };
        QVERIFY(std::abs(two({1, 0}) - one(100, 50)) < 1e-9);
        QVERIFY(std::abs(two({-1, 0}) - 2 * one(50, 50)) < 1e-9);
        const double corner = std::sqrt(1000 * 0.01 * std::sqrt(0.5) / (1 - std::sqrt(0.5)));
        QVERIFY(std::abs(two({0, 1}) - (2 * one(50, 50) - 2 * (corner / 1000) + corner * corner / 1000 / 50)) < 1e-9);
        // Round a circle no faster than the acceleration bends its way.
        const std::vector<Move> round = movesOf(trackOf(circle({50, 50}, 2), 0.001), 400);
        const double top = std::sqrt(1000 * 2.0), whole = 4 * std::numbers::pi;
        QVERIFY(std::abs(secondsOf(round, motion) - (whole / top + top / 1000)) < 0.01);
    }

    // Read back by a reader of its own: within 0.01 mm of the lines, in mm and inches, from any corner and with axes either way, with and
    // without arcs; and no word that the contract does not name.
    void programsSayTheLines()
    {
        const CutItems items = {item(circle({60, 60}, 12.3)), item(circle({60, 60}, 5), LineKind::Through, 0, true),
                                item(square(100, 100, 33.3), LineKind::Kiss, 1)};
        const QStringList known = {"G0", "G1", "G2", "G3", "G17", "G20", "G21", "G90", "M2", "M3", "M4", "M5", "M8", "M9", "S", "F", "X", "Y", "Z", "I", "J"};
        for (const BedCorner corner : {BedCorner::NearLeft, BedCorner::FarRight, BedCorner::FarLeft})
            for (const bool inches : {false, true})
                for (const bool arcs : {true, false}) {
                    PlanSpec spec;
                    spec.machine = Machine{};
                    spec.machine->bed.origin = corner;
                    spec.machine->bed.yNear = corner != BedCorner::NearLeft;
                    spec.machine->bed.xLeft = corner == BedCorner::FarRight;
                    spec.machine->inches = inches;
                    spec.machine->arcs = arcs;
                    const Plan plan = planned(items, spec);
                    const Program program = gcodeOf(plan);
                    const Read read = readGcode(program.lines);
                    QCOMPARE(read.strokes.size(), plan.runs.size());
                    const Affine back = Affine{1, 0, 0, -1, 0, 200} * spec.machine->bed.toMachine().inverse();
                    for (std::size_t r = 0; r < plan.runs.size(); ++r) {
                        Polyline seen;
                        for (const Point p : read.strokes[r])
                            seen.push_back(back(p));
                        const double off = worstOff(seen, items[std::size_t(plan.runs[r].item)].path);
                        QVERIFY2(off < 0.01, qPrintable(QString::number(off)));
                        QVERIFY(std::abs(length(std::span<const Point>(seen)) - distance(seen.back(), seen.front()) -
                                         length(items[std::size_t(plan.runs[r].item)].path)) < 0.05);
                    }
                    for (const QString& w : read.words)
                        QVERIFY2(known.contains(w), qPrintable(w));
                    QCOMPARE(program.done.size(), plan.runs.size());
                    QVERIFY(program.lines[program.done[0] - 1] == "M5");
                }
    }

    // Samples survive their files; what is wrong in one is said with where it stands.
    void machinesAndMaterialsAreFiles()
    {
        QTemporaryDir dir;
        const std::filesystem::path own = dir.path().toStdString();
        for (const Machine& m : sampleMachines()) {
            writeFile(own / "m.json", writeMachine(m));
            QVERIFY(openMachine(own / "m.json") == m);
        }
        for (const Material& m : sampleMaterials()) {
            writeFile(own / "m.json", writeMaterial(m));
            QVERIFY(openMaterial(own / "m.json") == m);
        }
        const auto refused = [&](const char* text) {
            writeFile(own / "bad.json", std::string_view(text));
            try {
                openMachine(own / "bad.json");
            } catch (const Error& e) {
                return QString::fromUtf8(e.what());
            }
            return QString();
        };
        QVERIFY(refused("{").contains("bad.json"));
        QVERIFY(refused("{}").contains("yokai_machine"));
        QVERIFY(refused("{\"yokai_machine\":1,\"bed\":{\"width\":1}}").contains("bed.width"));
        QVERIFY(refused("{\"yokai_machine\":1,\"bed\":{\"widht\":300}}").contains("bed.widht is not known"));
        QVERIFY(refused("{\"yokai_machine\":1,\"dialect\":\"french\"}").contains("gcode or hpgl"));
        // Kept ones join the samples, or take the place of one with their name.
        Machine mine = sampleMachines()[0];
        mine.bed.width = 777_mm;
        keepMachine(own, mine);
        mine.name = "Mine / 2";
        keepMachine(own, mine);
        QCOMPARE(openShelf(own).machines.size(), sampleMachines().size() + 1);
        QCOMPARE(machineNamed("Reed", own).bed.width, 777_mm);
        dropMachine(own, mine.name);
        QCOMPARE(openShelf(own).machines.size(), sampleMachines().size());
        QVERIFY_EXCEPTION_THROWN(machineNamed("Nobody", own), Error);
        QVERIFY_EXCEPTION_THROWN(machineNamed("", own), Error);
    }
};

QTEST_GUILESS_MAIN(TestMachine)
#include "test_machine.moc"
