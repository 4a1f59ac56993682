// What a plan comes to: lengths and times of its steps and runs, its box, and how far it reaches past the bed. Private to the machine room.
//
// Unit: mm, seconds.
#pragma once

#include "machine/plan.h"

namespace yokai {

// Of a plan whose runs are all there; it begins and ends at `home`.
void measure(Plan& plan, Point home, const Rect& bed);

} // namespace yokai
