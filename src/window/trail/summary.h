// Each station's one live line of figures, and its state.
#pragma once

#include "studio/studio.h"

namespace yokai {

enum class StationState { NotBegun, Fine, Findings, Fault, Working };

struct Summary {
    QString line;
    StationState state = StationState::NotBegun;
};

Summary summaryOf(const Studio& studio, Station station);

// "2 410 mm²", "3.74 in²"
QString areaText(double mm2, Unit unit);
QString lengthText(double mm, Unit unit);

} // namespace yokai
