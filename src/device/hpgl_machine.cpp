#include "device/hpgl_machine.h"

#include <QElapsedTimer>
#include <QThread>

#include <cmath>
#include <deque>

namespace yokai {

namespace {

constexpr char spaceLeft = 'B', extendedStatus = 'O', forget = 'K';
constexpr int bufferEmpty = 8; // of ESC.O: nothing left to do, ready
constexpr int lookEveryMs = 20;

QByteArray outOfTurn(char request) { return QByteArray("\x1b.") + request; }
QByteArray units(Point mm) { return QByteArray::number(std::lround(mm.x * hpglUnitsAMm)) + ',' + QByteArray::number(std::lround(mm.y * hpglUnitsAMm)); }

// Of OE; from the language's reference, in words of our own.
const char* meaningOf(int error)
{
    switch (error) {
    case 1:
        return "it does not know one of the words; check the machine's language";
    case 2:
        return "a word had too few figures or too many; check the link's speed";
    case 3:
        return "a figure made no sense to it; check the link's speed";
    case 6:
        return "it was sent past its bed; lay the sheet farther in";
    default:
        return "see its manual";
    }
}

} // namespace

std::optional<MachineStatus> plotterStatusFrom(const QString& line)
{
    const QStringList parts = line.split(QLatin1Char(','));
    bool okX = false, okY = false;
    if (parts.size() != 3 || (parts[2] != QLatin1String("0") && parts[2] != QLatin1String("1")))
        return std::nullopt;
    MachineStatus out;
    out.at = Point{parts[0].toDouble(&okX), parts[1].toDouble(&okY)} * (1 / hpglUnitsAMm);
    if (!okX || !okY || !std::isfinite(out.at.x) || !std::isfinite(out.at.y))
        return std::nullopt;
    out.down = parts[2] == QLatin1String("1");
    return out;
}

int HpglMachine::figure(char request, const Work& work, int patienceMs)
{
    send(outOfTurn(request));
    int out = -1;
    listen(work, patienceMs, [&](const QString& line) {
        bool ok = false;
        out = line.toInt(&ok);
        return ok;
    });
    return out;
}

MachineStatus HpglMachine::place(const Work& work, int patienceMs)
{
    send("OA;");
    std::optional<MachineStatus> out;
    listen(work, patienceMs, [&](const QString& line) { return (out = plotterStatusFrom(line)).has_value(); });
    out->state = MachineState::Idle;
    return *out;
}

void HpglMachine::greet(const Work& work, int patienceMs)
{
    while (readLine(waitMs)) { // of what was asked before
    }
    figure(spaceLeft, work, patienceMs);
    inStep_ = true;
}

MachineStatus HpglMachine::status(const Work& work, int patienceMs)
{
    if (figure(extendedStatus, work, patienceMs) == bufferEmpty)
        return place(work, patienceMs);
    MachineStatus busy;
    busy.state = MachineState::Run;
    busy.placed = busy.stands = false;
    return busy;
}

void HpglMachine::untilDone(const Work& work)
{
    while (figure(extendedStatus, work, silenceMs) != bufferEmpty)
        QThread::msleep(lookEveryMs);
}

void HpglMachine::requireUnderstood(const Work& work)
{
    send("OE;");
    int error = 0;
    listen(work, silenceMs, [&](const QString& line) {
        bool ok = false;
        error = line.toInt(&ok);
        return ok;
    });
    if (error != 0)
        throw Error(ErrorKind::Device, "the machine did not take all it was sent (error {}): {}; look at what it has cut", std::to_string(error), meaningOf(error));
}

void HpglMachine::raiseTool(const Work& work)
{
    send("PU;");
    untilDone(work);
}

void HpglMachine::quench() noexcept
{
    try {
        send(outOfTurn(forget) + "PU;");
    } catch (...) { // it is not there: nothing reaches it
    }
}

void HpglMachine::reset() { send(outOfTurn(forget) + "PU;"); }

void HpglMachine::jogTo(Point to, double mmPerMinute, const Work&)
{
    send("VS" + QByteArray::number(std::max(1L, std::lround(mmPerMinute / 600))) + ";PU" + units(to) + ';');
}

// What it has begun it does to its end; so it is told of a little at a time.
void HpglMachine::jogWhile(Point to, double mmPerMinute, const std::function<bool()>& held, const Work& work)
{
    constexpr double ahead = 0.15; // seconds
    const double step = mmPerMinute / 60 * ahead;
    untilDone(work);
    for (Point at = place(work, silenceMs).at; held();) {
        if (figure(extendedStatus, work, silenceMs) != bufferEmpty)
            continue;
        const double left = distance(at, to);
        if (left < 1e-6)
            continue;
        at = mix(at, to, std::min(1.0, step / left));
        jogTo(at, mmPerMinute, work);
    }
    untilDone(work);
}

void HpglMachine::home(const Work& work)
{
    send("IN;PU0,0;");
    untilDone(work);
}

void HpglMachine::goTo(Point to, const Work& work)
{
    send("PU" + units(to) + ';');
    untilDone(work);
}

void HpglMachine::requireEye() const
{
    throw Error(ErrorKind::Device, "a machine that reads HPGL has no words for its eye; find the marks in a picture of the bed or by hand");
}

std::optional<Point> HpglMachine::lookAlong(Point, bool, double, const Work&)
{
    requireEye();
    return std::nullopt;
}

// ESC.K leaves the pen where it is, so that it can be told what is left.
std::optional<MachineStatus> HpglMachine::halt()
{
    std::optional<MachineStatus> out;
    try {
        send(outOfTurn(forget));
        while (readLine(waitMs)) { // what was asked before
        }
        out = place({}, silenceMs);
    } catch (const LinkLost&) { // it does not answer: then at least it is told
    }
    send("PU;");
    return out;
}

// What is known of a machine that has a program.
struct HpglMachine::Streaming {
    std::deque<std::size_t> places; // lines before each OA that is not answered yet
    qsizetype room = 0;             // characters it surely has room for
    qsizetype sentSince = 0;        // the newest question out of turn
    std::optional<char> awaited;    // that question; no other is asked until it is answered, but the same again
    QElapsedTimer asked, again, heard;
    int done = 0; // times it said it has nothing left, though answers were missing

