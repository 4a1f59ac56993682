// HPGL: a pen for each kind of line, 40 units a mm, (0, 0) the sheet's bottom-left corner, y up.
//
// Coordinates are whole units, as every plotter reads them: a place lies up to half a unit, 0.0125 mm, off each way.
// Marks are for print and camera; a plotter would draw or cut them, so there are none.
#pragma once

#include "base/file.h"
#include "base/work.h"
#include "formats/drawing.h"

namespace yokai {

Bytes writeHpgl(const Drawing& drawing, Content content = Content::Cut, const Work& work = {});

} // namespace yokai
