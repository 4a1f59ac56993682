// What may go wrong with a job, as data: which rule, where, by how much. The front ends
// say it in words.
#pragma once

#include "base/error.h"
#include "base/geometry.h"
#include "base/id.h"

#include <algorithm>
#include <optional>
#include <string_view>
#include <vector>

namespace yokai {

enum class Severity { Note, Warning, Error };

struct Finding {
    std::string_view code; // of static text: "low-resolution"
    Severity severity = Severity::Warning;
    PieceId piece = {}; // none: the sheet
    LineId line = {};
    Point at;                  // mm, in the piece or on the sheet
    double value = 0;          // what was found, in the code's own unit
    double limit = 0;          // what it was held against
    std::optional<Error> error = std::nullopt; // where a step failed: why
    int sheet = 0; // on which, where it is on one
    bool onSheet() const { return !piece || code == "does-not-fit" || code == "outside-reach" || code == "copies-close"; }
};
using Findings = std::vector<Finding>;

// For which nothing is printed or cut from the window: work outside the margin or the machine's reach. None: null.
inline const Finding* refusal(const Findings& findings)
{
    const auto found = std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.code == "outside-reach"; });
    return found == findings.end() ? nullptr : &*found;
}

} // namespace yokai
