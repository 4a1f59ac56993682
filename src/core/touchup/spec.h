// Work by hand on the fitted lines, as a job holds it.
//
// An edit is anchored to the kept edge in the picture's own pixels, not to nodes, so that it finds
// its place again when the line is made anew: see anchor.h.
#pragma once

#include "base/fields.h"
#include "base/id.h"

namespace yokai {

enum class EditKind { Stretch, Round, Tab, Hole, Add, TakeAway, Drop, Simplify };
constexpr std::array<Named<EditKind>, 8> namesOf(EditKind)
{
    return {{{EditKind::Stretch, "stretch"},
             {EditKind::Round, "round"},
             {EditKind::Tab, "tab"},
             {EditKind::Hole, "hole"},
             {EditKind::Add, "add"},
             {EditKind::TakeAway, "take-away"},
             {EditKind::Drop, "drop"},
             {EditKind::Simplify, "simplify"}}};
}

// A place by the kept edge.
struct Anchor {
    Point edge;      // the place of the edge nearest to it, source pixels
    Point out;       // unit vector from there out of what is kept, source pixels
    double past = 0; // mm beyond the line's distance
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("edge", self.edge);
        visit("out", self.out);
        visit("past_mm", self.past, Within{-1e5, 1e5});
    }
    bool operator==(const Anchor&) const = default;
};

struct Edit {
    using Kind = EditKind;
    EditId id = {};
    Kind kind = Kind::Round;
    bool on = true;
    Anchor from, to; // `to`: the end of a stretch
    // The line's offset when it was made: the farther it has been moved since, the farther the place is looked for.
    Length offset;
    // Stretch: of each curve its two handles and its end, in the frame in which `from` lies at (0, 0) and `to`
    // at (1, 0). Add and TakeAway: the outline's corners, source pixels.
    std::vector<Point> shape;
    Length size = 10_mm; // a tab's and a hole's diameter, a corner's radius, how far a simplified outline may stray
    Length hole = 4_mm;  // of a tab, across; 0: none
    bool upright = false; // a tab's: up in the picture as it is shown; else away from the line

    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("kind", self.kind);
        visit("on", self.on);
        visit("from", self.from);
        visit("to", self.to);
        visit("offset", self.offset, Within{-500_mm, 500_mm});
        visit("shape", self.shape, AtMost{100'000});
        visit("size", self.size, Within{0_mm, 500_mm});
        visit("hole", self.hole, Within{0_mm, 500_mm});
        visit("upright", self.upright);
    }
    bool operator==(const Edit&) const = default;
};

} // namespace yokai
