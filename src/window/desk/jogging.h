// The head driven by hand, from the panel and from the bench alike, and marks taken where it stands.
#pragma once

#include "base/geometry.h"

namespace yokai {
class Desk;
}

namespace yokai::edits {

void jogPressed(Desk& desk, Point towards); // a unit vector: a step, or on until the press ends
int markToTake(const Desk& desk);           // the selected one, else the first that is not measured yet; -1: there is none
void takeMark(Desk& desk);                  // and selects the next
void goNearMark(Desk& desk);

} // namespace yokai::edits
