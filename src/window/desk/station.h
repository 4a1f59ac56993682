// The stations of the work, in the order it flows.
#pragma once

#include <QString>

namespace yokai {

enum class Station { Artwork, Keep, CutLines, TouchUp, Bleed, Sheet, HandOff, Cut };
constexpr int stationCount = 8;
constexpr bool onSheet(Station station) { return station >= Station::Sheet; }
QString title(Station station);

} // namespace yokai
