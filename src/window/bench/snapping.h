// What a place that is pointed at is drawn to, on the piece that is shown, and how that is shown.
#pragma once

#include "bench/tool.h"
#include "touchup/snap.h"

class QPainter;

namespace yokai::snapping {

struct From {
    std::optional<Point> from = std::nullopt, before = std::nullopt; // where what is drawn goes on from, and the leg before
    std::vector<Point> but = {};                                     // nodes that move along
};
// Not while Ctrl is held.
Snapped at(const Desk& desk, const Pointer& pointer, Point mm, const From& from = {});
// Shift: the way from a place by whole steps of 15 degrees.
Point bySteps(Point from, Point to);
void paint(QPainter& painter, const View& view, const Snapped& snapped);

} // namespace yokai::snapping
