// From the kept edge to the lines that are cut: joining, offset, corners, tight
// inside corners and notches, and the curve fit.
//
// Unit: pixels, as in contour.h.
#pragma once

#include "base/fields.h"
#include "outline/offset.h"

namespace yokai {

enum class Corners { Round, Sharp, Flat };
constexpr std::array<Named<Corners>, 3> namesOf(Corners) { return {{{Corners::Round, "round"}, {Corners::Sharp, "sharp"}, {Corners::Flat, "flat"}}}; }

struct BuildSpec {
    double offset = 0;
    Corners corners = Corners::Round;
    double sharpLimit = 4;   // a sharp corner reaching farther than this many offsets is cut flat
    double roundInside = 0;  // inside corners are rounded to this radius, which the tool can follow
    double openingsOver = 0; // openings of the line under this area are closed, with all that lies in them; infinite: all
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("offset", self.offset);
        visit("corners", self.corners);
        visit("sharp_limit", self.sharpLimit);
        visit("round_inside", self.roundInside);
        visit("openings_over", self.openingsOver);
    }
};

// The edge with everything nearer than `gap` joined into one: grown by half the gap
// and shrunk again, so that the joints are smooth. A gap of 0 gives the edge as it is.
Contours joined(const DistanceField& edge, double gap, const Work& work = {});

// Without the openings of up to `area` and whatever lies in them.
Contours withoutOpenings(const Contours& contours, double area, const Work& work = {});

// Where the swept arc round a true corner of the edge is replaced by its tip or its chord.
void shapeCorners(LevelLines& lines, const DistanceField& edge, double offset, Corners corners, double sharpLimit);

LevelLines buildLines(const DistanceField& edge, const BuildSpec& spec, const Work& work = {});
Paths fitLines(const LevelLines& lines, double tolerance, const Work& work = {});

} // namespace yokai
