// A machine at the other end of a serial line that answers each line with ok or
// error, as open-source motion firmware does. Blocking, for use off the window's
// thread only.
#pragma once

#include "base/work.h"

#include <QString>
#include <QStringList>

#include <memory>

class QSerialPort;

namespace yokai {

class SerialMachine {
public:
    // Throws Error(Device) when the port cannot be opened or nothing answers.
    explicit SerialMachine(const QString& port);
    ~SerialMachine();

    // Sends one line and waits for its ok; gives the lines that came before it.
    // Throws Error(Device) on error:..., on silence, and Cancelled on stop. After silence, a stop or
    // a stream that was refused no further line is sent: its answer could not be told from a late one.
    QStringList ask(const QString& line, const Work& work, int patienceMs = 5000);

    // Sends many lines, keeping a few under way so that the machine never waits.
    void stream(const QStringList& lines, const Work& work);

private:
    struct InStep;
    QString readLine(const Work& work, int patienceMs);
    std::unique_ptr<QSerialPort> port_;
    QByteArray pending_;
    bool inStep_ = true; // whether the next answer is that of the next line
};

} // namespace yokai
