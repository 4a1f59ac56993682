// Where sheets lie on the bench: side by side, the one that is looked at with its corner at (0, 0).
#pragma once

#include "sheet/sheet.h"

#include <QPointF>

namespace yokai {

constexpr double betweenSheets = 20; // mm

QPointF sheetAt(const Layout& layout, int sheet, int current); // its corner
int sheetUnder(const Layout& layout, double x, int current);   // or beside: may be less than 0, or past the last

} // namespace yokai
