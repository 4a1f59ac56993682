// Edits by hand on the current piece's lines, as several places of the window ask for them.
#pragma once

#include "desk/desk.h"
#include "touchup/nodes.h"

#include <QPointF>

namespace yokai::edits {

// The line nearest to a place of the piece as it is shown, within reach.
struct OnLine {
    std::size_t line = 0;
    NearestPlace place;
};
std::optional<OnLine> lineNear(const Desk& desk, Point mm, double reach);
// The corner nearest to a place, within reach, on whatever line.
std::optional<OnLine> cornerNear(const Desk& desk, Point mm, double reach);

// Anchors and adds one; the rest of it is as given.
void addEdit(Desk& desk, const QString& what, std::size_t line, Edit edit, Point from, std::optional<Point> to = std::nullopt);
// The node nearest to a place, within reach; as cornerNear.
std::optional<OnLine> nodeNear(const Desk& desk, Point mm, double reach);
std::optional<OnLine> selectedNode(const Desk& desk);
// Puts a stretch in the place of what runs between two nodes. Done again between the same two, it is the same edit.
void redraw(Desk& desk, const QString& what, std::size_t line, const Redrawn& redrawn);
void nudgeNode(Desk& desk, Point by); // the selected one
void takeNode(Desk& desk);
void straighten(Desk& desk, const OnLine& from, const OnLine& to); // the shorter way between two places of one path

void addNode(Desk& desk, const OnLine& at);
void addArea(Desk& desk, const std::vector<QPointF>& outline, bool add); // of the line worked on, mm as shown
// The selected one, there on the line; or off it, as a hole may be.
void placeEdit(Desk& desk, const OnLine& at, std::optional<Point> off = std::nullopt);

// Of the current piece: the edit that is selected, and its line.
struct EditOf {
    const LineSpec* line = nullptr;
    const Edit* edit = nullptr;
    const EditOutcome* outcome = nullptr; // null while it is not derived yet
};
std::vector<EditOf> allEdits(const Desk& desk);
const Edit* selectedEdit(const Desk& desk);
void removeEdit(Desk& desk); // the selected one
void toggleEdit(Desk& desk, EditId id);

} // namespace yokai::edits
