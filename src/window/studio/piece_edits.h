// Changes to the current piece that several places of the window ask for.
#pragma once

#include "studio/studio.h"

#include <QPointF>

namespace yokai::edits {

// Artwork. `mm` is in the frame as it is shown.
void cropToKept(Studio& studio, Length margin);
void straightenAlong(Studio& studio, QPointF from, QPointF to); // mm: what should be level or upright

// Keep. Places in mm as shown.
void toggleParts(Studio& studio, const std::vector<int>& parts); // keeps what was dropped and drops what was kept
void brush(Studio& studio, const std::vector<QPointF>& way);     // with what is in hand
void rubOutLike(Studio& studio, QPointF at);
void pick(Studio& studio, QPointF at);
void addInside(Studio& studio, const std::vector<QPointF>& outline);

// Cut lines.
void addLine(Studio& studio, bool copy);
void removeLine(Studio& studio);

} // namespace yokai::edits
