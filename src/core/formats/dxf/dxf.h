// DXF (AC1015) through dxflib: mm, y up, (0, 0) the bottom-left corner.
//
// Curves are written as closed polylines within 0.005 mm, the one curve every
// cutter's reader takes; layers are named as in drawing.h, marks are circles on
// MARKS. DXF carries no pictures: with Content::Print only the marks are written.
#pragma once

#include "formats/drawing.h"

namespace yokai {

std::string writeDxf(const Drawing& drawing, Content content);

} // namespace yokai
