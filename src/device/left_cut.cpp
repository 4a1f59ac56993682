#include "device/left_cut.h"

#include "formats/machine/own_files.h"

#include <nlohmann/json.hpp>

namespace yokai {

namespace {

constexpr std::size_t largest = 500'000'000; // bytes of a program

std::filesystem::path programIn(const std::filesystem::path& folder) { return folder / "cut.json"; }
std::filesystem::path machineIn(const std::filesystem::path& folder) { return folder / "machine.json"; }

} // namespace

std::filesystem::path recordIn(const std::filesystem::path& folder) { return folder / "how-far.json"; }

void keepCut(const std::filesystem::path& folder, const LeftCut& cut)
{
    forgetCut(folder);
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    writeFile(machineIn(folder), writeMachine(cut.machine));
    const nlohmann::json json{{"name", cut.name},
                              {"lines", cut.program.lines},
                              {"done", cut.program.done},
                              {"done_by", cut.program.doneBy},
                              {"seconds", cut.program.seconds}};
    writeFile(programIn(folder), json.dump());
}

std::optional<LeftCut> leftCut(const std::filesystem::path& folder)
{
    std::error_code error;
    if (!std::filesystem::exists(programIn(folder), error) || !std::filesystem::exists(recordIn(folder), error))
        return std::nullopt;
    try {
        const Bytes bytes = readFile(programIn(folder), largest);
        const auto json = nlohmann::json::parse(bytes.begin(), bytes.end());
        LeftCut out;
        out.name = json.at("name").get<std::string>();
        out.machine = openMachine(machineIn(folder));
        out.program = {out.machine.dialect, json.at("lines").get<std::vector<std::string>>(), json.at("done").get<std::vector<std::size_t>>(),
                       json.at("done_by").get<std::vector<double>>(), json.at("seconds").get<double>()};
        out.program.raise = raisingOf(out.machine);
        const auto record = readRecord(recordIn(folder));
        if (!record || record->finished || record->sent == 0)
            return std::nullopt;
        CutRun run(out.machine.link, out.program, recordIn(folder));
        out.known = run.canGoOn();
        out.runs = std::size_t(std::upper_bound(out.program.done.begin(), out.program.done.end(), record->confirmed) - out.program.done.begin());
        return out;
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    } catch (const Error&) {
        return std::nullopt;
    }
}

void forgetCut(const std::filesystem::path& folder)
{
    std::error_code error; // one that cannot be forgotten is asked about again
    for (const auto& file : {programIn(folder), machineIn(folder)})
        std::filesystem::remove(file, error);
    std::filesystem::remove(recordIn(folder), error);
}

} // namespace yokai
