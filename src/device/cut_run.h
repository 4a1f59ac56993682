// A program on its way to a machine: from the start, or on from where it was left when the link was lost or the window was
// ended, so that nothing is cut twice and what cannot be told is said.
//
// Every line bears its number (the N word), by which the machine says how far it is. How far it got is kept in a file beside the
// program every few lines, and what is sent is kept before it is: whatever ends this program, the file knows at least as much as the machine.
#pragma once

#include "device/machine_line.h"
#include "formats/program/program.h"
#include "machine/machine.h"

#include <filesystem>

namespace yokai {

struct RunRecord {
    std::string program; // its digest
    std::size_t confirmed = 0, sent = 0; // lines: done, and those that may have been sent
    std::optional<Point> stood;          // mm as the machine counts: where it was stopped within line `confirmed`
    bool finished = false;
    std::size_t line = 0; // the number the machine said last while it was streamed to; 0: it says none
    bool reset = false;   // it was reset since without having come to rest: what it had in store is gone
    bool lost = false; // where the machine stopped, or where it is, cannot be told: what is left is known only by looking
};
std::optional<RunRecord> readRecord(const std::filesystem::path& file);

// The file of it. Small and written in place while lines are streamed, which must not wait for the disk; whole at the beginning and the end.
class RecordFile {
public:
    explicit RecordFile(std::filesystem::path file) : file_(std::move(file)) {}
    ~RecordFile();
    RecordFile(const RecordFile&) = delete;
    RecordFile& operator=(const RecordFile&) = delete;
    void whole(const RunRecord& record); // throws Error(Output)
    void quickly(const RunRecord& record);

private:
    void close();
    std::filesystem::path file_; // empty: nothing is kept
    int open_ = -1;
};

class CutRun {
public:
    // `record`: where to keep how far it got; empty: nowhere. The line speaks the program's dialect.
    CutRun(MachineLine& line, Program program, std::filesystem::path record = {});
    CutRun(LinkSpec link, Program program, std::filesystem::path record = {}); // over a line of its own

    // A link that is lost is waited for and the cut goes on; past `patienceSeconds` Error(Device), and goOn() may be tried later, as
    // after a stop.
    void start(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds = 20);
    void goOn(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds = 20);
    // Whether what was kept is of this program, unfinished, and known to be so far.
    bool canGoOn() const;
    // Whether it was stopped before any line of the program was sent.
    bool nothingBegun() const { return sent_ == 0; }
    // Whether, after a stop, it is known to the place what is left.
    bool knowsWhatIsLeft() const { return stood_.has_value(); }

    std::size_t runsDone() const; // of the program's

private:
    void stream(SerialMachine& machine, CutControl& control, const SerialMachine::Watch& watch, const Work& work);
    bool streamOnce(SerialMachine& machine, CutControl& control, const SerialMachine::Watch& watch, const Work& work);
    enum class Kept { Under, Finished, Lost };
    void keep(Kept how);
    void keepQuickly();
    void giveUp();
    void stopBlindly();
    void goOnOnce(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds);
    std::optional<std::size_t> nextLine(const MachineStatus& status) const;

    std::unique_ptr<MachineLine> own_;
    MachineLine& line_;
    Program program_;
    std::filesystem::path record_;
    RecordFile kept_;
    std::string digest_;
    std::size_t confirmed_ = 0, sent_ = 0; // as RunRecord has them
    std::size_t said_ = 0;                 // RunRecord::line
    bool reset_ = false;
    std::size_t ahead_ = 0;                // up to which line it is kept that it may have been sent
    std::optional<Point> stood_;
    bool halted_ = false; // the stream that ended last has stopped the machine
};

} // namespace yokai
