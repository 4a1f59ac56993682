// SVG 1.1: one user unit a millimetre, y down, the page's size stated in mm so
// that no reader has to guess a scale. Cut kinds are groups named as in
// base/line_kind.h; what is engraved is in a group of that name. Images are embedded as PNG.
#pragma once

#include "base/file.h"
#include "formats/drawing.h"

namespace yokai {

Bytes writeSvg(const Drawing& drawing, Content content = Content::Both, const Work& work = {});

// Closed outlines filled with black, what lies within one open again, and open lines drawn fine: a drawing without colours, to be looked at. mm.
std::string svgOfShapes(const CutItems& items, double width, double height);

} // namespace yokai
