// PNG: the print as pixels, at any resolution; clear where nothing is printed. White is no part of it, and cut lines, where they are
// asked for, are there to be looked at: a pixel wide at least.
#pragma once

#include "base/file.h"
#include "base/work.h"
#include "formats/drawing.h"

namespace yokai {

// Throws Error(Usage) where the sheet at this resolution is larger than memory should hold.
Bytes writePng(const Drawing& drawing, Content content = Content::Print, const Work& work = {});

} // namespace yokai
