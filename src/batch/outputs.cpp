#include "outputs.h"

#include "apart.h"
#include "base/file.h"
#include "words.h"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <iostream>

namespace yokai::batch {

double now() { return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

bool isJob(const std::string& path) { return std::filesystem::path(path).extension() == ".yokai"; }

void Outputs::add(const std::string& file, Job job, const Derived& derived)
{
    giveIds(job);
    job.nested = nestedOf(derived);
    files_.emplace_back(file, writeProject(job));
}

void Outputs::add(const std::string& file, const Drawing& drawing, Content content)
{
    if (!file.empty())
        files_.emplace_back(file, written(*formatOf(file), drawing, content));
}

void Outputs::write() const
{
    std::vector<std::string> names;
    for (const auto& [file, bytes] : files_)
        names.push_back(file);
    requireApart(names, inputsOf(options_));
    for (const auto& [file, bytes] : files_)
        writeFile(file, bytes);
}

Json timing(const Derived& d, double write, double total)
{
    const auto of = [&](const char* step) {
        const auto found = d.milliseconds.find(step);
        return found == d.milliseconds.end() ? 0.0 : found->second;
    };
    return {{"decode", of("decode")}, {"keep", of("keep")},       {"outline", of("outline")}, {"offset", of("offset")}, {"fit", of("fit")},
            {"bleed", of("bleed")},   {"touchup", of("touchup")}, {"layout", of("layout")},   {"check", of("check")},   {"write", write},
            {"total", total}};
}

int strictCode(const Job& job, const Derived& d, bool strict, bool onSheet)
{
    for (const Finding& f : d.findings)
        if (strict && f.severity == Severity::Error && (onSheet || !f.onSheet())) {
            std::cerr << "yokai-batch: " << words(f, job) << "\n";
            return 1;
        }
    return 0;
}

void requireSound(const Derived& d, bool onSheet)
{
    for (const PieceResult& p : d.pieces)
        if (p.problem)
            throw *p.problem;
    if (onSheet && d.sheet.problem)
        throw *d.sheet.problem;
}

void requireSomething(const Job& job, const Derived& d, bool onSheet)
{
    requireSound(d, onSheet);
    bool asked = false, left = false;
    for (const PieceResult& piece : d.pieces)
        for (const LayerResult& layer : piece.layers)
            for (const CutLine& line : layer.lines) {
                asked = true;
                left = left || (line.paths && !line.paths->empty());
            }
    const auto said = [&](std::string_view code) -> std::string {
        const auto f = std::find_if(d.findings.begin(), d.findings.end(), [&](const Finding& finding) { return finding.code == code; });
        return f == d.findings.end() ? std::string() : words(*f, job);
    };
    if (asked && !left) {
        const std::string why = said("line-vanished");
        throw Error(ErrorKind::Input, "{}", why.empty() ? "no cut line of '" + job.name + "' is left; change its lines" : why);
    }
    if (!onSheet)
        return;
    if (d.sheet.placements.empty()) {
        const std::string why = said("does-not-fit");
        throw Error(ErrorKind::Input, "{}", why.empty() ? "nothing of '" + job.name + "' is placed on the sheet; ask for copies" : why);
    }
}

int endOf(const Job& job, const Derived& d, bool strict, bool onSheet)
{
    if (const int code = strictCode(job, d, strict, onSheet))
        return code;
    for (const Finding& f : d.findings)
        if (f.code == "line-vanished")
            std::cerr << "yokai-batch: " << words(f, job) << "\n";
    if (onSheet && d.sheet.sheets > 1)
        std::cerr << "yokai-batch: " << d.sheet.placements.size() << " copies take " << d.sheet.sheets << " sheets\n";
    return 0;
}

} // namespace yokai::batch
