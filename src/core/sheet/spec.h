// What a maker decides about the sheet: media, gaps, marks, and copies put in place by hand.
#pragma once

#include "base/fields.h"
#include "base/id.h"

#include <string>

namespace yokai {

struct Media {
    std::string name;     // "A4", or "custom"
    Length width, height; // upright
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("name", self.name, AtMost{200}, Label{});
        visit("width", self.width, Within{10_mm, 50'000_mm});
        visit("height", self.height, Within{10_mm, 50'000_mm});
    }
    bool operator==(const Media&) const = default;
};

enum class MarkStyle { None, Dots };
constexpr std::array<Named<MarkStyle>, 2> namesOf(MarkStyle) { return {{{MarkStyle::None, "none"}, {MarkStyle::Dots, "dots"}}}; }

struct SheetSpec {
    Media media = {"A4", 210_mm, 297_mm};
    bool landscape = false;
    Length margin = 10_mm;
    Length gap = 3_mm;
    MarkStyle marks = MarkStyle::Dots;
    Length markInset = 12_mm; // from the sheet's edges to a mark's centre
    Length markDiameter = 5_mm;
    double width() const { return (landscape ? media.height : media.width).mm(); }
    double height() const { return (landscape ? media.width : media.height).mm(); }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("media", self.media);
        visit("landscape", self.landscape);
        visit("margin", self.margin, Within{0_mm, 1000_mm});
        visit("gap", self.gap, Within{0_mm, 1000_mm});
        visit("marks", self.marks);
        visit("mark_inset", self.markInset, Within{0_mm, 1000_mm});
        visit("mark_diameter", self.markDiameter, Within{1_mm, 50_mm});
    }
    bool operator==(const SheetSpec&) const = default;
};

// One copy of a piece on a sheet. Those in the job were put there by hand.
struct Placing {
    PlacingId id = {};
    PieceId piece = {};
    int sheet = 0;
    Length x, y;     // the middle of the piece's box, from the sheet's top-left corner, y down
    double turn = 0; // degrees clockwise
    bool mirror = false;
    bool locked = false; // laying out anew leaves it where it is
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("piece", self.piece);
        visit("sheet", self.sheet, Within{0, 10'000});
        visit("x", self.x, Within{-50'000_mm, 50'000_mm});
        visit("y", self.y, Within{-50'000_mm, 50'000_mm});
        visit("turn_deg", self.turn, Within{-360.0, 360.0});
        visit("mirror", self.mirror);
        visit("locked", self.locked);
    }
    bool operator==(const Placing&) const = default;
};

} // namespace yokai
