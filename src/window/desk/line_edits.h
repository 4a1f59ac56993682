// Edits by hand on the current piece's lines, as several places of the window ask for them.
#pragma once

#include "desk/desk.h"
#include "path/cut.h"

namespace yokai::edits {

// The line nearest to a place of the piece as it is shown, within reach.
struct OnLine {
    std::size_t line = 0;
    NearestPlace place;
};
std::optional<OnLine> lineNear(const Desk& desk, Point mm, double reach);
// The corner, or any node, nearest to a place, within reach, on whatever line.
std::optional<OnLine> cornerNear(const Desk& desk, Point mm, double reach);
std::optional<OnLine> nodeNear(const Desk& desk, Point mm, double reach);
// The end of an open path nearest to a place, within reach.
std::optional<OnLine> endNear(const Desk& desk, Point mm, double reach);

// The edit with its anchors by places of a line as it is now; a whole outline's where there is no end. None while there is no line.
std::optional<Edit> anchored(const Desk& desk, std::size_t line, Edit edit, Point from, std::optional<Point> to = std::nullopt);
// Anchors and adds one; the rest of it is as given.
void addEdit(Desk& desk, const QString& what, std::size_t line, Edit edit, Point from, std::optional<Point> to = std::nullopt);
// The same for several, as one step.
struct NewEdit {
    Edit edit;
    Point from;
    std::optional<Point> to = std::nullopt;
};
void addEdits(Desk& desk, const QString& what, std::size_t line, const std::vector<NewEdit>& made);
void roundAllInside(Desk& desk, Length radius); // of the line worked on

// Between two places of one path, the shorter way: what takes the place of it. `drawn`: the way of the hand.
void redrawStretch(Desk& desk, const OnLine& from, const OnLine& to, StretchAs as, const Polyline& drawn = {});
// An edit about the stretch between two places of one path, the shorter way; of the whole outline where they are one.
std::optional<NewEdit> stretchEdit(const Desk& desk, EditKind kind, const OnLine& from, const OnLine& to);
void joinEnds(Desk& desk, const OnLine& from, const OnLine& to);
// An open path drawn between two places of a line, as an edit.
NewEdit asEdit(const Desk& desk, const Path& stretch);

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
