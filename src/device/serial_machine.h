// A machine at the other end of a serial line, whatever its language. Blocking, for use off the window's thread only.
//
// A new language is a class of this one's and a line in machine_line.cpp.
#pragma once

#include "base/geometry.h"
#include "base/work.h"
#include "formats/program/resume.h"

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
    Point at;                // mm, as programs count
    bool ownZero = false;    // `at`, as it was said, is from the machine's own zero instead,
    std::optional<Point> offset; // which lies there from theirs; it is not said each time
    bool placed = true;      // `at` is known
    bool stands = true;      // it has come to rest
    int freeChars = -1;      // of its buffer; -1: it does not say
    int line = -1;           // the number of the line it does, or did last; -1: it does not say
    double power = -1;       // while the tool is down; -1: it does not say
    std::optional<bool> down; // the tool; none: it does not say
};

// What somebody else asks of a cut that is under way; any thread may.
struct CutControl {
    std::atomic<bool> hold = false;
};

// How far a program got.
struct Streamed {
    std::size_t confirmed = 0; // lines the machine has answered
    std::size_t sent = 0;      // lines that were sent; what is between may or may not have been done
    std::optional<MachineStatus> stood; // as it was when it was stopped, if it knows; it has nothing left to do then
};

// The machine is not reached any more, or says nothing: it may be reached again.
class LinkLost : public Error {
public:
    using Error::Error;
};

// It does not know where it is any more: what is left would be cut elsewhere.
class PositionLost : public Error {
public:
    explicit PositionLost(const std::string& why);
};

// It was told to stop and to lift its tool, and nothing was heard of it.
class StoppedUnheard : public Error {
public:
    StoppedUnheard();
};

class SerialMachine {
public:
    // Throws Error(Device) when the port cannot be opened.
    SerialMachine(const QString& port, int baud);
    virtual ~SerialMachine();

    // Whether anybody is there: waits for an answer. What was said before is thrown away. Throws Error(Device).
    virtual void greet(const Work& work, int patienceMs = 3000) = 0;
    virtual MachineStatus status(const Work& work, int patienceMs = 2000) = 0;

    // What brings its tool up and its burn out (Program::raise).
    void setRaising(std::vector<std::string> lines) { raising_ = std::move(lines); }
    // Up when it returns; before it is sent anywhere. Throws as ask().
    virtual void raiseTool(const Work& work) = 0;
    // What it still has is forgotten at once, and with a spindle or a beam that goes out. A tool that is lowered by its height stays down:
    // raiseTool() after it.
    virtual void reset() = 0;
    // Held, reset and raised without waiting for any answer: what can be done of one that is silent.
    virtual void quench() noexcept = 0;
    // Whether it began anew by itself since it was reached or last found its corner, so that it no longer knows where it is.
    bool beganAnew() const { return beganAnew_; }
    // Lets it go on where it was held, should it be.
    virtual void resume() = 0;
    // One after another; all that come before wait. Throws Error(Device) on a refusal.
    virtual void jogTo(Point to, double mmPerMinute, const Work& work) = 0;
    // Towards there for as long as `held`, which takes its time to answer.
    virtual void jogWhile(Point to, double mmPerMinute, const std::function<bool()>& held, const Work& work) = 0;
    virtual void home(const Work& work) = 0;

    // Throws Error(Device) where it has no words for an eye.
    virtual void requireEye() const {}
    // For its eye: where the head first sees dark on its way, or light again.
    virtual void goTo(Point to, const Work& work) = 0;
    virtual std::optional<Point> lookAlong(Point to, bool forLight, double mmPerMinute, const Work& work) = 0;

    // Sends the lines from `from` on, as many under way as fit into the machine's buffer and no more; `leading` of them belong to no program,
    // the others are numbered from `number` on. `told` hears of every answer and `seen` of where the machine is; `sending` hears up to which
    // line it will have been sent, before it is. On stop the tool comes up at once, whatever the machine still has, and Cancelled is thrown. Where
    // its language has no word for holding, it is stopped and this returns before the end. One that falls silent is held. `progress` is right however
    // it ends. Throws Error(Device), PositionLost, LinkLost, StoppedUnheard where its stop is in doubt, or Cancelled.
    struct Watch {
        std::function<void(const Streamed&)> told;
        std::function<void(const MachineStatus&)> seen;
        std::function<void(std::size_t)> sending = {};
    };
    virtual void stream(const Rest& lines, std::size_t number, CutControl& control, Streamed& progress, const Watch& watch, const Work& work) = 0;

    // Sends one line and waits for its ok; gives the lines that came before it. Throws Error(Device) on a refusal, LinkLost on silence, and
    // Cancelled on stop. After silence or a stop no further line is sent: its answer could not be told from a late one.
    QStringList ask(const QString& line, const Work& work, int patienceMs = 5000);
    // The numbers of an answer in brackets, as [TAG:1.5,2,3]. Throws Error(Device) where there are not so many.
    std::vector<double> figures(const QString& line, const QString& tag, std::size_t count, const Work& work, int patienceMs = 60'000);

protected:
    static constexpr int waitMs = 10;
    static constexpr int silenceMs = 5000; // without any word: it is there no more
    struct InStep {
        explicit InStep(SerialMachine& m); // throws Error(Device) where they are not
        void done() { machine.inStep_ = true; }
        SerialMachine& machine;
    };
    [[noreturn]] static void silent();
    virtual std::string refusal(const std::string& line, const QString& answer) const;
    // What it says first when it begins, by itself or because it was reset.
    virtual bool isGreeting(const QString&) const { return false; }
    const std::vector<std::string>& raising() const { return raising_; }
    void awaitGreeting() { greetings_ = 1; } // of a reset of ours
    void knowsPlace() { beganAnew_ = false; }
    void send(const QByteArray& bytes);
    // What comes, line by line, until it is what was waited for. Throws LinkLost past the patience.
    void listen(const Work& work, int patienceMs, const std::function<bool(const QString&)>& heard);
    std::optional<QString> readLine(int waitMs); // nothing yet: none. Throws when the line is broken
    bool inStep_ = true;                         // whether the next answer is that of the next line

private:
    std::optional<QString> nextLine(int waitMs);
    std::unique_ptr<QSerialPort> port_;
    QByteArray pending_;
    std::vector<std::string> raising_;
    int greetings_ = 0; // that are still to come, since it was reset
    bool beganAnew_ = false;
};

} // namespace yokai
