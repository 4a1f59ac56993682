#include "device/machine_line.h"

#include <QElapsedTimer>
#include <QThread>

namespace yokai {

SerialMachine& MachineLine::reached(const Work& work, double patienceSeconds)
{
    if (link_.port.empty())
        throw Error(ErrorKind::Device, "no port is chosen; choose the one the machine is connected to");
    QElapsedTimer waited;
    waited.start();
    for (;;) {
        work.check();
        try {
            if (!machine_)
                machine_ = std::make_unique<SerialMachine>(QString::fromStdString(link_.port), link_.baud, link_.buffer);
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
