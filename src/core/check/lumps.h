// Where a path bends to and fro faster than a tool follows.
//
// Unit: mm.
#pragma once

#include "check/faults.h"

namespace yokai {

// One fault for each lumpy stretch: three bends or more, one after another, to alternate sides, each
// shorter than a few tool radii. Its value is the swing: how far it goes to and fro.
Faults lumps(const Path& path, double toolRadius);

} // namespace yokai
