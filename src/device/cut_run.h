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
    Streamed got;
    bool finished = false;
};
std::optional<RunRecord> readRecord(const std::filesystem::path& file);

class CutRun {
public:
    // `record`: where to keep how far it got; empty: nowhere.
    CutRun(MachineLine& line, Program program, std::filesystem::path record = {});
    CutRun(LinkSpec link, Program program, std::filesystem::path record = {}); // over a line of its own

    // A link that is lost is waited for and the cut goes on; past `patienceSeconds` Error(Device), and goOn() may be tried later.
    void start(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds = 20);
    void goOn(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds = 20);
    // Whether what was kept is of this program, and unfinished.
    bool canGoOn() const;

    std::size_t runsDone() const; // of the program's
    const Streamed& got() const { return got_; }

private:
    void stream(SerialMachine& machine, std::size_t from, const std::vector<std::string>& before, CutControl& control, const SerialMachine::Watch& watch,
                const Work& work);
    void keep(bool finished);
    std::size_t nextLine(const MachineStatus& status) const;
    std::vector<std::string> leadingTo(std::size_t line) const;

    std::unique_ptr<MachineLine> own_;
    MachineLine& line_;
    Program program_;
    std::filesystem::path record_;
    std::string digest_;
    Streamed got_;
    std::size_t keptRuns_ = 0;
};

} // namespace yokai
