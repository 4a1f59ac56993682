#include "device/cut_run.h"

#include "base/digest.h"
#include "base/length.h"

#include <QThread>

#include <nlohmann/json.hpp>

#include <charconv>

namespace yokai {

namespace {

// What a line of ours says, as far as going on needs it.
struct Said {
    std::optional<double> x, y;
    std::string feed; // with its letter
    bool moves = false, raises = false, lowers = false;
};

Said saidBy(const std::string& line)
{
    Said out;
    if (line.empty() || line[0] == '(')
        return out;
    for (std::size_t i = 0; i < line.size();) {
        const std::size_t end = std::min(line.find(' ', i), line.size());
        const std::string word = line.substr(i, end - i);
        double value = 0;
        if (word.size() > 1)
            std::from_chars(word.data() + 1, word.data() + word.size(), value);
        switch (word.empty() ? ' ' : word[0]) {
        case 'X':
            out.x = value;
            break;
        case 'Y':
            out.y = value;
            break;
        case 'F':
            out.feed = word;
            break;
        case 'G':
            out.moves = out.moves || (value >= 0 && value <= 3);
            break;
        case 'M':
            out.lowers = out.lowers || value == 3 || value == 4;
            out.raises = out.raises || value == 5;
            break;
        case 'Z':
            (line.starts_with("G1") ? out.lowers : out.raises) = true;
            break;
        default:
            break;
        }
        i = end + 1;
    }
    out.moves = out.moves && out.x && out.y;
    return out;
}

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
        return RunRecord{json.at("program").get<std::string>(),
                         {json.at("confirmed").get<std::size_t>(), json.at("sent").get<std::size_t>()},
                         json.at("finished").get<bool>()};
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    } catch (const Error&) {
        return std::nullopt;
    }
}

CutRun::CutRun(MachineLine& line, Program program, std::filesystem::path record)
    : line_(line), program_(std::move(program)), record_(std::move(record)), digest_(digestOf(program_))
{}

CutRun::CutRun(LinkSpec link, Program program, std::filesystem::path record)
    : own_(std::make_unique<MachineLine>(std::move(link))), line_(*own_), program_(std::move(program)), record_(std::move(record)), digest_(digestOf(program_))
{}

bool CutRun::canGoOn() const
{
    const auto kept = record_.empty() ? std::nullopt : readRecord(record_);
    return kept && kept->program == digest_ && !kept->finished && kept->got.sent > 0 && kept->got.sent <= program_.lines.size();
}

std::size_t CutRun::runsDone() const
{
    return std::size_t(std::upper_bound(program_.done.begin(), program_.done.end(), got_.confirmed) - program_.done.begin());
}

void CutRun::keep(bool finished)
{
    if (!record_.empty())
        writeFile(record_, nlohmann::json{{"program", digest_}, {"confirmed", got_.confirmed}, {"sent", got_.sent}, {"finished", finished}}.dump());
}

void CutRun::start(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds)
{
    const Closing closing{own_.get()};
    got_ = {};
    keptRuns_ = 0;
    keep(false);
    SerialMachine& machine = line_.reached(work);
    machine.reset(); // what it remembers of other programs is not of this one
    machine.greet(work, 3000);
    try {
        stream(machine, 0, {}, control, watch, work);
    } catch (const LinkLost&) {
        line_.close();
        if (got_.sent == 0 || patienceSeconds <= 0)
            throw;
        goOn(control, watch, work, patienceSeconds);
    }
}

// The first line that was not done, by the number the machine says it did last; without one, by where it stands.
std::size_t CutRun::nextLine(const MachineStatus& status) const
{
    // Numbered from 1; all it answered it has done, now that it stands still.
    if (status.line >= 0 && std::size_t(status.line) <= got_.sent)
        return std::max(std::size_t(status.line), got_.confirmed);
    if (got_.sent == got_.confirmed)
        return got_.confirmed;
    std::vector<std::size_t> here;
    constexpr double near = 0.02; // units of the machine
    for (std::size_t k = got_.confirmed > 0 ? got_.confirmed - 1 : 0; k < got_.sent; ++k)
        if (const Said s = saidBy(program_.lines[k]); s.moves && std::hypot(*s.x - status.at.x, *s.y - status.at.y) < near)
            here.push_back(k);
    if (here.size() != 1)
        throw Error(ErrorKind::Device,
                    "where the machine stopped cannot be told for sure: path {} may be cut in part; look at it, and cut what is left as a new cut",
                    std::to_string(runsDone() + 1));
    return here.front() + 1;
}

