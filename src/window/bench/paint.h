// Drawing that several scenes share.
#pragma once

#include "bench/view.h"
#include "studio/pictures.h"

class QPainter;

namespace yokai::paint {

// A line of a kind with its halo; the paths in mm, `map` to the screen.
void line(QPainter& painter, const ClosedPaths& paths, LineKind kind, const QTransform& map, double width = 2);
// A picture of `size` mm at mm (0, 0) under `map`.
void picture(QPainter& painter, const ImagePyramid& pyramid, QSizeF size, const QTransform& map);
// A small label with its middle at `at`, on the screen.
QRectF tag(QPainter& painter, QPointF at, const QString& text);
void dimension(QPainter& painter, QPointF from, QPointF to, const QString& text);

} // namespace yokai::paint
