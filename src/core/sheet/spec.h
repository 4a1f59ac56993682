// What a maker decides about the sheet: media, how copies are laid out, marks, extra cuts, and
// copies put in place by hand.
#pragma once

#include "base/fields.h"
#include "base/id.h"
#include "base/line_kind.h"

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

enum class LayoutKind { Grid, Stagger, Nest }; // rows; rows set off by half a step; by true shapes
constexpr std::array<Named<LayoutKind>, 3> namesOf(LayoutKind)
{
    return {{{LayoutKind::Grid, "grid"}, {LayoutKind::Stagger, "stagger"}, {LayoutKind::Nest, "nest"}}};
}

// How a piece may be turned where it is nested.
enum class Turns { None, Quarter, Free };
constexpr std::array<Named<Turns>, 3> namesOf(Turns) { return {{{Turns::None, "none"}, {Turns::Quarter, "quarter"}, {Turns::Free, "free"}}}; }

struct GridSpec {
    std::optional<int> columns, rows;          // absent: as many as fit
    std::optional<Length> gapDown;             // between rows; absent: as between columns
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("columns", self.columns, Within{1, 10'000});
        visit("rows", self.rows, Within{1, 10'000});
        visit("gap_down", self.gapDown, Within{0_mm, 1000_mm});
    }
    bool operator==(const GridSpec&) const = default;
};

struct NestSpec {
    Turns turns = Turns::Quarter;
    bool mirror = false;  // may be turned over too
    bool openings = true; // others may lie in openings where the material is cut through
    double seconds = 5;   // for looking for something better
    int seed = 1;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("turns", self.turns);
        visit("mirror", self.mirror);
        visit("openings", self.openings);
        visit("seconds", self.seconds, Within{0.0, 3600.0});
        visit("seed", self.seed, Within{1, 1'000'000});
    }
    bool operator==(const NestSpec&) const = default;
};

enum class MarkStyle { None, Dots, Crosses, Brackets, InPicture }; // the last: features that are there anyhow, never printed
constexpr std::array<Named<MarkStyle>, 5> namesOf(MarkStyle)
{
    return {{{MarkStyle::None, "none"}, {MarkStyle::Dots, "dots"}, {MarkStyle::Crosses, "crosses"}, {MarkStyle::Brackets, "brackets"}, {MarkStyle::InPicture, "in-picture"}}};
}

struct MarkPlace {
    Length x, y; // from the sheet's top-left corner, y down
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("x", self.x, Within{-50'000_mm, 50'000_mm});
        visit("y", self.y, Within{-50'000_mm, 50'000_mm});
    }
    bool operator==(const MarkPlace&) const = default;
};

struct MarkSpec {
    MarkStyle style = MarkStyle::Dots;
    Length inset = 12_mm;    // from the sheet's edges to a mark's place
    Length size = 5_mm;      // across
    Length weight = 500_um;  // of the lines of crosses and brackets
    int count = 5;           // from 5 on one tells the corners apart
    Length bandGap = Length(); // along a long sheet, at most as far from band to band; 0: no bands
    Length clear = 2_mm;     // round each, left blank
    std::vector<MarkPlace> places; // by hand, instead of those that follow from the above; of features in the picture, all there are
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("style", self.style);
        visit("inset", self.inset, Within{0_mm, 1000_mm});
        visit("size", self.size, Within{1_mm, 50_mm});
        visit("weight", self.weight, Within{10_um, 10_mm});
        visit("count", self.count, Within{3, 8});
        visit("band_gap", self.bandGap, Within{0_mm, 50'000_mm});
        visit("clear", self.clear, Within{0_mm, 100_mm});
        visit("places", self.places, AtMost{1000});
    }
    bool operator==(const MarkSpec&) const = default;
};

// Cuts that no piece has.
struct ExtraCuts {
    bool separate = false;         // a grid of cuts between the copies
    bool boxEach = false, boxAll = false; // round each copy, for weeding; round all
    Length boxGap = 2_mm;          // from what is cut or printed to its box
    bool trim = false;             // the sheet's margin off
    bool notch = false;            // the top-left corner off, to know the way up
    Length notchSize = 8_mm;
    bool slit = false;             // across each copy, to peel it off by
    LineKind boxKind = LineKind::Kiss, slitKind = LineKind::Kiss;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("separate", self.separate);
        visit("box_each", self.boxEach);
        visit("box_all", self.boxAll);
        visit("box_gap", self.boxGap, Within{0_mm, 100_mm});
        visit("trim", self.trim);
        visit("notch", self.notch);
        visit("notch_size", self.notchSize, Within{1_mm, 100_mm});
        visit("slit", self.slit);
        visit("box_kind", self.boxKind);
        visit("slit_kind", self.slitKind);
    }
    bool operator==(const ExtraCuts&) const = default;
};

// For transfers, and for engraving clear sheet from behind.
enum class SheetMirror { None, Both, Print, Cut };
constexpr std::array<Named<SheetMirror>, 4> namesOf(SheetMirror)
{
    return {{{SheetMirror::None, "none"}, {SheetMirror::Both, "both"}, {SheetMirror::Print, "print"}, {SheetMirror::Cut, "cut"}}};
}

struct SheetSpec {
    Media media = {"A4", 210_mm, 297_mm};
    bool landscape = false;
    Length margin = 10_mm;      // kept clear of pieces
    Length printMargin = 4_mm;  // where the printer prints nothing
    std::optional<Length> reachAcross, reachDown; // of the machine, from the sheet's top-left corner; absent: all of it
    Length gap = 3_mm;
    LayoutKind layout = LayoutKind::Grid;
    GridSpec grid;
    NestSpec nest;
    MarkSpec marks;
    ExtraCuts cuts;
    SheetMirror mirror = SheetMirror::None;
    double width() const { return (landscape ? media.height : media.width).mm(); }
    double height() const { return (landscape ? media.width : media.height).mm(); }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("media", self.media);
        visit("landscape", self.landscape);
        visit("margin", self.margin, Within{0_mm, 1000_mm});
        visit("print_margin", self.printMargin, Within{0_mm, 1000_mm}, Label{});
        visit("reach_across", self.reachAcross, Within{10_mm, 50'000_mm});
        visit("reach_down", self.reachDown, Within{10_mm, 50'000_mm});
        visit("gap", self.gap, Within{0_mm, 1000_mm});
        visit("layout", self.layout);
        visit("grid", self.grid);
        visit("nest", self.nest);
        visit("marks", self.marks);
        visit("extra_cuts", self.cuts, Label{});
        visit("mirror", self.mirror, Label{});
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
    bool locked = false; // no hand moves it until it is unlocked
    int group = 0;       // those of one number go together; 0: none
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("piece", self.piece);
        visit("sheet", self.sheet, Within{0, 10'000});
        visit("x", self.x, Within{-50'000_mm, 50'000_mm});
        visit("y", self.y, Within{-50'000_mm, 50'000_mm});
        visit("turn_deg", self.turn, Within{-360.0, 360.0});
        visit("mirror", self.mirror);
        visit("locked", self.locked, Label{});
        visit("group", self.group, Within{0, 1'000'000}, Label{});
    }
    bool operator==(const Placing&) const = default;
};

// How copies were nested: kept with a job, so that what took long is not done again. It holds for as long as its key is
// that of the step which would make it anew.
struct NestedCopy {
    PieceId piece = {};
    int sheet = 0;
    Point across{1, 0}, down{0, 1}, at; // where the piece's two axes and its corner come to lie on the sheet
    Affine toSheet() const { return {across.x, across.y, down.x, down.y, at.x, at.y}; }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("piece", self.piece);
        visit("sheet", self.sheet, Within{0, 10'000});
        visit("across", self.across);
        visit("down", self.down);
        visit("at", self.at);
    }
    bool operator==(const NestedCopy&) const = default;
};
struct Nested {
    std::string key; // hexadecimal
    std::vector<NestedCopy> copies;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("key", self.key, AtMost{100});
        visit("copies", self.copies, AtMost{100'000});
    }
    bool operator==(const Nested&) const = default;
};

} // namespace yokai
