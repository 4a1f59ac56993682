// How far each cut landed from the lines it should lie on: those of a cut file, as designed.
//
// Unit: mm on the sheet as designed, y up.
#pragma once

#include "bed.h"

#include "machine/machine.h"
#include "path/near_line.h"

#include <filesystem>
#include <optional>

namespace yokai::standin {

struct Landed {
    double worst = 0, mean = 0; // mm
};

class Lines {
public:
    // By the tool: its kerf, since the cut's edge is meant, and its ways in and out of a line, where there is none. Throws Error(Input).
    Lines(const std::filesystem::path& cutFile, const ToolSpec& tool);
    // None where no line is anywhere near: it is of something else. A blade has to be drawn into its heading `first`.
    std::optional<Landed> landed(const Cut& cut, bool first) const;

private:
    NearLine lines_;
    ToolSpec tool_;
};

} // namespace yokai::standin
