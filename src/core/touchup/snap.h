// Where a place that is pointed at is drawn to: nodes, guides, the line, and right angles.
//
// Unit: mm in the picture.
#pragma once

#include "path/cut.h"

#include <optional>
#include <span>

namespace yokai {

// An endless line through two places.
struct StraightGuide {
    Point a, b;
};

struct SnapGround {
    std::span<const Paths* const> lines;
    std::span<const StraightGuide> guides;
    Rect picture = Rect::nothing(); // whose sides are edges; nothing: none
    std::optional<Point> from;      // where what is drawn goes on from: right angles are to the level and to the leg before
    std::optional<Point> before;    // where that leg began
    std::span<const Point> but;     // nodes that move along
};

enum class SnapTo { Nothing, Node, Crossing, Guide, Edge, RightAngle };
struct Snapped {
    Point at;
    SnapTo to = SnapTo::Nothing;
};

// The first of nodes, crossings of two guides or of a guide with a right angle, guides, the line and the
// picture's sides, and right angles that lies within reach; the place itself where none does.
Snapped snapped(Point p, const SnapGround& ground, double reach);

} // namespace yokai
