// A machine that answers each line of G-code with ok or error:n, tells its state when asked by ?, and heeds ! (hold), ~ (resume)
// and reset at once, as open-source motion firmware documents it.
#pragma once

#include "device/serial_machine.h"

namespace yokai {

// "<Idle|MPos:1.000,2.000,0.000|Bf:15,128|FS:0,0>"; nothing where it is no such line.
std::optional<MachineStatus> statusFrom(std::string_view line);
// What a number of a refusal or of an alarm means and what to do; from the firmware's documentation, in words of our own.
std::string meaningOfError(int number);
std::string meaningOfAlarm(int number);

class GcodeMachine : public SerialMachine {
public:
    // `buffer`: characters it takes in before it answers.
    explicit GcodeMachine(const QString& port, int baud = 115200, int buffer = 127) : SerialMachine(port, baud), buffer_(buffer) {}

    void greet(const Work& work, int patienceMs = 3000) override;
    MachineStatus status(const Work& work, int patienceMs = 2000) override;
    void raiseTool(const Work& work) override;
    void reset() override;
    void quench() noexcept override;
    void resume() override;
    void jogTo(Point to, double mmPerMinute, const Work& work) override;
    void jogWhile(Point to, double mmPerMinute, const std::function<bool()>& held, const Work& work) override;
    void home(const Work& work) override;
    void goTo(Point to, const Work& work) override;
    std::optional<Point> lookAlong(Point to, bool forLight, double mmPerMinute, const Work& work) override;
    void stream(const Rest& lines, std::size_t number, CutControl& control, Streamed& progress, const Watch& watch, const Work& work) override;

private:
    std::string refusal(const std::string& line, const QString& answer) const override;
    struct Streaming;
    bool isGreeting(const QString& line) const override;
    struct Halted {
        std::optional<MachineStatus> stands; // where it is sure of its place
        bool raised = false;                 // it said so
    };
    Halted halt();
    void requirePlace(const MachineStatus& status, const Streaming& s, const Streamed& progress) const;
    void hear(const QString& said, Streaming& s, Streamed& progress, const Watch& watch);
    std::optional<MachineStatus> heard(const QString& line);
    int buffer_;
    std::optional<Point> offset_; // of its own zero from where programs count; none: it has not said yet
};

} // namespace yokai
