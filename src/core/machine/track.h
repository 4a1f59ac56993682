// A track: where the tool goes in one go while it is down, in arcs and straight lines, and what makes one of a line.
//
// Unit: mm, y away from the user (up), so that a positive bulge turns to the left.
#pragma once

#include "machine/machine.h"
#include "path/arcs.h"

#include <functional>

namespace yokai {

struct Track {
    Point start;
    std::vector<Arc> arcs;
    Point end() const { return arcs.empty() ? start : arcs.back().end; }
    // Visits (from, arc) in order.
    template <class F> void each(F&& f) const
    {
        Point from = start;
        for (const Arc& a : arcs) {
            f(from, a);
            from = a.end;
        }
    }
};

double lengthOf(const Track& track);
Polyline flatten(const Track& track, double tolerance); // its start and its end among them

// The line itself, within `tolerance`; neighbours of one circle are one arc. A closed one comes back to its start.
Track trackOf(const Path& path, double tolerance);

// The track goes on once more along `round`, which begins where it ends, by `way`.
void overcut(Track& track, const Track& round, double way);

// A closed line is begun earlier along itself, by `way`, which it goes over again at its end: `round` begins where the track does.
void leadInAlong(Track& track, const Track& round, double way);

// A closed line begun and left in the waste: along its own direction where that lies in the waste, else round to it.
// `wasteLeft` says on which side of the line it lies; `clear` whether a place may be cut through. What has no room is left out.
void addLeads(Track& track, double in, double out, bool wasteLeft, const std::function<bool(Point)>& clear);

// Where the pivot of a blade goes whose tip, `offset` behind it, is to follow the track: ahead of it by as much. At corners of
// more than `swivelFrom` degrees it goes round the tip. `heading` is where the blade points before (a unit vector from the tip to
// the pivot), and after. Exact for arcs and lines, for as long as arcs are wider than nothing.
Track ahead(const Track& track, double offset, double swivelFrom, Point& heading);

// Where the tip goes when the pivot goes along the track: integrated in steps of at most `step` mm. The tip trails the pivot
// without slipping sideways (the tractrix, as of any trailing wheel). `heading` as above.
Polyline trailing(const Track& track, double offset, double step, Point& heading);

} // namespace yokai
