// The kinds of edits. Private to the touch-up room.
#pragma once

#include "touchup/anchor.h"

namespace yokai {

// Changes the paths and says Held, or leaves them and says what is in the way; `out` has the place and,
// of one that is not held, its ghost.
using ApplyEdit = EditFate (*)(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out);

// A round disc's outline, with no more nodes than it needs.
inline Path disc(Point centre, double radius)
{
    Path path;
    path.start = centre + Point{radius, 0};
    path.arcTo(centre, centre - Point{radius, 0}, true);
    path.arcTo(centre, path.start, true);
    return path;
}

// The stretch of a line that an edit holds, in the order of the path it lies on; the whole of it where the
// edit begins and ends at one place. In a mirror the outline runs from what was the end.
struct HeldStretch {
    std::size_t path = 0;
    PathPlace from, to;
    bool whole = false;
};
std::optional<HeldStretch> heldStretch(const Edit& edit, const Paths& paths, const EditGround& ground);
// The same, and where it is; of one without a place its chord as a ghost.
std::optional<HeldStretch> heldStretch(const Edit& edit, const Paths& paths, const EditGround& ground, EditOutcome& out);

EditFate putStretch(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate openStretch(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate joinEnds(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate smoothStretch(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate simplifyPath(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate roundCorner(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate roundInside(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate weldTab(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate makeHole(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate putBridge(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate addRegion(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate takeRegion(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate putBeside(const Edit&, const EditGround&, Paths&, EditOutcome&);
EditFate dropPath(const Edit&, const EditGround&, Paths&, EditOutcome&);

} // namespace yokai
