#include "job/derive.h"

#include "job/piece_chain.h"

namespace yokai {

namespace {

void findInPiece(const Piece& piece, int index, const PieceResult& result, std::vector<Finding>& findings)
{
    if (result.problem) {
        findings.push_back({"no-cut-line", Severity::Error, index, {}, result.problem->what()});
        return;
    }
    const double ppi = result.pxPerMm * 25.4;
    if (ppi < 149.5)
        findings.push_back({"low-resolution",
                            Severity::Warning,
                            index,
                            {result.width / 2, result.height / 2},
                            "'" + piece.name + "' has " + plainNumber(ppi, 0) + " ppi at this size; under 150 it prints soft"});
    const auto find = [&](const char* code, Severity severity, const CutLine& line, const std::string& what, const char* then) {
        findings.push_back(
            {code,
             severity,
             index,
             {result.width / 2, result.height / 2},
             std::string("the ") + name(line.kind) + " line at " + formatLength(line.offset, Unit::Mm) + " " + what + " of '" + piece.name + "'; " + then});
    };
    const auto parts = [](int n) { return std::to_string(n) + (n == 1 ? " part" : " parts"); };
    for (const CutLine& line : result.lines) {
        if (line.paths->empty())
            find("line-vanished", Severity::Error, line, "leaves nothing", "use a smaller inward offset");
        else if (line.lostParts > 0)
            find("parts-vanished", Severity::Warning, line, "leaves nothing of " + parts(line.lostParts), "use a smaller inward offset or drop them");
        if (line.splitParts > 0)
            find("parts-split", Severity::Warning, line, "splits " + parts(line.splitParts), "use a smaller inward offset or join gaps");
    }
}

} // namespace

Derived derive(const Job& job, StepCache& cache, const Work& work, Want want)
{
    Derived out;
    std::vector<ToPlace> toPlace;
    for (std::size_t i = 0; i < job.pieces.size(); ++i) {
        const Piece& piece = job.pieces[i];
        work.report(double(i) / double(job.pieces.size() + 1), piece.name);
        PieceResult result;
        try {
            derivePiece(piece, cache, want, result, out.milliseconds, work);
        } catch (const Error& e) {
            result.problem = e;
            result.lines.clear();
            if (result.width <= 0) { // the asked size itself makes no sense
                result.pxPerMm = assumedPpi / 25.4;
                result.width = piece.artwork.picture.info.width / result.pxPerMm;
                result.height = piece.artwork.picture.info.height / result.pxPerMm;
            }
        }
        findInPiece(piece, int(i), result, out.findings);
        toPlace.push_back({result.problem ? Rect::nothing() : result.box, piece.copies});
        out.pieces.push_back(std::move(result));
    }
    work.report(double(job.pieces.size()) / double(job.pieces.size() + 1), "sheet");
    try {
        out.sheet = layOut(job.sheet, toPlace);
        for (std::size_t i = 0; i < toPlace.size(); ++i)
            if (!out.pieces[i].problem && (out.sheet.placed[i] < out.sheet.asked[i] || out.sheet.placed[i] == 0)) {
                const std::string asked = out.sheet.asked[i] < 0 ? "one" : std::to_string(out.sheet.asked[i]);
                if (out.sheet.asked[i] != 0)
                    out.findings.push_back({"does-not-fit",
                                            Severity::Warning,
                                            int(i),
                                            {},
                                            std::to_string(out.sheet.placed[i]) + " of " + asked + " copies of '" + job.pieces[i].name +
                                                "' fit on the sheet; use fewer, a smaller gap or a larger sheet"});
            }
    } catch (const Error& e) {
        out.sheet.width = job.sheet.width();
        out.sheet.height = job.sheet.height();
        out.sheet.asked.assign(job.pieces.size(), 0);
        out.sheet.placed.assign(job.pieces.size(), 0);
        out.findings.push_back({"sheet", Severity::Error, -1, {}, e.what()});
    }
    return out;
}

} // namespace yokai