    // Whether there is something to ask.
    std::optional<char> question(bool allSent) const
    {
        constexpr qsizetype least = 64;    // characters: it is asked again when it has room for fewer
        constexpr int quietMs = 500;       // after which it is asked whether it is still there, and has anything left
        if (awaited) // it may not have heard
            return again.elapsed() > quietMs ? awaited : std::nullopt;
        if (!allSent && room < least && asked.isValid() && asked.elapsed() < lookEveryMs)
            return std::nullopt;
        if (!allSent)
            return room < least || heard.elapsed() > quietMs ? std::optional(spaceLeft) : std::nullopt;
        return heard.elapsed() > quietMs ? std::optional(extendedStatus) : std::nullopt;
    }
    void answered(int figure)
    {
        if (awaited == spaceLeft)
            room = figure - sentSince;
        else
            done = figure == bufferEmpty ? done + 1 : 0;
        awaited.reset();
    }
};

// As many lines as it has room for, each few followed by OA.
QByteArray HpglMachine::next(const std::vector<std::string>& lines, Streamed& progress, Streaming& s)
{
    constexpr std::size_t placeEvery = 8; // lines: so finely it is known how far it is
    QByteArray out;
    while (progress.sent < lines.size() && qsizetype(lines[progress.sent].size() + sizeof "OA;") <= s.room) {
        QByteArray line = QByteArray::fromStdString(lines[progress.sent++]);
        if (progress.sent == lines.size() || progress.sent - (s.places.empty() ? progress.confirmed : s.places.back()) >= placeEvery) {
            line += "OA;";
            s.places.push_back(progress.sent);
        }
        s.room -= line.size();
        s.sentSince += line.size();
        out += line;
    }
    if (const auto question = s.question(progress.sent == lines.size())) {
        // Asked again, the answer may still be that to the first.
        if (!s.awaited) {
            s.sentSince = 0;
            s.asked.start();
        }
        s.awaited = question;
        s.again.start();
        out += outOfTurn(*question);
    }
    return out;
}

// Until all is confirmed; false: it is to be held.
bool HpglMachine::feed(const std::vector<std::string>& lines, const CutControl& control, Streamed& progress, Streaming& s, const Watch& watch, const Work& work)
{
    const auto reached = [&](std::size_t line) {
        progress.confirmed = line;
        if (watch.told)
            watch.told(progress);
    };
    s.heard.start();
    while (progress.confirmed < lines.size()) {
        work.check();
        if (control.hold)
            return false;
        const std::size_t before = progress.sent;
        if (const QByteArray out = next(lines, progress, s); !out.isEmpty()) {
            if (watch.sending && progress.sent > before)
                watch.sending(progress.sent);
            send(out);
        }
        if (s.awaited && s.asked.elapsed() > silenceMs && s.heard.elapsed() > silenceMs)
            silent();
        const auto got = readLine(waitMs);
        if (!got)
            continue;
        s.heard.restart();
        bool isFigure = false;
        const int figure = got->toInt(&isFigure);
        if (isFigure && s.awaited) {
            s.answered(figure);
            // It has done all, though an answer was spoilt on its way.
            if (s.done >= 2)
                reached(lines.size());
        } else if (auto status = plotterStatusFrom(*got); status && !s.places.empty()) {
            const std::size_t line = s.places.front();
            s.places.pop_front();
            reached(line);
            status->state = MachineState::Run;
            if (watch.seen)
                watch.seen(*status);
        }
    }
    return true;
}

void HpglMachine::stream(const Rest& rest, std::size_t, CutControl& control, Streamed& progress, const Watch& watch, const Work& work)
{
    InStep step(*this);
    progress = {};
    Streaming s;
    bool whole = false;
    try {
        whole = feed(rest.lines, control, progress, s, watch, work);
    } catch (const LinkLost&) {
        quench(); // should it hear
        throw;
    } catch (const Cancelled&) {
        progress.stood = halt();
        step.done();
        if (!progress.stood)
            throw StoppedUnheard();
        throw;
    } catch (...) {
        progress.stood = halt();
        step.done();
        throw;
    }
    if (!whole)
        progress.stood = halt();
    else {
        if (s.awaited)
            listen(work, silenceMs, [](const QString& line) { return !line.contains(QLatin1Char(',')); });
        requireUnderstood(work);
    }
    step.done();
}

} // namespace yokai
