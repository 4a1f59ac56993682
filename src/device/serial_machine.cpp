#include "device/serial_machine.h"

#include <QElapsedTimer>
#include <QSerialPort>

#include <charconv>
#include <deque>

namespace yokai {

namespace {

constexpr char resetByte = 0x18, jogCancelByte = char(0x85);
constexpr int statusEveryMs = 100;
constexpr int silenceMs = 5000; // without any word: it is there no more
constexpr int waitMs = 10;

int numberAfter(const QString& line, qsizetype prefix)
{
    bool ok = false;
    const int n = line.mid(prefix).toInt(&ok);
    return ok ? n : -1;
}

[[noreturn]] void silent()
{
    throw LinkLost(ErrorKind::Device, "the machine does not answer; check that it is switched on and connected, and that its port and speed are right");
}

[[noreturn]] void refused(const std::string& line, const QString& answer)
{
    const int number = numberAfter(answer, 6);
    throw Error(ErrorKind::Device, "the machine refused '{}': {}", line, number >= 0 ? meaningOfError(number) : answer.mid(6).toStdString());
}

[[noreturn]] void alarmed(const QString& line) { throw Error(ErrorKind::Device, "the machine stopped by itself: {}", meaningOfAlarm(numberAfter(line, 6))); }

} // namespace

std::optional<MachineStatus> statusFrom(std::string_view line)
{
    if (line.size() < 3 || line.front() != '<' || line.back() != '>')
        return std::nullopt;
    line = line.substr(1, line.size() - 2);
    MachineStatus out;
    bool first = true;
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
                if (field == name || (field.starts_with(name) && field[name.size()] == ':'))
                    out.state = state;
        } else if (field.starts_with("MPos:") || field.starts_with("WPos:")) {
            const auto v = numbers(5);
            if (v.size() < 2)
                return std::nullopt;
            out.at = {v[0], v[1]};
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
            return out;
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

SerialMachine::SerialMachine(const QString& port, int baud, int buffer) : port_(std::make_unique<QSerialPort>(port)), buffer_(buffer)
{
    port_->setBaudRate(baud);
    if (!port_->open(QIODevice::ReadWrite))
        throw LinkLost(ErrorKind::Device, "cannot open the serial line '{}': {}; check the cable and that no other program uses it", port.toStdString(),
                       port_->errorString().toStdString());
    port_->clear(); // what the machine said to somebody else before
}

SerialMachine::~SerialMachine() = default;

// Answers are told apart by their order alone. Once one is awaited no more, it may still come, and would be taken for that of the next
// line.
struct SerialMachine::InStep {
    explicit InStep(SerialMachine& m) : machine(m)
    {
        if (!machine.inStep_)
            throw Error(ErrorKind::Device, "the machine's answers are out of step after a line was given up; connect it again");
        machine.inStep_ = false;
    }
    void done() { machine.inStep_ = true; }
    SerialMachine& machine;
};

void SerialMachine::send(const QByteArray& bytes)
{
    port_->write(bytes);
    port_->waitForBytesWritten(1000);
}

std::optional<QString> SerialMachine::readLine(int wait)
{
    for (bool waited = false;; waited = true) {
        while (true) {
            const qsizetype end = pending_.indexOf('\n');
            if (end < 0)
                break;
            const QString line = QString::fromUtf8(pending_.left(end)).trimmed();
            pending_.remove(0, end + 1);
            if (!line.isEmpty())
                return line;
        }
        if (waited)
            return std::nullopt;
        if (port_->waitForReadyRead(wait))
            pending_ += port_->readAll();
        else if (port_->error() != QSerialPort::TimeoutError && port_->error() != QSerialPort::NoError)
            throw LinkLost(ErrorKind::Device, "the line to the machine is broken: {}; connect it again", port_->errorString().toStdString());
        else
            port_->clearError();
        constexpr qsizetype mostUnfinished = 10'000; // characters without an end: this is no machine
        if (pending_.size() > mostUnfinished)
            pending_.clear();
    }
}

// What comes, line by line, until it is what was waited for. Throws LinkLost past the patience.
void SerialMachine::listen(const Work& work, int patienceMs, const std::function<bool(const QString&)>& heard)
{
    QElapsedTimer waited;
    waited.start();
    while (waited.elapsed() <= patienceMs) {
        work.check();
        if (const auto line = readLine(waitMs); line && heard(*line))
            return;
    }
    silent();
}

void SerialMachine::greet(const Work& work, int patienceMs)
{
    send("\n");
    listen(work, patienceMs, [](const QString& line) { return line == QLatin1String("ok"); });
    inStep_ = true;
    // Whatever else it had to say is not for us.
    while (readLine(waitMs)) {
    }
}

QStringList SerialMachine::ask(const QString& line, const Work& work, int patienceMs)
{
    InStep step(*this);
    send(line.toUtf8() + '\n');
    QStringList answers;
    QString end;
    listen(work, patienceMs, [&](const QString& got) {
        const bool last = got == QLatin1String("ok") || got.startsWith(QLatin1String("error:")) || got.startsWith(QLatin1String("ALARM:"));
        if (last)
            end = got;
        else
            answers << got;
        return last;
    });
    step.done();
    if (end.startsWith(QLatin1String("error:")))
        refused(line.toStdString(), end);
    if (end.startsWith(QLatin1String("ALARM:")))
        alarmed(end);
    return answers;
}

std::vector<double> SerialMachine::figures(const QString& line, const QString& tag, std::size_t count, const Work& work, int patienceMs)
{
    for (const QString& said : ask(line, work, patienceMs)) {
        if (!said.startsWith(QLatin1Char('[') + tag + QLatin1Char(':')) || !said.endsWith(QLatin1Char(']')))
            continue;
        std::vector<double> out;
        bool ok = true;
        for (const QString& part : said.mid(tag.size() + 2).chopped(1).split(QLatin1Char(',')))
            if (ok)
                out.push_back(part.toDouble(&ok));
        if (ok && out.size() == count)
            return out;
    }
    throw Error(ErrorKind::Device, "the machine's answer about {} makes no sense; try again", tag.toStdString());
}

MachineStatus SerialMachine::status(const Work& work, int patienceMs)
{
    send("?");
    std::optional<MachineStatus> status;
    listen(work, patienceMs, [&](const QString& line) { return (status = statusFrom(line.toStdString())).has_value(); });
    return *status;
}

void SerialMachine::stream(const std::vector<std::string>& lines, std::size_t from, CutControl& control, Streamed& progress, const Watch& watch,
                           const Work& work)
{
    InStep step(*this);
    progress = {from, from};
    qsizetype under = 0;
    bool held = false;
    int idle = 0; // times it was seen with nothing to do and nothing in its buffer
    // Answers still to come to ?, and of those how many were asked for before the newest lines were sent: they know nothing of them.
    int awaited = 0, stale = 0;
    QElapsedTimer heard, asked;
    heard.start();
    asked.start();
    try {
        while (progress.confirmed < lines.size()) {
            work.check();
            if (control.hold != held) {
                held = control.hold;
                send(held ? "!" : "~");
            }
            QByteArray out;
            while (progress.sent < lines.size() && (under == 0 || under + qsizetype(lines[progress.sent].size()) + 1 <= buffer_)) {
                out += QByteArray::fromStdString(lines[progress.sent]) + '\n';
                under += qsizetype(lines[progress.sent].size()) + 1;
                ++progress.sent;
            }
            if (!out.isEmpty()) {
                send(out);
                stale = awaited;
                idle = 0;
            }
            if (asked.elapsed() > statusEveryMs) {
                send("?");
                ++awaited;
                asked.restart();
            }
            if (heard.elapsed() > silenceMs)
                silent();
            const auto got = readLine(waitMs);
            if (!got)
                continue;
            heard.restart();
            if (*got == QLatin1String("ok")) {
                under -= qsizetype(lines[progress.confirmed].size()) + 1;
                ++progress.confirmed;
                if (watch.told)
                    watch.told(progress);
            } else if (got->startsWith(QLatin1String("error:")))
                refused(lines[progress.confirmed], *got);
            else if (got->startsWith(QLatin1String("ALARM:")))
                alarmed(*got);
            else if (const auto status = statusFrom(got->toStdString())) {
                if (status->state == MachineState::Alarm)
                    alarmed({});
                if (watch.seen)
                    watch.seen(*status);
                awaited = std::max(0, awaited - 1);
                if (stale > 0) {
                    --stale;
                    continue;
                }
                // It has all that was sent behind it, though an answer was spoilt on its way.
                if (status->state == MachineState::Idle && status->freeChars >= buffer_ && progress.sent > progress.confirmed) {
                    if (++idle == 2) { // an answer may just be on its way
                        progress.confirmed = progress.sent;
                        under = 0;
                        idle = 0;
                        if (watch.told)
                            watch.told(progress);
                    }
                } else
                    idle = 0;
            }
        }
    } catch (const Cancelled&) {
        reset();
        throw;
    }
    step.done();
}

void SerialMachine::reset() { send(QByteArray(1, resetByte)); }
void SerialMachine::hold() { send("!"); }
void SerialMachine::resume() { send("~"); }
void SerialMachine::cancelJog() { send(QByteArray(1, jogCancelByte)); }

} // namespace yokai
