// Where a path bends more tightly than a tool can follow.
//
// Unit: mm. The curvature of a cubic is taken in closed form, at places close together.
#pragma once

#include "check/faults.h"

namespace yokai {

// Inside corners and curves of a smaller radius than the tool's, one fault for each stretch, at its
// tightest place; its value is the radius there, 0 for a sharp corner. Of an open path, bends to
// either side. What the tool would leave standing by less than a machine's step is none.
Faults tightBends(const Path& path, double toolRadius);

} // namespace yokai
