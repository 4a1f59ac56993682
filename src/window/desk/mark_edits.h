// Marks that are not printed: features of a picture, as crosses drawn by hand on a thing that was scanned, by which its cut is fitted.
#pragma once

#include "base/geometry.h"

namespace yokai {
class Desk;
}

namespace yokai::edits {

// The feature next to a place of the current sheet becomes a mark, mm, y down; false: nothing stands out there.
bool markFeature(Desk& desk, Point onSheet, double reach);
// One of them to another feature of its picture, as it is snapped to where it is pressed; false: nothing stands out there, and it stays.
bool moveFeature(Desk& desk, int mark, Point onSheet, double reach);
bool isFeature(const Desk& desk, int mark);
void removeMark(Desk& desk, int mark);

} // namespace yokai::edits
