// A plotter with a knife that takes HPGL and answers about its buffer, as the plotters' interfacing manuals have it (from memory: the
// manuals themselves are not at hand): ESC.B how many characters there is room for, ESC.O whether it has anything left to do, ESC.K
// to forget what it has; both out of turn. In turn OA, where it is and whether its pen is down, and OE, what it did not understand.
#pragma once

#include "device/serial_machine.h"

namespace yokai {

// "1200,840,1": units, and whether the pen is down; nothing where it is no such answer.
std::optional<MachineStatus> plotterStatusFrom(const QString& line);

class HpglMachine : public SerialMachine {
public:
    explicit HpglMachine(const QString& port, int baud = 9600) : SerialMachine(port, baud) {}

    void greet(const Work& work, int patienceMs = 3000) override;
    // Where it stands is asked in turn, so that one that is busy says only that it is.
    MachineStatus status(const Work& work, int patienceMs = 2000) override;
    void raiseTool(const Work& work) override;
    void reset() override;
    void quench() noexcept override;
    void resume() override {} // it has no word for holding
    void jogTo(Point to, double mmPerMinute, const Work& work) override;
    void jogWhile(Point to, double mmPerMinute, const std::function<bool()>& held, const Work& work) override;
    void home(const Work& work) override;
    void requireEye() const override;
    void goTo(Point to, const Work& work) override;
    std::optional<Point> lookAlong(Point to, bool forLight, double mmPerMinute, const Work& work) override;
    void stream(const Rest& lines, std::size_t number, CutControl& control, Streamed& progress, const Watch& watch, const Work& work) override;

private:
    int figure(char request, const Work& work, int patienceMs);
    MachineStatus place(const Work& work, int patienceMs);
    void untilDone(const Work& work);
    void requireUnderstood(const Work& work);
    std::optional<MachineStatus> halt();
    struct Streaming;
    bool feed(const std::vector<std::string>& lines, const CutControl& control, Streamed& progress, Streaming& s, const Watch& watch, const Work& work);
    static QByteArray next(const std::vector<std::string>& lines, Streamed& progress, Streaming& s);
};

} // namespace yokai
