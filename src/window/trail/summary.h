// Each station's one live line of figures, and its state.
#pragma once

#include "desk/desk.h"

namespace yokai {

enum class StationState { NotBegun, Fine, Found, Fault, Working };

struct Summary {
    QString line;
    StationState state = StationState::NotBegun;
};

Summary summaryOf(const Desk& desk, Station station);

QString stateText(StationState state); // for those who do not see the bead

} // namespace yokai
