// A machine at the other end of a serial line that answers each line with ok or error:n, tells its state when asked by ?, and heeds
// ! (hold), ~ (resume) and reset at once, as open-source motion firmware documents it. Blocking, for use off the window's thread only.
#pragma once

#include "base/geometry.h"
#include "base/work.h"

#include <QByteArray>
#include <QString>
#include <QStringList>

#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

class QSerialPort;

namespace yokai {

enum class MachineState { Idle, Run, Hold, Jog, Home, Alarm, Unknown };

struct MachineStatus {
    MachineState state = MachineState::Unknown;
    Point at;           // as the machine counts
    int freeChars = -1; // of its buffer; -1: it does not say
    int line = -1;      // the number of the line it does, or did last; -1: it does not say
    double power = -1;  // S while the tool is down; -1: it does not say
};
// "<Idle|MPos:1.000,2.000,0.000|Bf:15,128|FS:0,0>"; nothing where it is no such line.
std::optional<MachineStatus> statusFrom(std::string_view line);
// What a number of a refusal or of an alarm means and what to do; from the firmware's documentation, in words of our own.
std::string meaningOfError(int number);
std::string meaningOfAlarm(int number);

// What somebody else asks of a cut that is under way; any thread may.
struct CutControl {
    std::atomic<bool> hold = false;
};

// How far a program got.
struct Streamed {
    std::size_t confirmed = 0; // lines the machine has answered
    std::size_t sent = 0;      // lines that were sent; what is between may or may not have been done
};

// The machine is not reached any more, or says nothing: it may be reached again.
class LinkLost : public Error {
public:
    using Error::Error;
};

class SerialMachine {
public:
    // Throws Error(Device) when the port cannot be opened.
    explicit SerialMachine(const QString& port, int baud = 115200, int buffer = 127);
    ~SerialMachine();

    // Whether anybody is there: waits for an answer to an empty line. What was said before is thrown away. Throws Error(Device).
    void greet(const Work& work, int patienceMs = 3000);
    // Sends one line and waits for its ok; gives the lines that came before it. Throws Error(Device) on a refusal, LinkLost on silence, and
    // Cancelled on stop. After silence or a stop no further line is sent: its answer could not be told from a late one.
    QStringList ask(const QString& line, const Work& work, int patienceMs = 5000);
    // The numbers of an answer in brackets, as [TAG:1.5,2,3]. Throws Error(Device) where there are not so many.
    std::vector<double> figures(const QString& line, const QString& tag, std::size_t count, const Work& work, int patienceMs = 60'000);
    MachineStatus status(const Work& work, int patienceMs = 2000);

    // Sends the lines from `from` on, as many under way as fit into the machine's buffer and no more. `told` hears of every answer
    // and of where the machine is. On stop the machine is reset, so that the tool is up at once, whatever it still has.
    // `progress` is right however it ends. Throws Error(Device), LinkLost, or Cancelled.
    struct Watch {
        std::function<void(const Streamed&)> told;
        std::function<void(const MachineStatus&)> seen;
    };
    void stream(const std::vector<std::string>& lines, std::size_t from, CutControl& control, Streamed& progress, const Watch& watch, const Work& work);

    void reset(); // stops at once; the tool comes up
    void hold();
    void resume();
    void cancelJog();

private:
    struct InStep;
    void send(const QByteArray& bytes);
    void listen(const Work& work, int patienceMs, const std::function<bool(const QString&)>& heard);
    std::optional<QString> readLine(int waitMs); // nothing yet: none. Throws when the line is broken
    std::unique_ptr<QSerialPort> port_;
    QByteArray pending_;
    int buffer_;
    bool inStep_ = true; // whether the next answer is that of the next line
};

} // namespace yokai
