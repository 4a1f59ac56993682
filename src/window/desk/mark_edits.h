// Marks that are not printed: features of a picture, as crosses drawn by hand on a thing that was scanned, by which its cut is fitted.
#pragma once

#include "base/geometry.h"

namespace yokai {
class Desk;
}

namespace yokai::edits {

// The feature next to a place of the current sheet becomes a mark, mm, y down; false: nothing stands out there.
bool markFeature(Desk& desk, Point onSheet, double reach);
void removeMark(Desk& desk, int mark);

} // namespace yokai::edits
