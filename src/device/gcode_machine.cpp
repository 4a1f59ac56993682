#include "device/gcode_machine.h"

#include "base/length.h"

#include <QElapsedTimer>
#include <QThread>

#include <charconv>
#include <cmath>

namespace yokai {

namespace {

constexpr char resetByte = 0x18, jogCancelByte = char(0x85);
constexpr int statusEveryMs = 100;

int numberAfter(const QString& line, qsizetype prefix)
{
    bool ok = false;
    const int n = line.mid(prefix).toInt(&ok);
    return ok ? n : -1;
}

QString placeWords(Point p)
{
    return QStringLiteral("X%1 Y%2").arg(QString::fromStdString(plainNumber(p.x, 4)), QString::fromStdString(plainNumber(p.y, 4)));
}

} // namespace

std::optional<MachineStatus> statusFrom(std::string_view line)
{
    if (line.size() < 3 || line.front() != '<' || line.back() != '>')
        return std::nullopt;
    line = line.substr(1, line.size() - 2);
    MachineStatus out;
    bool first = true, placed = false;
    while (true) {
        const std::size_t end = std::min(line.find('|'), line.size());
        const std::string_view field = line.substr(0, end);
        const auto numbers = [&](std::size_t prefix) {
            std::vector<double> v;
            for (std::string_view rest = field.substr(prefix); !rest.empty();) {
                const std::size_t comma = std::min(rest.find(','), rest.size());
                double value = 0;
                const auto [stop, error] = std::from_chars(rest.data(), rest.data() + comma, value);
                if (error != std::errc() || stop != rest.data() + comma || !std::isfinite(value))
                    return std::vector<double>{};
                v.push_back(value);
                rest.remove_prefix(std::min(comma + 1, rest.size()));
            }
            return v;
        };
        if (first) {
            static constexpr std::pair<std::string_view, MachineState> names[] = {{"Idle", MachineState::Idle}, {"Run", MachineState::Run},
                                                                                  {"Hold", MachineState::Hold}, {"Jog", MachineState::Jog},
                                                                                  {"Home", MachineState::Home}, {"Alarm", MachineState::Alarm}};
            for (const auto& [name, state] : names)
                if (field == name || (field.starts_with(name) && field[name.size()] == ':')) {
                    out.state = state;
                    out.stands = state != MachineState::Run && state != MachineState::Jog && state != MachineState::Home && field != "Hold:1";
                }
        } else if (field.starts_with("MPos:") || field.starts_with("WPos:")) {
            const auto v = numbers(5);
            if (v.size() < 2)
                return std::nullopt;
            out.at = {v[0], v[1]};
            placed = true;
            out.ownZero = field[0] == 'M';
        } else if (field.starts_with("WCO:")) {
            if (const auto v = numbers(4); v.size() >= 2)
                out.offset = Point{v[0], v[1]};
            else
                return std::nullopt;
        } else if (field.starts_with("Bf:")) {
            if (const auto v = numbers(3); v.size() == 2)
                out.freeChars = int(v[1]);
            else
                return std::nullopt;
        } else if (field.starts_with("Ln:")) {
            if (const auto v = numbers(3); v.size() == 1)
                out.line = int(v[0]);
        } else if (field.starts_with("FS:")) {
            if (const auto v = numbers(3); v.size() == 2)
                out.power = v[1];
        }
        first = false;
        if (end == line.size())
            return placed ? std::optional(out) : std::nullopt;
        line.remove_prefix(end + 1);
    }
}

std::string meaningOfError(int number)
{
    switch (number) {
    case 1:
    case 2:
        return "it did not understand a word or a number (" + std::to_string(number) + "); check the machine's dialect and the link's speed";
    case 9:
        return "it is locked after an alarm; find its corner, or unlock it";
    case 11:
        return "the line is longer than it takes; check the machine's buffer";
    case 15:
        return "that is outside its bed; jog less far";
    case 20:
        return "it does not know that word; check the machine's dialect";
    case 22:
        return "no speed was given; plan the cut anew";
    case 33:
        return "it cannot go that arc; switch arcs off for this machine";
    default:
        return "error " + std::to_string(number) + "; see its manual";
    }
}

std::string meaningOfAlarm(int number)
{
    switch (number) {
    case 1:
        return "it ran against a limit; free it and find its corner again";
    case 2:
        return "the cut would leave its bed; lay the sheet farther in";
    case 3:
        return "it was reset while it moved, so it does not know where it is; find its corner again";
    default:
        return "alarm " + std::to_string(number) + "; see its manual";
    }
}

std::string GcodeMachine::refusal(const std::string& line, const QString& answer) const
{
    if (answer.startsWith(QLatin1String("ALARM:")))
        return "the machine stopped by itself: " + meaningOfAlarm(numberAfter(answer, 6));
    const int number = numberAfter(answer, 6);
    return number >= 0 ? "the machine refused '" + line + "': " + meaningOfError(number) : SerialMachine::refusal(line, answer);
}

void GcodeMachine::greet(const Work& work, int patienceMs)
{
    send("\n");
    listen(work, patienceMs, [](const QString& line) { return line == QLatin1String("ok"); });
    inStep_ = true;
    // Whatever else it had to say is not for us.
    while (readLine(waitMs)) {
    }
}

// In what programs count: what it says from its own zero is moved by the offset it says now and then.
std::optional<MachineStatus> GcodeMachine::heard(const QString& line)
{
    std::optional<MachineStatus> out = statusFrom(line.toStdString());
    if (!out)
        return out;
    if (out->offset)
        offset_ = out->offset;
    if (out->ownZero)
        out->at = out->at - offset_.value_or(Point());
    return out;
}

MachineStatus GcodeMachine::status(const Work& work, int patienceMs)
{
    send("?");
    std::optional<MachineStatus> status;
    listen(work, patienceMs, [&](const QString& line) { return (status = heard(line)).has_value(); });
    return *status;
}

// "Name 1.1 ['$' for help]", as open-source motion firmware greets.
bool GcodeMachine::isGreeting(const QString& line) const { return line.endsWith(QLatin1String("for help]")); }

void GcodeMachine::raiseTool(const Work& work)
{
    constexpr int patience = 30'000; // ms: a long way up
    for (const std::string& line : raising())
        ask(QString::fromStdString(line), work, patience);
    ask(QStringLiteral("G4 P0.01"), work, patience); // a move is answered before it is done, a pause after all that came before
}

void GcodeMachine::reset()
{
    awaitGreeting();
    send(QByteArray(1, resetByte));
}

void GcodeMachine::quench() noexcept
{
    constexpr int restMs = 500; // from full speed
    try {
        send("!");
        QThread::msleep(restMs);
        reset();
        QThread::msleep(restMs);
        send("$X\n"); // one that was reset on its way is locked, and would not move up
        for (const std::string& line : raising())
            send(QByteArray::fromStdString(line) + '\n');
    } catch (...) { // it is not there: nothing reaches it
    }
    inStep_ = false;
}

void GcodeMachine::resume() { send("~"); }

void GcodeMachine::jogTo(Point to, double mmPerMinute, const Work& work)
{
    ask(QStringLiteral("$J=G90 G21 %1 F%2").arg(placeWords(to)).arg(mmPerMinute), work);
}

void GcodeMachine::jogWhile(Point to, double mmPerMinute, const std::function<bool()>& held, const Work& work)
{
    jogTo(to, mmPerMinute, work);
    while (held()) {
    }
    send(QByteArray(1, jogCancelByte));
}

void GcodeMachine::home(const Work& work)
{
    constexpr int patience = 60'000; // ms: a large bed's way
    ask(QStringLiteral("$H"), work, patience);
    knowsPlace();
}

void GcodeMachine::goTo(Point to, const Work& work) { ask(QStringLiteral("G21 G90 G0 ") + placeWords(to), work, 30'000); }

std::optional<Point> GcodeMachine::lookAlong(Point to, bool forLight, double mmPerMinute, const Work& work)
{
    // As open-source firmware has it: G38.3 towards contact, G38.5 away from it, neither an error where there is none.
    const QStringList said = ask(QStringLiteral("%1 %2 F%3").arg(forLight ? QStringLiteral("G38.5") : QStringLiteral("G38.3"), placeWords(to)).arg(mmPerMinute), work, 30'000);
    for (const QString& line : said) {
        if (!line.startsWith(QLatin1String("[PRB:")) || !line.endsWith(QLatin1Char(']')))
            continue;
        const QStringList parts = line.mid(5).chopped(1).split(QLatin1Char(':'));
        const QStringList xy = parts[0].split(QLatin1Char(','));
        bool okX = false, okY = false;
        if (parts.size() != 2 || xy.size() < 2)
            break;
        const Point at{xy[0].toDouble(&okX), xy[1].toDouble(&okY)};
        if (!okX || !okY)
            break;
        return parts[1] == QLatin1String("1") ? std::optional(at - offset_.value_or(Point())) : std::nullopt;
    }
    throw Error(ErrorKind::Device, "the machine's answer about what its eye sees makes no sense; try again");
}

// Held first: one that is reset while it moves no longer knows where it is. One that does not come to rest is reset all the same. A reset puts a
// beam out, and leaves a tool down that is lowered by its height.
GcodeMachine::Halted GcodeMachine::halt()
{
    constexpr int restMs = 600; // from full speed, with some patience
    std::optional<MachineStatus> stands, before;
    try {
        send("!");
        QElapsedTimer waited;
        for (waited.start(); waited.elapsed() < restMs && !stands;) {
            const MachineStatus now = status({}, restMs);
            // Twice the same: an answer to what was asked before may be on its way.
            if (now.stands && before && before->stands && before->at == now.at)
                stands = now;
            before = now;
        }
    } catch (const Error&) { // it does not answer: then at least it is reset
    }
    const bool sure = stands && stands->state != MachineState::Alarm;
    bool raised = true;
    try {
        reset();
        greet({}, restMs);
        if (!sure) // locked, as it was reset on its way: it moves up all the same
            ask(QStringLiteral("$X"), {});
        raiseTool({});
    } catch (const Error&) {
        quench();
        inStep_ = true; // nothing more is asked of it before it is greeted again
        raised = false;
    }
    return {sure ? stands : std::nullopt, raised};
}

// What is known of a machine that has a program.
struct GcodeMachine::Streaming {
    std::vector<std::string> lines;
    qsizetype under = 0; // characters under way
    bool held = false;
    int idle = 0; // times it was seen with nothing to do and nothing in its buffer
    // Answers still to come to ?, and of those how many were asked for before the newest lines were sent: they know nothing of them.
    int awaited = 0, stale = 0;
    bool rests = false; // all is answered, and it stands still
    std::optional<Whereabouts> where;
    int line = -1; // the number it said last
    QElapsedTimer heard, asked;

    // As many lines as fit beside those under way.
    QByteArray next(std::size_t& sent, qsizetype buffer)
    {
        QByteArray out;
        while (sent < lines.size() && (under == 0 || under + qsizetype(lines[sent].size()) + 1 <= buffer)) {
            out += QByteArray::fromStdString(lines[sent]) + '\n';
            under += qsizetype(lines[sent].size()) + 1;
            ++sent;
        }
        if (!out.isEmpty()) {
            forgetAsked();
            idle = 0;
        }
        return out;
    }
    // What was asked for before now is of no use.
    void forgetAsked() { stale = awaited; }
    // Whether it has all that was sent behind it, though an answer was spoilt on its way.
    bool isDone(const MachineStatus& status, bool missing, qsizetype buffer)
    {
        awaited = std::max(0, awaited - 1);
        if (stale > 0) {
            --stale;
            return false;
        }
        rests = rests || (!missing && status.state == MachineState::Idle);
        idle = status.state == MachineState::Idle && status.freeChars >= buffer && missing ? idle + 1 : 0;
        return idle == 2; // an answer may just be on its way
    }
};

// Its number or its place jumped back: it began anew, though nothing was heard of it.
void GcodeMachine::requirePlace(const MachineStatus& status, const Streaming& s, const Streamed& progress) const
{
    constexpr std::size_t memory = 40; // lines that are answered and not done yet, of small controllers
    constexpr double slack = 1;        // mm
    if (status.line > 0 && status.line < s.line)
        throw PositionLost("the machine went back in the program by itself");
    if (status.placed && (!status.ownZero || offset_) && status.state != MachineState::Alarm &&
        !s.where->mayBeAt(status.at, progress.confirmed - std::min(progress.confirmed, memory), progress.sent, slack))
        throw PositionLost("the machine stands where the cut does not go");
}

// Takes what the machine said. Throws Error(Device) where it refuses or stopped.
void GcodeMachine::hear(const QString& said, Streaming& s, Streamed& progress, const Watch& watch)
{
    const auto confirm = [&](std::size_t line, qsizetype under) {
        progress.confirmed = line;
        s.under = under;
        if (line == s.lines.size())
            s.forgetAsked();
        if (watch.told)
            watch.told(progress);
    };
    if (said == QLatin1String("ok"))
        return confirm(progress.confirmed + 1, s.under - qsizetype(s.lines[progress.confirmed].size()) - 1);
    if (isGreeting(said))
        throw PositionLost("the machine began anew in the middle of the cut");
    if (said.startsWith(QLatin1String("error:")) || said.startsWith(QLatin1String("ALARM:")))
        throw Error(ErrorKind::Device, "{}", refusal(s.lines[progress.confirmed], said));
    const auto status = heard(said);
    if (!status)
        return;
    if (status->state == MachineState::Alarm)
        throw Error(ErrorKind::Device, "{}", refusal({}, QStringLiteral("ALARM:")));
    requirePlace(*status, s, progress);
    s.line = std::max(s.line, status->line);
    if (watch.seen)
        watch.seen(*status);
    if (!s.isDone(*status, progress.confirmed < s.lines.size(), buffer_))
        return;
    // All that was sent is behind it only where that ends.
    constexpr double there = 0.1; // mm
    if (const auto end = s.where->after(progress.sent); end && (!status->ownZero || offset_) && distance(*end, status->at) > there)
        throw PositionLost("the machine stopped before the end of what it was sent");
    confirm(progress.sent, 0);
}

void GcodeMachine::stream(const Rest& rest, std::size_t number, CutControl& control, Streamed& progress, const Watch& watch, const Work& work)
{
    InStep step(*this);
    progress = {};
    Streaming s;
    // Each bears its number, by which the machine says how far it is.
    s.lines = rest.lines;
    for (std::size_t k = rest.leading; k < s.lines.size(); ++k)
        s.lines[k].insert(0, "N" + std::to_string(number + k - rest.leading) + " ");
    s.where.emplace(rest.lines, Dialect::Gcode);
    s.heard.start();
    s.asked.start();
    try {
        // Answered is not done: it may have some moves in its memory.
        while (progress.confirmed < s.lines.size() || !s.rests) {
            work.check();
            if (control.hold != s.held) {
                s.held = control.hold;
                send(s.held ? "!" : "~");
            }
            std::size_t upTo = progress.sent;
            if (const QByteArray out = s.next(upTo, buffer_); !out.isEmpty()) {
                if (watch.sending)
                    watch.sending(upTo);
                progress.sent = upTo;
                send(out);
            }
            if (s.asked.elapsed() > statusEveryMs) {
                send("?");
                ++s.awaited;
                s.asked.restart();
            }
            if (s.heard.elapsed() > silenceMs)
                silent();
            if (const auto got = readLine(waitMs)) {
                s.heard.restart();
                hear(*got, s, progress, watch);
            }
        }
    } catch (const LinkLost&) {
        send("!"); // should it hear: it goes on where it stands as soon as it answers again
        throw;
    } catch (const PositionLost&) {
        halt();
        throw;
    } catch (const Cancelled&) {
        const Halted halted = halt();
        progress.stood = halted.stands;
        if (!halted.raised)
            throw StoppedUnheard();
        throw;
    } catch (...) {
        progress.stood = halt().stands;
        throw;
    }
    step.done();
}

} // namespace yokai
