#include "device/cut_run.h"

#include "base/digest.h"
#include "base/length.h"
#include "device/awake.h"

#include <QElapsedTimer>
#include <QThread>

#include <fcntl.h>
#include <unistd.h>

#include <nlohmann/json.hpp>

namespace yokai {

namespace {

// A line that is nobody else's is let go when the run ends, however it does.
struct Closing {
    MachineLine* line;
    ~Closing()
    {
        if (line)
            line->close();
    }
};

std::string digestOf(const Program& program)
{
    Digest d;
    for (const std::string& line : program.lines)
        d.add(line);
    return hexadecimal(d.value());
}

} // namespace

std::optional<RunRecord> readRecord(const std::filesystem::path& file)
{
    try {
        const Bytes bytes = readFile(file, 100'000);
        const auto json = nlohmann::json::parse(bytes.begin(), bytes.end());
        RunRecord out{json.at("program").get<std::string>(), json.at("confirmed").get<std::size_t>(), json.at("sent").get<std::size_t>(), {}, json.at("finished").get<bool>(),
                      json.value("line", std::size_t(0)), json.value("reset", false), json.value("lost", false)};
        if (json.contains("stood"))
            out.stood = Point{json["stood"].at(0).get<double>(), json["stood"].at(1).get<double>()};
        return out;
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    } catch (const Error&) {
        return std::nullopt;
    }
}

namespace {

std::string textOf(const RunRecord& record)
{
    nlohmann::json json{{"program", record.program}, {"confirmed", record.confirmed}, {"sent", record.sent}, {"finished", record.finished}, {"line", record.line}, {"reset", record.reset}, {"lost", record.lost}};
    if (record.stood)
        json["stood"] = {record.stood->x, record.stood->y};
    return json.dump();
}

} // namespace

RecordFile::~RecordFile() { close(); }

void RecordFile::close()
{
    if (open_ >= 0)
        ::close(open_);
    open_ = -1;
}

void RecordFile::whole(const RunRecord& record)
{
    close();
    if (!file_.empty())
        writeFile(file_, textOf(record));
}

void RecordFile::quickly(const RunRecord& record)
{
    if (file_.empty())
        return;
    if (open_ < 0)
        open_ = ::open(file_.c_str(), O_WRONLY | O_CLOEXEC);
    constexpr std::size_t room = 512; // more than it ever has; spaces at its end are nothing
    std::string text = textOf(record);
    text.resize(std::max(room, text.size()), ' ');
    if (open_ < 0 || ::pwrite(open_, text.data(), text.size(), 0) != ssize_t(text.size()))
        throw Error(ErrorKind::Output, "cannot keep how far the cut is in '{}'; make room there", file_.string());
}

CutRun::CutRun(MachineLine& line, Program program, std::filesystem::path record)
    : line_(line), program_(std::move(program)), record_(record), kept_(std::move(record)), digest_(digestOf(program_))
{}

CutRun::CutRun(LinkSpec link, Program program, std::filesystem::path record)
    : own_(std::make_unique<MachineLine>(std::move(link), program.dialect, program.raise)), line_(*own_), program_(std::move(program)), record_(record), kept_(std::move(record)),
      digest_(digestOf(program_))
{}

bool CutRun::canGoOn() const
{
    const auto kept = record_.empty() ? std::nullopt : readRecord(record_);
    return kept && kept->program == digest_ && !kept->finished && !kept->lost && kept->sent > 0 && kept->sent <= program_.lines.size();
}

std::size_t CutRun::runsDone() const
{
    return std::size_t(std::upper_bound(program_.done.begin(), program_.done.end(), confirmed_) - program_.done.begin());
}

void CutRun::keep(Kept how) { kept_.whole({digest_, confirmed_, sent_, stood_, how == Kept::Finished, said_, reset_, how == Kept::Lost}); }

void CutRun::keepQuickly() { kept_.quickly({digest_, confirmed_, std::max(sent_, ahead_), stood_, false, said_, reset_, false}); }

void CutRun::start(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds)
{
    const Closing closing{own_.get()};
    const Awake awake("a machine is cutting");
    confirmed_ = sent_ = ahead_ = said_ = 0;
    reset_ = false;
    stood_.reset();
    keep(Kept::Under);
    SerialMachine& machine = line_.reached(work);
    machine.reset(); // what it remembers of other programs is not of this one
    machine.greet(work, 3000);
    try {
        stream(machine, control, watch, work);
    } catch (const LinkLost&) {
        line_.close();
        if (sent_ == 0 || patienceSeconds <= 0) {
            giveUp();
            throw;
        }
        goOn(control, watch, work, patienceSeconds);
    }
}

// The first line that is not done or done in part, by the number the machine says it did last; without one, by where it stands.
std::optional<std::size_t> CutRun::nextLine(const MachineStatus& status) const
{
    const bool counts = status.line >= 0 && std::size_t(status.line) <= sent_;
    // Numbered from 1; all it answered it has done, if it was not stopped in the middle of it.
    if (counts && status.state == MachineState::Idle)
        return std::max(std::size_t(status.line), confirmed_);
    if (sent_ == confirmed_ && status.state == MachineState::Idle && !reset_ && said_ == 0)
        return confirmed_;
    // Answered is not done: what was answered may lie in its memory, unless it stands still with nothing left.
    constexpr std::size_t memory = 40; // lines, of small controllers
    // One that counts and says no number was reset since: what it had in store is gone.
    if (!counts && said_ > 0)
        return firstNotDone(program_, said_ - 1, std::min(sent_, said_ + memory), {status.at, status.down});
    if (counts) // the line it says, or the next
        return firstNotDone(program_, std::size_t(std::max(1, status.line)) - 1, std::min(sent_, pastNextMove(program_, std::size_t(status.line))),
                            {status.at, status.down});
    const std::size_t from = status.state == MachineState::Idle && !reset_ ? confirmed_ : confirmed_ - std::min(confirmed_, memory);
    return firstNotDone(program_, from, sent_, {status.at, status.down});
}

// Nothing more is heard of it: it is held and reset blindly, and what it had in store is gone if it hears that.
void CutRun::giveUp()
{
    line_.quench();
    reset_ = true;
    if (sent_ > 0)
        keep(Kept::Under);
}

// Told blindly, then asked whether it heard. Throws StoppedUnheard.
void CutRun::stopBlindly()
{
    giveUp();
    try {
        line_.reached({}).raiseTool({});
    } catch (const Error&) {
        throw StoppedUnheard();
    }
}

void CutRun::goOn(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds)
{
    const Closing closing{own_.get()};
    const Awake awake("a machine is cutting");
    if (const auto kept = record_.empty() ? std::nullopt : readRecord(record_); kept && kept->program == digest_ && kept->sent > sent_) {
        confirmed_ = kept->confirmed;
        sent_ = kept->sent;
        stood_ = kept->stood;
        said_ = kept->line;
        reset_ = kept->reset;
    }
    for (int tries = 0;; ++tries) {
        try {
            goOnOnce(control, watch, work, patienceSeconds);
            return;
        } catch (const LinkLost&) {
            constexpr int most = 5; // times one after another
            if (tries == most || patienceSeconds <= 0 || !line_.isOpen()) {
                giveUp();
                throw;
            }
            line_.close();
        }
    }
}

// Throws LinkLost with the line open where it may be tried again.
void CutRun::goOnOnce(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds)
{
    try {
        SerialMachine& machine = line_.reached(work, patienceSeconds);
        // What it still had, it does to the end, also if it was held when nobody was there to let it go.
        MachineStatus status = machine.status(work);
        for (; status.state == MachineState::Run || status.state == MachineState::Hold; status = machine.status(work)) {
            work.check();
            if (status.state == MachineState::Hold)
                machine.resume();
            work.report(double(confirmed_) / double(program_.lines.size()), "waiting for the machine to stop");
            QThread::msleep(20);
        }
        if (status.state == MachineState::Alarm || machine.beganAnew())
            throw PositionLost(status.state == MachineState::Alarm ? "the machine is locked after an alarm" : "the machine began anew");
        // Where it was stopped by us it may have been driven away from since.
        if (!stood_) {
            const auto next = nextLine(status);
            if (!next) {
                keep(Kept::Lost);
                throw Error(ErrorKind::Device, "where the machine stopped cannot be told for sure: path {} may be cut in part; look at it, and cut what is left as a new cut",
                            std::to_string(runsDone() + 1));
            }
            stood_ = status.at;
            confirmed_ = sent_ = *next;
        }
        machine.reset(); // it stands still: nothing is lost, and what is left begins with the tool raised
        machine.greet(work, 3000);
        stream(machine, control, watch, work);
    } catch (const PositionLost&) {
        keep(Kept::Lost);
        line_.quench();
        throw;
    } catch (const Cancelled&) {
        // While it is streamed to it was stopped there; while it is waited for nobody else stops it.
        if (!halted_)
            stopBlindly();
        throw;
    }
}

// From the first line that is not done, until the end. Throws.
void CutRun::stream(SerialMachine& machine, CutControl& control, const SerialMachine::Watch& watch, const Work& work)
{
    while (!streamOnce(machine, control, watch, work)) {
        while (control.hold) {
            work.check();
            QThread::msleep(20);
        }
    }
}

// False: it was held, and so stopped.
bool CutRun::streamOnce(SerialMachine& machine, CutControl& control, const SerialMachine::Watch& watch, const Work& work)
{
    const std::size_t from = confirmed_;
    const std::optional<Point> stoodBefore = stood_;
    const Rest rest = restOf(program_, from, stood_);
    Streamed progress;
    QElapsedTimer sinceKept;
    const auto take = [&] {
        const auto ours = [&](std::size_t n) { return from + (n > rest.leading ? n - rest.leading : 0); };
        // Where it was stopped before counts until it has gone on from there.
        if (progress.sent > rest.leading)
            stood_.reset();
        confirmed_ = ours(progress.confirmed);
        sent_ = ours(progress.sent);
        if (!progress.stood)
            return;
        if (const auto next = nextLine(*progress.stood)) {
            confirmed_ = *next;
            sent_ = std::max(sent_, confirmed_);
            stood_ = progress.stood->at;
        } else if (progress.confirmed <= rest.leading) { // on its way to where it goes on
            confirmed_ = sent_ = from;
            stood_ = stoodBefore;
        }
    };
    halted_ = reset_ = false;
    said_ = 0; // it was reset before this
    ahead_ = sent_;
    SerialMachine::Watch own = watch;
    own.seen = [&](const MachineStatus& status) {
        if (status.line > 0 && progress.sent > rest.leading)
            said_ = std::max(said_, std::size_t(status.line));
        if (watch.seen)
            watch.seen(status);
    };
    own.sending = [&](std::size_t upTo) {
        // Some more than is sent now, so that it is not written for every line; thousands a second are kept in larger steps.
        constexpr std::size_t least = 16;
        const std::size_t will = from + (upTo > rest.leading ? upTo - rest.leading : 0);
        if (will <= ahead_ && ahead_ > 0)
            return;
        const std::size_t step = sinceKept.isValid() && sinceKept.elapsed() < 50 ? std::min<std::size_t>(2 * (ahead_ > sent_ ? ahead_ - sent_ : least), 512) : least;
        sinceKept.start();
        ahead_ = std::max<std::size_t>(1, std::min(will + step, program_.lines.size()));
        keepQuickly();
    };
    own.told = [&](const Streamed& p) {
        progress = p;
        take();
        work.report(double(confirmed_) / double(program_.lines.size()), "cutting");
        if (watch.told)
            watch.told({confirmed_, sent_, {}});
    };
    try {
        machine.stream(rest, from + 1, control, progress, own, work);
    } catch (const LinkLost&) {
        take();
        keep(Kept::Under);
        throw;
    } catch (const PositionLost&) {
        take();
        stood_.reset();
        halted_ = true;
        keep(Kept::Lost);
        throw;
    } catch (...) {
        take();
        halted_ = true;
        // Before anything was done it is as if it had never begun.
        keep(stood_ ? Kept::Under : sent_ == 0 ? Kept::Finished : Kept::Lost);
        throw;
    }
    take();
    const bool whole = !progress.stood;
    keep(whole ? Kept::Finished : Kept::Under);
    return whole;
}

} // namespace yokai
