// A program on its way to a machine: from the start, or on from where it was left when the link was lost or the window was
// ended, so that nothing is cut twice and what cannot be told is said.
//
// Every line bears its number (the N word), by which the machine says how far it is. How far it got is kept in a file beside the
// program, after every path.
#pragma once

#include "device/machine_line.h"
#include "formats/program/program.h"
#include "machine/machine.h"

#include <filesystem>

namespace yokai {

struct RunRecord {
    std::string program; // its digest
    std::size_t confirmed = 0, sent = 0; // lines: done, and those that may be
    std::optional<Point> stood;          // mm as the machine counts: where it was stopped within line `confirmed`
    bool finished = false;
};
std::optional<RunRecord> readRecord(const std::filesystem::path& file);

class CutRun {
public:
    // `record`: where to keep how far it got; empty: nowhere. The line speaks the program's dialect.
    CutRun(MachineLine& line, Program program, std::filesystem::path record = {});
    CutRun(LinkSpec link, Program program, std::filesystem::path record = {}); // over a line of its own

    // A link that is lost is waited for and the cut goes on; past `patienceSeconds` Error(Device), and goOn() may be tried later, as
    // after a stop.
    void start(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds = 20);
    void goOn(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds = 20);
    // Whether what was kept is of this program, and unfinished.
    bool canGoOn() const;
    // Whether, after a stop, it is known to the place what is left.
    bool knowsWhatIsLeft() const { return stood_.has_value(); }

    std::size_t runsDone() const; // of the program's

private:
    void stream(SerialMachine& machine, CutControl& control, const SerialMachine::Watch& watch, const Work& work);
    bool streamOnce(SerialMachine& machine, CutControl& control, const SerialMachine::Watch& watch, const Work& work);
    void keep(bool finished);
    std::optional<std::size_t> nextLine(const MachineStatus& status) const;

    std::unique_ptr<MachineLine> own_;
    MachineLine& line_;
    Program program_;
    std::filesystem::path record_;
    std::string digest_;
    std::size_t confirmed_ = 0, sent_ = 0; // as RunRecord has them
    std::optional<Point> stood_;
    std::size_t keptRuns_ = 0;
};

} // namespace yokai
