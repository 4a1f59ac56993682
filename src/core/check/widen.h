// What is added where a line's paths come too near to each other: it widens a neck, or closes a gap.
//
// Unit: mm.
#pragma once

#include "check/trace.h"

namespace yokai {

// A strip a little wider than the limit along the middle of the narrow stretch nearest to a place. Nothing where
// none is narrow.
Paths widening(const std::shared_ptr<const Paths>& paths, Facing side, double limit, Point at);

} // namespace yokai
