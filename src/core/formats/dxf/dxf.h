// DXF (AC1015) through dxflib: mm, y up, (0, 0) the bottom-left corner.
//
// Curves are written as closed polylines within 0.005 mm, the one curve every
// cutter's reader takes; layers are named as in base/line_kind.h, marks are circles on
// MARKS. DXF carries no pictures: with Content::Print only the marks are written.
#pragma once

#include "base/file.h"
#include "formats/drawing.h"

namespace yokai {

Bytes writeDxf(const Drawing& drawing, Content content = Content::Both, const Work& work = {});

} // namespace yokai
