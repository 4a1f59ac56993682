// The line to a machine, kept open from one thing asked of it to the next: many boards begin anew whenever it is opened, and then
// no longer know where they are. For use on one thread, not the window's.
#pragma once

#include "device/serial_machine.h"
#include "machine/machine.h"

namespace yokai {

class MachineLine {
public:
    // `raising`: what brings the tool up (raisingOf()).
    MachineLine(LinkSpec link, Dialect dialect, std::vector<std::string> raising) : link_(std::move(link)), dialect_(dialect), raising_(std::move(raising)) {}
    MachineLine(LinkSpec link, const Machine& machine) : MachineLine(std::move(link), machine.dialect, raisingOf(machine)) {}
    const LinkSpec& link() const { return link_; }
    Dialect dialect() const { return dialect_; }
    // Greeted and in step. One that is not reached is tried again until the patience is at its end; then throws LinkLost or Error(Device).
    SerialMachine& reached(const Work& work, double patienceSeconds = 0);
    void close() { machine_.reset(); } // it was lost
    bool isOpen() const { return machine_ != nullptr; }
    // Whatever it does, it is to end: told blindly, if the port can be opened at all.
    void quench() noexcept;

private:
    LinkSpec link_;
    Dialect dialect_;
    std::vector<std::string> raising_;
    void open();
    std::unique_ptr<SerialMachine> machine_;
};

} // namespace yokai
