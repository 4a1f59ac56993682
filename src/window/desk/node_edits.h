// What is done to the selected nodes of the current piece's lines.
#pragma once

#include "desk/line_edits.h"
#include "touchup/nodes.h"

namespace yokai::edits {

// The selected nodes that lie on one path, as the line is now.
struct NodesOn {
    std::size_t line = 0, path = 0;
    NodeSet nodes;
};
std::vector<NodesOn> selectedNodes(const Desk& desk);
const Path& pathOf(const Desk& desk, const NodesOn& on);

// The nodes of the line worked on that lie in a closed outline, or belong to what it touches.
std::vector<Point> nodesIn(const Desk& desk, const Polyline& outline, Takes takes);
void selectNodes(Desk& desk, LineId line, std::vector<Point> at, bool toTheRest);

// Stretches in the place of what runs between two nodes each. Done again between the same nodes, they are the same edits.
void redraw(Desk& desk, const QString& what, std::size_t line, const std::vector<Redrawn>& redrawn);
void addNode(Desk& desk, const OnLine& at);

// Of the selected nodes:
void moveNodes(Desk& desk, Point by);
void takeNodes(Desk& desk);
enum class NodesAs { Smooth, Corners, Straight, Curved };
void changeNodes(Desk& desk, NodesAs as);

// The ends of the selected nodes' run on the path at a place; none where fewer than two are selected there.
std::optional<std::pair<OnLine, OnLine>> selectedStretch(const Desk& desk, const OnLine& at);

// A handle of the one selected node, within reach of a place.
struct HandleOn {
    NodesOn on;
    Handle which = Handle::Before;
};
std::optional<HandleOn> handleNear(const Desk& desk, Point mm, double reach);

} // namespace yokai::edits
