#include "device/serial_machine.h"

#include <QElapsedTimer>
#include <QSerialPort>

namespace yokai {

SerialMachine::SerialMachine(const QString& port) : port_(std::make_unique<QSerialPort>(port))
{
    port_->setBaudRate(QSerialPort::Baud115200);
    if (!port_->open(QIODevice::ReadWrite))
        throw Error(ErrorKind::Device, "cannot open the serial line '{}': {}; check the cable and that no other program uses it", port.toStdString(),
                    port_->errorString().toStdString());
    port_->clear(); // what the machine said to somebody else before
}

// Answers are told apart by their order alone. Once one is awaited no more, it may still come,
// and would be taken for that of the next line.
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

SerialMachine::~SerialMachine() = default;

QString SerialMachine::readLine(const Work& work, int patienceMs)
{
    QElapsedTimer waited;
    waited.start();
    for (;;) {
        const qsizetype end = pending_.indexOf('\n');
        if (end >= 0) {
            const QString line = QString::fromUtf8(pending_.left(end)).trimmed();
            pending_.remove(0, end + 1);
            if (!line.isEmpty())
                return line;
            continue;
        }
        work.check();
        if (waited.elapsed() > patienceMs)
            throw Error(ErrorKind::Device, "the machine does not answer; check that it is switched on and connected");
        if (port_->waitForReadyRead(20))
            pending_ += port_->readAll();
        else if (port_->error() != QSerialPort::TimeoutError && port_->error() != QSerialPort::NoError)
            throw Error(ErrorKind::Device, "the line to the machine is broken: {}; connect it again", port_->errorString().toStdString());
    }
}

QStringList SerialMachine::ask(const QString& line, const Work& work, int patienceMs)
{
    InStep step(*this);
    port_->write(line.toUtf8() + '\n');
    port_->waitForBytesWritten(1000);
    QStringList answers;
    for (;;) {
        const QString got = readLine(work, patienceMs);
        if (got == QLatin1String("ok")) {
            step.done();
            return answers;
        }
        if (got.startsWith(QLatin1String("error:"))) {
            step.done();
            throw Error(ErrorKind::Device, "the machine refused '{}': {}; see its manual", line.toStdString(), got.mid(6).toStdString());
        }
        answers << got;
    }
}

void SerialMachine::stream(const QStringList& lines, const Work& work)
{
    // At most this many characters wait in the machine, as its small buffer allows.
    constexpr qsizetype buffer = 512;
    InStep step(*this);
    qsizetype under = 0, sent = 0, confirmed = 0;
    while (confirmed < lines.size()) {
        QByteArray out;
        while (sent < lines.size() && under + lines[sent].size() + 1 <= buffer) {
            out += lines[sent].toUtf8() + '\n';
            under += lines[sent].size() + 1;
            ++sent;
        }
        if (!out.isEmpty()) {
            port_->write(out);
            port_->waitForBytesWritten(1000);
        }
        const QString got = readLine(work, 5000);
        if (got.startsWith(QLatin1String("error:")))
            throw Error(ErrorKind::Device, "the machine refused '{}': {}; see its manual", lines[confirmed].toStdString(), got.mid(6).toStdString());
        if (got == QLatin1String("ok")) {
            under -= lines[confirmed].size() + 1;
            ++confirmed;
            if ((confirmed & 255) == 0)
                work.report(double(confirmed) / double(lines.size()), "cutting");
        }
    }
    step.done();
}

} // namespace yokai
