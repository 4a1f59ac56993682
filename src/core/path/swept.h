// What a round tip covers on its way: a brush's stroke, or a strip of a width along a line.
//
// By polyclipping (Vatti's algorithm), then fitted with curves to within a hundredth of the tip's radius.
// Unit: the caller's; finer than 1e-5 nothing is told apart. Orientation as in path.h: parts positive, openings negative.
#pragma once

#include "base/work.h"
#include "path/path.h"

#include <span>

namespace yokai {

// All that lies within `radius` of the ways, put together. A way of one point is a disc. Nothing of no ways.
Paths swept(std::span<const Polyline> ways, double radius, const Work& work = {});

} // namespace yokai
