// Findings in words: one line a person can act on.
#pragma once

#include "job/derived.h"

#include <string>

namespace yokai::batch {

std::string words(const Finding& finding, const Job& job);

} // namespace yokai::batch
