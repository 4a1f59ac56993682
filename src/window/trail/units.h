// What the unit of a drawing may be that says no size, each with the size it makes.
#pragma once

#include "theme/controls.h"

#include <functional>
#include <vector>

namespace yokai {

// None is chosen where `taken` is none of them. A unit is its item's data.
void listUnits(ChoiceBox& box, const std::vector<double>& unitsAnInch, double taken, const std::function<QString(double)>& size);

} // namespace yokai
