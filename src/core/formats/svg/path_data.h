// The path data of SVG 1.1 (chapter 8), all its commands. Private to the format.
#pragma once

#include "path/path.h"

#include <string_view>

namespace yokai::svg {

// In the path's own units. What comes after an error in it is left out, as the standard asks.
Paths pathData(std::string_view text);

// A part of an ellipse, by the standard's appendix F.6, as cubics.
void arcTo(Path& path, Point from, double rx, double ry, double turnDegrees, bool large, bool sweep, Point to);

} // namespace yokai::svg
