// Drawing that several scenes share.
#pragma once

#include "bench/view.h"
#include "desk/pictures.h"

#include <QPen>

#include <initializer_list>

class QPainter;

namespace yokai::paint {

// A line of a kind with its halo; the paths in mm, `map` to the screen. Curves are
// flattened for the zoom at hand: stroking curves is many times slower.
void line(QPainter& painter, const Paths& paths, LineKind kind, const QTransform& map, double width = 2);
// Runs of points in mm as they are, stroked with the pens one after the other.
void outlines(QPainter& painter, const std::vector<Polyline>& lines, std::initializer_list<QPen> pens, const QTransform& map);
// What is being drawn or moved: open or closed paths in mm.
void draft(QPainter& painter, const Paths& paths, const View& view, bool dashed = false);
void draft(QPainter& painter, const Polyline& line, const View& view, bool dashed = false); // open
// A piece's colour layers from the bottom up, each filled with the colour of its stock as it will be cut. One may be lifted off: it is shown
// beside its place, and what lies beneath it is seen. Smaller than can be seen, all is left out that is.
void stack(QPainter& painter, const Piece& piece, const PieceResult& result, const QTransform& map, LayerId lifted = {});
// An engraved piece as it will look: its stock within the line that cuts it out, and on it what is burnt.
void engraved(QPainter& painter, const LayerResult& layer, const PiecePicture& picture, const PlanSpec& plan, const QTransform& map);
// A picture of `size` mm at mm (0, 0) under `map`.
void picture(QPainter& painter, const ScreenPicture& picture, QSizeF size, const QTransform& map);
// A small label with its middle at `at`, on the screen.
QRectF tag(QPainter& painter, QPointF at, const QString& text);
// Some pixels of a picture round one of them, large, with its middle at a place of the screen.
void loupe(QPainter& painter, const QImage& picture, Point px, double across, QPointF at);
void dimension(QPainter& painter, QPointF from, QPointF to, const QString& text);

} // namespace yokai::paint
