// What is added where a line's paths come too near to each other, or taken away: it widens a neck, closes a gap or
// parts it.
//
// Unit: mm.
#pragma once

#include "base/work.h"
#include "check/trace.h"
#include "path/boolean.h"

namespace yokai {

// Strips a little wider than the limit along the middles of the narrow stretches nearest to the places, put together.
// Nothing where none is narrow.
Paths widening(const std::shared_ptr<const Paths>& paths, Facing side, double limit, std::span<const Point> at, Combine how, const Work& work = {});

} // namespace yokai
