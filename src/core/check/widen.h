// What is added where a line's paths come too near to each other: it widens a neck, or closes a gap.
//
// Unit: mm.
#pragma once

#include "check/trace.h"

namespace yokai {

// Strips a little wider than the limit along the middles of the narrow stretches nearest to the places, put together.
// Nothing where none is narrow.
Paths widening(const std::shared_ptr<const Paths>& paths, Facing side, double limit, std::span<const Point> at, const Work& work = {});

} // namespace yokai
