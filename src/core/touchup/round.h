// Corners rounded by the arc that touches both sides.
#pragma once

#include "path/cut.h"

namespace yokai {

// The path with the corner at the end of a segment rounded; nothing where the arc would reach past the next
// corner, or does not touch both sides.
std::optional<Path> rounded(const Path& path, std::size_t node, double radius);
double largestRadius(const Path& path, std::size_t node, double atMost); // of those that fit

} // namespace yokai
