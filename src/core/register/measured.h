// Measured marks as a file: {"marks":[{"design_mm":[x,y],"measured_mm":[x,y]}]},
// mm, y up, (0, 0) the bottom-left corner of the sheet.
#pragma once

#include "base/file.h"
#include "register/fit.h"

#include <string>

namespace yokai {

// Throws Error(Input) saying what is wrong and where.
std::vector<MarkPair> readMeasured(const Bytes& bytes, const std::string& name);

} // namespace yokai