// What must be said again before a line: units and ways of counting; within a path, that the tool goes down where it stands.
std::vector<std::string> CutRun::leadingTo(std::size_t line) const
{
    std::vector<std::string> out;
    for (const std::string& first : program_.lines) {
        if (!first.starts_with("G2") && !first.starts_with("G17") && !first.starts_with("G90"))
            break;
        out.push_back(first);
    }
    std::string lowered, feed, place, air;
    bool down = false;
    for (std::size_t k = 0; k < line; ++k) {
        const Said s = saidBy(program_.lines[k]);
        if (s.lowers) {
            lowered = program_.lines[k];
            down = true;
        }
        if (s.raises)
            down = false;
        if (!s.feed.empty())
            feed = s.feed;
        if (s.moves)
            place = "G0 X" + plainNumber(*s.x, 5) + " Y" + plainNumber(*s.y, 5);
        if (program_.lines[k] == "M8" || program_.lines[k] == "M9")
            air = program_.lines[k];
    }
    if (!air.empty())
        out.push_back(air);
    if (!place.empty())
        out.push_back(place);
    if (down)
        out.push_back(lowered);
    if (!feed.empty())
        out.push_back("G1 " + feed);
    return out;
}

void CutRun::goOn(CutControl& control, const SerialMachine::Watch& watch, const Work& work, double patienceSeconds)
{
    const Closing closing{own_.get()};
    if (const auto kept = record_.empty() ? std::nullopt : readRecord(record_); kept && kept->program == digest_ && kept->got.sent > got_.sent)
        got_ = kept->got;
    for (int tries = 0;; ++tries) {
        SerialMachine& machine = line_.reached(work, patienceSeconds);
        try {
            // What it still had, it does to the end, also if it was held when nobody was there to let it go.
            MachineStatus status = machine.status(work);
            for (; status.state == MachineState::Run || status.state == MachineState::Hold; status = machine.status(work)) {
                work.check();
                if (status.state == MachineState::Hold)
                    machine.resume();
                work.report(double(got_.confirmed) / double(program_.lines.size()), "waiting for the machine to stop");
                QThread::msleep(20);
            }
            if (status.state == MachineState::Alarm)
                throw Error(ErrorKind::Device,
                            "the machine does not know where it is any more; find its corner again, look at path {}, and cut what is left as a new cut",
                            std::to_string(runsDone() + 1));
            const std::size_t next = nextLine(status);
            machine.reset(); // it stands still: this raises the tool and loses nothing
            machine.greet(work, 3000);
            got_ = {next, next};
            stream(machine, next, leadingTo(next), control, watch, work);
            return;
        } catch (const LinkLost&) {
            line_.close();
            constexpr int most = 5; // times one after another
            if (tries == most || patienceSeconds <= 0)
                throw;
        }
    }
}

void CutRun::stream(SerialMachine& machine, std::size_t from, const std::vector<std::string>& before, CutControl& control, const SerialMachine::Watch& watch,
                    const Work& work)
{
    std::vector<std::string> lines = before;
    for (std::size_t k = from; k < program_.lines.size(); ++k)
        lines.push_back("N" + std::to_string(k + 1) + " " + program_.lines[k]);
    Streamed progress;
    const auto ours = [&](std::size_t n) { return from + (n > before.size() ? n - before.size() : 0); };
    const auto take = [&] { got_ = {ours(progress.confirmed), ours(progress.sent)}; };
    SerialMachine::Watch own = watch;
    own.told = [&](const Streamed& p) {
        progress = p;
        take();
        if (const std::size_t runs = runsDone(); runs != keptRuns_) {
            keptRuns_ = runs;
            keep(false);
        }
        work.report(double(got_.confirmed) / double(program_.lines.size()), "cutting");
        if (watch.told)
            watch.told(got_);
    };
    try {
        machine.stream(lines, 0, control, progress, own, work);
    } catch (...) {
        take();
        keep(false);
        throw;
    }
    take();
    keep(true);
}

} // namespace yokai
