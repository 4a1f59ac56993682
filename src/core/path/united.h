// Polygons put together.
//
// By polyclipping (Vatti's algorithm). Unit: the caller's; finer than 1e-5 nothing is told apart.
// Orientation as in path.h: parts positive, openings negative.
#pragma once

#include "base/work.h"
#include "path/path.h"

namespace yokai {

// All that lies in the one or the other, each by the even-odd rule.
std::vector<Polyline> united(const std::vector<Polyline>& a, const std::vector<Polyline>& b, const Work& work = {});

} // namespace yokai
