#include "words.h"

#include "check/words.h"

namespace yokai::batch {

namespace {

std::string figure(double value, Measure measure)
{
    switch (measure) {
    case Measure::Nothing:
        return "";
    case Measure::Length:
        return formatMm(value, Unit::Mm);
    case Measure::Area:
        return plainNumber(value, 2) + " mm2";
    case Measure::Ppi:
        return plainNumber(value, 0) + " ppi";
    case Measure::Count:
        return plainNumber(value, 0);
    case Measure::Parts:
        return plainNumber(value, 0) + (value == 1 ? " part" : " parts");
    }
    return "";
}

} // namespace

std::string words(const Finding& f, const Job& job)
{
    if (f.error)
        return f.error->what();
    const Piece* piece = find(job, f.piece);
    const LineSpec* line = piece ? find(*piece, f.line) : nullptr;
    const FindingWords& said = wordsOf(f.code);
    std::string out;
    eachPart(
        said.said(f.value), [&](std::string_view text) { out += text; },
        [&](std::string_view name) {
            out += name == "piece"   ? piece ? piece->name : std::string()
                   : name == "line"  ? std::string(line ? yokai::name(line->kind) : "cut")
                   : name == "value" ? figure(f.value, said.value)
                                     : figure(f.limit, said.limit);
        });
    return out;
}

} // namespace yokai::batch
