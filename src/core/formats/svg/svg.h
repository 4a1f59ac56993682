// SVG 1.1: one user unit a millimetre, y down, the page's size stated in mm so
// that no reader has to guess a scale. Cut kinds are groups named as in
// drawing.h. Pictures are embedded as PNG.
#pragma once

#include "formats/drawing.h"

namespace yokai {

std::string writeSvg(const Drawing& drawing, Content content);

} // namespace yokai
