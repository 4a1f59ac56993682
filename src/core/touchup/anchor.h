// How an edit finds its place again.
//
// An anchor is the place of the kept edge that was nearest to it, the way out from there, and how far
// beyond the line it lay. The edge moves little when the line does, so from it follows where the
// place should now be: as far out as the line is, and as much beyond. There the line is looked for
// within a millimetre, and within four times as much as the offset has changed since, for that is how
// far a corner between two fronts may have run.
//
// Unit: mm in the picture; anchors in source pixels.
#pragma once

#include "outline/kept_edge.h"
#include "touchup/touch_up.h"

namespace yokai {

Anchor anchorOf(Point mm, const KeptEdge& edge, const EditGround& ground);
Point placeOf(const Anchor& anchor, const EditGround& ground);
double reachOf(const Edit& edit, const EditGround& ground);

// The place of the line that an anchor is held by; none within reach.
std::optional<NearestPlace> held(const Anchor& anchor, const Edit& edit, const Paths& paths, const EditGround& ground);

// Whether the picture is shown as a mirror sees it: its outlines then run the other way.
inline bool mirrored(const EditGround& ground) { return ground.toMm.det() < 0; }

} // namespace yokai
