// How much memory a job holds, by its own lists of fields: what undo is bounded by.
#pragma once

#include "job/job.h"

#include <cstddef>

namespace yokai {

// Bytes, without those of its pictures, which jobs share.
std::size_t weightOf(const Job& job);

} // namespace yokai
