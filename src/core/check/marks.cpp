// Registration marks that a cutter will not make much of.
#include "check/checks.h"

namespace yokai {

void checkMarks(const CheckGround& ground, Findings& found)
{
    for (const DoubtedMark& d : doubtsOf(ground.job.sheet, ground.derived.sheet.marks)) {
        const auto add = [&](std::string_view code, Severity severity) { found.push_back({code, severity, {}, {}, d.at, d.value, d.limit}); };
        switch (d.why) {
        case MarkDoubt::None:
            break;
        case MarkDoubt::OutsidePrint:
            add("mark-outside-print", Severity::Warning);
            break;
        case MarkDoubt::TooClose:
            add("marks-close", Severity::Warning);
            break;
        case MarkDoubt::InLine:
            add("marks-in-line", Severity::Warning);
            break;
        case MarkDoubt::NoneToSpare:
            add("no-mark-to-spare", Severity::Note);
            break;
        }
    }
}

} // namespace yokai
