// Areas drawn by hand: added to what the chosen line encloses, taken from it, put beside it, or kept.
#pragma once

#include "desk/desk.h"
#include "path/path.h"

namespace yokai::edits {

// What is done with it is what is in hand: AddArea, TakeArea, BesideArea or KeepArea. mm as shown; closed outlines.
void addArea(Desk& desk, const Paths& outlines);

Path lassoed(const Polyline& way);      // as the hand went, without its tremor
Path boxed(Point a, Point b, double radius);
Path ellipseIn(Point a, Point b);
Path circleRound(Point centre, double radius);
Path drawn(const Sketch& sketch);       // closed; nothing of fewer than two places
// The last leg of what is being drawn: its length in mm and its way, degrees from level, rising upwards.
struct Leg {
    double length = 0, angle = 0;
};
std::optional<Leg> lastLeg(const Sketch& sketch);
void setLastLeg(Desk& desk, Leg leg);

} // namespace yokai::edits
