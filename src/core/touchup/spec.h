// Work by hand on the fitted lines, as a job holds it.
//
// An edit is anchored to the kept edge in the picture's own pixels, not to nodes, so that it finds
// its place again when the line is made anew: see anchor.h.
#pragma once

#include "base/fields.h"
#include "base/id.h"

namespace yokai {

enum class EditKind { Stretch, Open, Join, Smooth, Simplify, Round, RoundInside, Tab, Hole, Bridge, Add, TakeAway, Beside, Drop };
constexpr std::array<Named<EditKind>, 14> namesOf(EditKind)
{
    return {{{EditKind::Stretch, "stretch"},
             {EditKind::Open, "open"},
             {EditKind::Join, "join"},
             {EditKind::Smooth, "smooth"},
             {EditKind::Simplify, "simplify"},
             {EditKind::Round, "round"},
             {EditKind::RoundInside, "round-inside"},
             {EditKind::Tab, "tab"},
             {EditKind::Hole, "hole"},
             {EditKind::Bridge, "bridge"},
             {EditKind::Add, "add"},
             {EditKind::TakeAway, "take-away"},
             {EditKind::Beside, "beside"},
             {EditKind::Drop, "drop"}}};
}
// Which of a line's places an edit is about.
constexpr bool isArea(EditKind kind) { return kind == EditKind::Add || kind == EditKind::TakeAway || kind == EditKind::Beside; }
constexpr bool isStretch(EditKind kind)
{
    return kind == EditKind::Stretch || kind == EditKind::Open || kind == EditKind::Join || kind == EditKind::Smooth || kind == EditKind::Simplify;
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
    Anchor from, to; // `to`: the end of a stretch; Smooth and Simplify: the whole outline where it is `from`
    // The line's offset when it was made: the farther it has been moved since, the farther the place is looked for.
    Length offset;
    // Stretch: of each curve its two handles and its end, in the frame in which `from` lies at (0, 0) and `to`
    // at (1, 0).
    std::vector<Point> shape;
    // Of an area closed outlines, openings too: where each starts, then of each curve its two handles and its end. Source pixels.
    std::vector<std::vector<Point>> outlines;
    // A tab's and a hole's diameter, a corner's radius, how far a simplified outline may stray, how long the lumps are that
    // smoothing takes out.
    Length size = 10_mm;
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
        visit("outlines", self.outlines, AtMost{10'000});
        visit("size", self.size, Within{0_mm, 500_mm});
        visit("hole", self.hole, Within{0_mm, 500_mm});
        visit("upright", self.upright);
    }
    bool operator==(const Edit&) const = default;
};

} // namespace yokai
