// Where sheets lie on the bench: side by side, the one that is looked at with its corner at (0, 0).
#pragma once

#include "sheet/sheet.h"

#include <QPointF>

class QPainter;

namespace yokai {

struct BenchState;
struct View;

constexpr double betweenSheets = 20; // mm

QPointF sheetAt(const Layout& layout, int sheet, int current); // its corner
int sheetUnder(const Layout& layout, double x, int current);   // or beside: may be less than 0, or past the last
// The current sheet as it comes from the printer, its corner at (0, 0).
void paintPrinted(QPainter& painter, const BenchState& state, const View& view);
// What of it is burnt, alone, as it will look.
void paintEngraved(QPainter& painter, const BenchState& state, const View& view);

} // namespace yokai
