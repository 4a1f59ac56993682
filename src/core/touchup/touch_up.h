// The edits put on a fitted line.
//
// One file a kind, and its line in the table of touch_up.cpp: a function that changes the paths, or
// says why it does not. What it leaves crossing itself is not kept.
//
// Unit: mm in the picture.
#pragma once

#include "base/work.h"
#include "path/cut.h"
#include "touchup/spec.h"

#include <span>

namespace yokai {

// What an edit finds its place by.
struct EditGround {
    Affine toMm;          // from source pixels
    double offset = 0;    // of the line now
};

// How an edit fares.
enum class EditFate { Held, Off, NoPlace, DoesNotFit };
struct EditOutcome {
    EditId id = {}; // whose it is; whoever knows the edits fills it in
    EditFate fate = EditFate::Held;
    Point at;           // where it is, or would be
    Polyline ghost;     // its shape where it would be, of one that is not held; open
    std::optional<Point> hole; // the middle of one it made
    std::size_t nodesBefore = 0, nodesAfter = 0; // of an outline made simpler
    double largest = 0; // a corner's: the largest radius that fits, where the one asked for does not
    double strayed = 0; // of a smoothed stretch: how far it came away from where it was
    int rounded = 0, left = 0; // of all inside corners: those rounded, and those with no room for the radius
};

struct TouchedUp {
    Paths paths;
    std::vector<Point> holes; // the middles of those made
    std::vector<EditOutcome> outcomes; // one an edit
};

TouchedUp touchUp(const Paths& fitted, std::span<const Edit> edits, const EditGround& ground, const Work& work = {});

} // namespace yokai
