// The shortest way round many stops: what a tool that is up has to travel.
//
// Nearest neighbours first (Bentley, "Fast algorithms for geometric traveling salesman problems", ORSA J. Computing 4, 1992), then
// 2-opt and Or-opt moves among near neighbours, then small random breaks mended again, kept where they shorten it. The
// same stops give the same route.
//
// Unit: the caller's.
#pragma once

#include "base/geometry.h"
#include "base/work.h"

#include <span>
#include <vector>

namespace yokai {

// The order of the stops on a way from `from` past each of them to `to`.
std::vector<int> shortRoute(std::span<const Point> stops, Point from, Point to, const Work& work = {});

} // namespace yokai
