// Registration marks that a cutter will not make much of.
#include "check/checks.h"

namespace yokai {

namespace {

constexpr struct {
    MarkDoubt why;
    std::string_view code;
    Severity severity;
} doubts[] = {{MarkDoubt::OutsidePrint, "mark-outside-print", Severity::Warning},
             {MarkDoubt::TooClose, "marks-close", Severity::Warning},
             {MarkDoubt::InLine, "marks-in-line", Severity::Warning},
             {MarkDoubt::NoneToSpare, "no-mark-to-spare", Severity::Note}};

} // namespace

void checkMarks(const CheckGround& ground, Findings& found)
{
    for (const DoubtedMark& d : doubtsOf(ground.job.sheet, ground.derived.sheet.marks))
        for (const auto& row : doubts)
            if (row.why == d.why)
                found.push_back({row.code, row.severity, {}, {}, d.at, d.value, d.limit});
}

} // namespace yokai
