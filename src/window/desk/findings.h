// Which of the findings belong to which station.
#pragma once

#include "desk/desk.h"

namespace yokai {

Station mendedAt(const Finding& finding);
// Those to be seen at a station: a piece's where they are mended, and at Touch-up all that are about its
// lines; the sheet's at the sheet's stations. As places in Derived::findings, in their order.
std::vector<std::size_t> findingsAt(const Desk& desk, Station station);

// Mends one by one of its presses (see mendsFor), or all of its kind at the current piece, as one step.
void mendFinding(Desk& desk, std::size_t finding, std::size_t press, bool allOfAKind);

} // namespace yokai
