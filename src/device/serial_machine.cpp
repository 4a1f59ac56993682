#include "device/serial_machine.h"

#include <QElapsedTimer>
#include <QSerialPort>

namespace yokai {

PositionLost::PositionLost(const std::string& why)
    : Error(ErrorKind::Device, "{}, so it no longer knows where it is; look at what is cut, find its corner and the marks again, and cut what is left as a new cut", why)
{}

StoppedUnheard::StoppedUnheard()
    : Error(ErrorKind::Device, "stopped, but the machine does not answer; see for yourself that its burn is out and its tool is up")
{}

void SerialMachine::silent()
{
    throw LinkLost(ErrorKind::Device, "the machine does not answer; check that it is switched on and connected, and that its port, speed and language are right");
}

std::string SerialMachine::refusal(const std::string& line, const QString& answer) const
{
    return "the machine refused '" + line + "': " + answer.mid(6).toStdString();
}

SerialMachine::SerialMachine(const QString& port, int baud) : port_(std::make_unique<QSerialPort>(port))
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
SerialMachine::InStep::InStep(SerialMachine& m) : machine(m)
{
    if (!machine.inStep_)
        throw Error(ErrorKind::Device, "the machine's answers are out of step after a line was given up; connect it again");
    machine.inStep_ = false;
}

void SerialMachine::send(const QByteArray& bytes)
{
    port_->write(bytes);
    port_->waitForBytesWritten(1000);
}

std::optional<QString> SerialMachine::readLine(int wait)
{
    std::optional<QString> line = nextLine(wait);
    if (line && isGreeting(*line)) {
        beganAnew_ = beganAnew_ || greetings_ == 0;
        greetings_ = 0;
    }
    return line;
}

std::optional<QString> SerialMachine::nextLine(int wait)
{
    for (bool waited = false;; waited = true) {
        while (true) {
            qsizetype end = 0;
            while (end < pending_.size() && pending_[end] != '\n' && pending_[end] != '\r')
                ++end;
            if (end == pending_.size())
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
    if (end != QLatin1String("ok"))
        throw Error(ErrorKind::Device, "{}", refusal(line.toStdString(), end));
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

} // namespace yokai
