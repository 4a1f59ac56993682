// Where the bench looks: a scale and an offset between mm and screen pixels.
#pragma once

#include "base/geometry.h"

#include <QPointF>
#include <QRectF>
#include <QTransform>

namespace yokai {

struct View {
    double scale = 4; // logical pixels a mm
    QPointF origin;   // where mm (0, 0) is on the screen
    QPointF toScreen(QPointF mm) const { return origin + mm * scale; }
    QPointF toMm(QPointF screen) const { return (screen - origin) / scale; }
    QRectF toScreen(const QRectF& mm) const { return {toScreen(mm.topLeft()), toScreen(mm.bottomRight())}; }
    QTransform transform() const { return QTransform(scale, 0, 0, scale, origin.x(), origin.y()); }
};

inline QPointF q(Point p) { return {p.x, p.y}; }
inline QPointF down(Point onBed) { return {onBed.x, -onBed.y}; } // beds count upwards, the screen downwards
inline QTransform q(const Affine& m) { return {m.a, m.b, m.c, m.d, m.e, m.f}; }
inline QRectF q(const Rect& r) { return {r.x0, r.y0, r.width(), r.height()}; }

} // namespace yokai
