#include "device/machine_line.h"

#include "device/gcode_machine.h"
#include "device/hpgl_machine.h"

#include <QElapsedTimer>
#include <QThread>

namespace yokai {

namespace {

std::unique_ptr<SerialMachine> opened(const LinkSpec& link, Dialect dialect)
{
    const QString port = QString::fromStdString(link.port);
    if (dialect == Dialect::Hpgl)
        return std::make_unique<HpglMachine>(port, link.baud);
    return std::make_unique<GcodeMachine>(port, link.baud, link.buffer);
}

} // namespace

void MachineLine::open()
{
    if (machine_)
        return;
    machine_ = opened(link_, dialect_);
    machine_->setRaising(raising_);
}

void MachineLine::quench() noexcept
{
    try {
        open();
        machine_->quench();
    } catch (...) { // the port is gone
    }
    close();
}

SerialMachine& MachineLine::reached(const Work& work, double patienceSeconds)
{
    if (link_.port.empty())
        throw Error(ErrorKind::Device, "no port is chosen; choose the one the machine is connected to");
    QElapsedTimer waited;
    waited.start();
    for (;;) {
        work.check();
        try {
            open();
            machine_->greet(work, 1500);
            return *machine_;
        } catch (const LinkLost&) {
            machine_.reset();
            if (double(waited.elapsed()) > patienceSeconds * 1000)
                throw;
            QThread::msleep(50);
        }
    }
}

} // namespace yokai
