// PDF 1.6 through qpdf: a page a sheet and as large, in points (in larger units where
// a side is over 200 in, the most a page may have).
//
// Cut lines are hairlines (0.001 in, which many machines take as "cut this line",
// common practice) in a Separation colour a kind, set to overprint so that they
// knock nothing out of the picture. Images carry their opacity as a soft mask;
// what is not kept prints nothing. A drawing is kept as one, in the size it is printed at as sharp as any printer.
// A picture is stored once however many copies and pages.
#pragma once

#include "base/file.h"
#include "base/work.h"
#include "formats/drawing.h"

#include <span>

namespace yokai {

Bytes writePdf(const Drawing& drawing, Content content = Content::Both, const Work& work = {});
Bytes writePdfOfAll(std::span<const Drawing> sheets, Content content = Content::Both, const Work& work = {});

} // namespace yokai
