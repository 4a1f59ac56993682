#include "words.h"

namespace yokai::batch {

std::string words(const Finding& f, const Job& job)
{
    if (f.error)
        return f.error->what();
    const Piece* piece = find(job, f.piece);
    const LineSpec* line = piece ? find(*piece, f.line) : nullptr;
    const std::string name = piece ? piece->name : std::string();
    const auto parts = [&] { return plainNumber(f.value, 0) + (f.value == 1 ? " part" : " parts"); };
    const auto lineText = [&](const std::string& does, const char* then) {
        return filled("the {} line at {} {} of '{}'; {}", {line ? yokai::name(line->kind) : "cut", formatMm(f.limit, Unit::Mm), does, name, then});
    };
    if (f.code == "low-resolution")
        return filled("'{}' has {} ppi at this size; under {} it prints soft", {name, plainNumber(f.value, 0), plainNumber(f.limit, 0)});
    if (f.code == "line-vanished")
        return lineText("leaves nothing", "use a smaller inward offset");
    if (f.code == "parts-vanished")
        return lineText("leaves nothing of " + parts(), "use a smaller inward offset or drop them");
    if (f.code == "parts-split")
        return lineText("splits " + parts(), "use a smaller inward offset or join gaps");
    if (f.code == "does-not-fit")
        return filled("{} of {} copies of '{}' fit on the sheet; use fewer, a smaller gap or a larger sheet", {plainNumber(f.value, 0), plainNumber(f.limit, 0), name});
    return std::string(f.code);
}

} // namespace yokai::batch
