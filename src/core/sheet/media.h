// Sheets and rolls that are sold everywhere.
#pragma once

#include "sheet/spec.h"

#include <span>
#include <string>

namespace yokai {

// ISO 216 A and B sizes, those of ANSI/ASME Y14.1 (Letter and Tabloid are its A and B) with Legal, and cutting mats.
std::span<const Media> knownMedia();
// Rolls by their width, as long as a maker says; their height here is what one starts with. Common practice.
std::span<const Media> knownRolls();
// A known name (in any case) or WxH as in 210x297mm. Throws Error(Usage).
Media mediaFrom(const std::string& text);

} // namespace yokai
