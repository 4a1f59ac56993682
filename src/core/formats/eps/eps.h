// EPS Level 3 (PostScript Language Reference, third edition): the sheet in points, spot colours as in the PDF.
//
// PostScript knows no soft transparency: each picture is clipped to the outline of what is printed of it, and where it
// is half clear within, it is mixed with white. Its pixels are stored once however many copies lie on the sheet.
#pragma once

#include "base/file.h"
#include "base/work.h"
#include "formats/drawing.h"

namespace yokai {

Bytes writeEps(const Drawing& drawing, Content content = Content::Both, const Work& work = {});

} // namespace yokai
