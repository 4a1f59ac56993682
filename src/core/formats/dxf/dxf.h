// DXF through dxflib: mm, y up, (0, 0) the bottom-left corner.
//
// Curves are polylines of arcs and lines within 0.002 mm; or, for the oldest readers, polylines of short lines within
// 0.005 mm in the form of release 12; or splines, which are the curves themselves. Layers are named as in base/line_kind.h, marks are circles on
// MARKS, outlines of what is engraved as a fill polylines on ENGRAVE. DXF carries no pictures: with Content::Print only the marks are written.
#pragma once

#include "base/file.h"
#include "formats/drawing.h"

namespace yokai {

Bytes writeDxf(const Drawing& drawing, Content content = Content::Both, const Work& work = {});

} // namespace yokai
