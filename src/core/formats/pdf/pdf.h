// PDF 1.6 through qpdf: one page as large as the sheet, in points.
//
// Cut lines are hairlines (0.001 in, which many machines take as "cut this line",
// common practice) in a Separation colour a kind, set to overprint so that they
// knock nothing out of the picture. Pictures carry their opacity as a soft mask;
// what is not kept prints nothing. A picture is stored once however many copies.
#pragma once

#include "base/file.h"
#include "base/work.h"
#include "formats/drawing.h"

namespace yokai {

struct PdfOptions {
    Content content = Content::Both;
    std::string throughSpot = "CutContour";
};

// The name of a kind's Separation; the through line's can be chosen.
std::string spotName(LineKind kind, const std::string& throughSpot);

Bytes writePdf(const Drawing& drawing, const PdfOptions& options, const Work& work = {});

} // namespace yokai
