// The job: everything a maker has decided, as plain data.
//
// A Job has value semantics and is small (pictures are shared), so undo keeps
// whole Jobs. Nothing computed is in it, but for how copies were nested when it was
// saved; see derive.h for what follows from it.
#pragma once

#include "artwork/frame.h"
#include "base/line_kind.h"
#include "bleed/spec.h"
#include "check/spec.h"
#include "engrave/spec.h"
#include "keep/spec.h"
#include "layers/spec.h"
#include "layers/split_spec.h"
#include "machine/plan_spec.h"
#include "outline/build.h"
#include "register/fit.h"
#include "sheet/spec.h"
#include "touchup/spec.h"

#include <optional>
#include <string>
#include <vector>

namespace yokai {

// What a line follows: the kept shape's outline, or a plain figure round it.
enum class LineShape { Outline, Box, RoundedBox, Ellipse, Circle, BoxRoundAll, Drawn };
constexpr std::array<Named<LineShape>, 7> namesOf(LineShape)
{
    return {{{LineShape::Outline, "outline"},
             {LineShape::Box, "box"},
             {LineShape::RoundedBox, "rounded-box"},
             {LineShape::Ellipse, "ellipse"},
             {LineShape::Circle, "circle"},
             {LineShape::BoxRoundAll, "box-round-all"},
             {LineShape::Drawn, "drawn"}}};
}

// A path of a line that is as drawn.
struct DrawnOutline {
    bool closed = true;
    std::vector<Point> points; // where it starts, then of each curve its two handles and its end; source pixels
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("closed", self.closed);
        visit("points", self.points, mostPlaces);
    }
    bool operator==(const DrawnOutline&) const = default;
};

// What was taken for the unit of a drawing that says no size, so that it can be chosen otherwise later.
struct DrawnUnit {
    double anInch = 96; // so many of them are one
    Point fixed;        // what stays where it is when that changes, source pixels
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("an_inch", self.anInch, Within{1e-3, 1e5});
        visit("fixed", self.fixed);
    }
    bool operator==(const DrawnUnit&) const = default;
};

// Which openings a line has, whatever they come from: of the kept shape, or left between parts
// that have grown together. None: the outer lines alone.
enum class LineOpenings { All, Over, None };
constexpr std::array<Named<LineOpenings>, 3> namesOf(LineOpenings)
{
    return {{{LineOpenings::All, "keep"}, {LineOpenings::Over, "over"}, {LineOpenings::None, "none"}}};
}

struct LineSpec {
    LineKind kind = LineKind::Through;
    Length offset = 2_mm;                         // positive outwards
    std::optional<double> percent = std::nullopt; // instead: of the longer side of what is kept
    LineShape shape = LineShape::Outline;
    std::vector<DrawnOutline> drawn = {}; // of a line as drawn, which has no offset
    std::optional<DrawnUnit> drawnUnit = std::nullopt; // of those of a drawing that says no size
    Corners corners = Corners::Round;
    double sharpLimit = 4; // in offsets: a sharp corner reaching farther is cut flat
    LineOpenings openings = LineOpenings::All;
    double openingsOver = 4;       // mm2; with Over, openings under this are closed
    Length joinGap = Length();     // parts nearer than this become one
    Length roundInside = Length(); // the radius the tool can follow
    Length tolerance = 20_um;      // of the curve fit
    Length boxRadius = 3_mm;       // of a rounded box
    // Perforate: the dash and the space between two. Without a gap the line is written
    // unbroken on its own layer, for machines that make the pattern themselves.
    Length cutLength = 3_mm, gapLength = Length();
    bool clipsPrint = false; // the picture is printed up to this line and no farther; at most one
    int bridges = 0;             // uncut stretches of each closed path that hold the piece in its sheet; a tab's hole has none
    Length bridgeWidth = 500_um;
    std::vector<Edit> edits = {}; // by hand, in the order they were made
    LineId id = {};

    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("kind", self.kind, Label{});
        visit("offset", self.offset, Within{-500_mm, 500_mm});
        visit("percent", self.percent, Within{-100.0, 1000.0});
        visit("shape", self.shape);
        visit("drawn", self.drawn, mostByHand);
        visit("drawn_unit", self.drawnUnit, Label{});
        visit("corners", self.corners);
        visit("sharp_limit", self.sharpLimit, Within{1.0, 100.0});
        visit("openings", self.openings);
        visit("openings_over_mm2", self.openingsOver, Within{0.0, mostArea});
        visit("join_gap", self.joinGap, Within{0_mm, 200_mm});
        visit("round_inside", self.roundInside, Within{0_mm, 100_mm});
        visit("tolerance", self.tolerance, Within{1_um, 5_mm});
        visit("box_radius", self.boxRadius, Within{0_mm, 1000_mm});
        visit("cut_length", self.cutLength, Within{50_um, 1000_mm}, Label{});
        visit("gap_length", self.gapLength, Within{0_mm, 1000_mm}, Label{});
        visit("clips_print", self.clipsPrint, Label{});
        visit("bridges", self.bridges, Within{0, 1000}, Label{});
        visit("bridge_width", self.bridgeWidth, Within{50_um, 100_mm}, Label{});
        visit("edits", self.edits, AtMost{10'000});
    }
    bool operator==(const LineSpec&) const = default;
};

// What is kept of a piece's picture, and the lines cut round it. Most pieces have one.
struct Layer {
    LayerId id = {};
    std::string name;
    std::optional<LayerColours> ofColours = std::nullopt; // of the picture's colours; none: by the rule
    KeepSpec keep;
    std::vector<LineSpec> lines = {LineSpec{}};
    BleedSpec bleed;
    UnderprintSpec underprint;
    std::optional<EngraveSpec> engrave = std::nullopt; // the picture is engraved, and not printed
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("name", self.name, AtMost{10'000}, Label{});
        visit("of_colours", self.ofColours);
        visit("keep", self.keep);
        visit("cut_lines", self.lines, AtMost{1000});
        visit("bleed", self.bleed);
        visit("underprint", self.underprint);
        visit("engrave", self.engrave);
    }
    bool operator==(const Layer&) const = default;
};

// A straight line to work along, without end; never cut nor printed.
struct Guide {
    GuideId id = {};
    Point a, b; // two places of it, source pixels
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("a", self.a);
        visit("b", self.b);
    }
    bool operator==(const Guide&) const = default;
};

struct Piece {
    PieceId id = {};
    std::string name;
    ArtworkSpec artwork;
    SplitSpec split;                       // how its colours are told apart
    std::vector<Layer> layers = {Layer{}}; // at least one, from the bottom up
    std::optional<int> copies = 1;         // absent: as many as fit
    int share = 1;                         // of those that fit, beside other pieces'
    std::vector<Guide> guides;
    std::vector<Point> features; // source pixels: marks that are there already, and by which the cut of a scanned thing is fitted

    // Of a piece of one layer.
    KeepSpec& keep() { return layers.front().keep; }
    const KeepSpec& keep() const { return layers.front().keep; }
    std::vector<LineSpec>& lines() { return layers.front().lines; }
    const std::vector<LineSpec>& lines() const { return layers.front().lines; }
    BleedSpec& bleed() { return layers.front().bleed; }
    const BleedSpec& bleed() const { return layers.front().bleed; }
    UnderprintSpec& underprint() { return layers.front().underprint; }
    const UnderprintSpec& underprint() const { return layers.front().underprint; }

    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("id", self.id);
        visit("name", self.name, AtMost{10'000}, Label{});
        visit("copies", self.copies, Within{0, 100'000}, Label{});
        visit("share", self.share, Within{1, 1000}, Label{});
        visit("artwork", self.artwork);
        visit("split", self.split);
        visit("layers", self.layers, AtMost{1000});
        visit("guides", self.guides, AtMost{1000}, Label{});
        visit("features", self.features, AtMost{1000});
    }
    bool operator==(const Piece&) const = default;
};

// What a shop wants each kind's spot colour to be called.
struct SpotNames {
    std::array<std::string, lineKindTable.size()> names = {lineKindTable[0].spot, lineKindTable[1].spot, lineKindTable[2].spot, lineKindTable[3].spot};
    std::string white = "White";     // of an underprint
    std::string engrave = "Engrave"; // of what is engraved
    std::string& of(LineKind kind) { return names[std::size_t(kind)]; }
    const std::string& of(LineKind kind) const { return names[std::size_t(kind)]; }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        for (const LineKind kind : lineKinds)
            visit(facts(kind).name, self.of(kind), AtMost{200});
        visit("white", self.white, AtMost{200});
        visit("engrave", self.engrave, AtMost{200});
    }
    bool operator==(const SpotNames&) const = default;
};

// What curves are in DXF: readers differ.
enum class DxfCurves {
    Arcs,    // polylines of arcs and lines
    R12,     // polylines of short lines, as the oldest readers take them
    Splines, // the curves as they are
};
constexpr std::array<Named<DxfCurves>, 3> namesOf(DxfCurves) { return {{{DxfCurves::Arcs, "arcs"}, {DxfCurves::R12, "r12"}, {DxfCurves::Splines, "splines"}}}; }

// Where a printer's stretch is made good.
enum class StretchIn {
    Print, // files to be printed undo it
    Cut,   // files to be cut follow it
};
constexpr std::array<Named<StretchIn>, 2> namesOf(StretchIn) { return {{{StretchIn::Print, "print"}, {StretchIn::Cut, "cut"}}}; }

struct HandOffSpec {
    SpotNames spots;
    Length hairline = Length::ticks(9144); // of cut lines in files: 0.001 in, which many machines take for "cut this" (common practice)
    double stretchX = 100, stretchY = 100;  // percent: the printer's own, as measured
    StretchIn stretchIn = StretchIn::Print;
    DxfCurves dxf = DxfCurves::Arcs;
    double ppi = 300;                       // of the print as pixels
    std::string material;                   // what it is made of, as the proof says it
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("spots", self.spots);
        visit("hairline", self.hairline, Within{1_um, 1_mm});
        visit("stretch_x", self.stretchX, Within{90.0, 110.0});
        visit("stretch_y", self.stretchY, Within{90.0, 110.0});
        visit("ppi", self.ppi, Within{36.0, 2400.0});
        visit("material", self.material);
        visit("stretch_in", self.stretchIn);
        visit("dxf", self.dxf);
    }
    bool operator==(const HandOffSpec&) const = default;
};

// What the stand-in does to a sheet it prints, so that the fit has something to find.
struct StandInSpec {
    double stretchX = 1.003, stretchY = 0.998;
    double turn = 0.6;  // degrees
    double skew = 0.15; // degrees
    Length shiftX = 1.8_mm, shiftY = -(1.2_mm);
    Length swell;          // how far the paper comes out of shape, in waves as long as the sheet
    bool trueTime = false; // as slow as a machine; else as fast as can be
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("stretch_x", self.stretchX, Within{0.9, 1.1});
        visit("stretch_y", self.stretchY, Within{0.9, 1.1});
        visit("turn_deg", self.turn, Within{-15.0, 15.0});
        visit("skew_deg", self.skew, Within{-5.0, 5.0});
        visit("shift_x", self.shiftX, Within{-10_mm, 10_mm});
        visit("shift_y", self.shiftY, Within{-10_mm, 10_mm});
        visit("swell", self.swell, Within{0_mm, 5_mm});
        visit("true_time", self.trueTime);
    }
    bool operator==(const StandInSpec&) const = default;
};

// How the marks on the bed are found.
enum class MarksBy { Eye, Picture, Hand };
constexpr std::array<Named<MarksBy>, 3> namesOf(MarksBy) { return {{{MarksBy::Eye, "eye"}, {MarksBy::Picture, "picture"}, {MarksBy::Hand, "hand"}}}; }

struct CutSpec {
    bool useFit = true;
    MarksBy marksBy = MarksBy::Eye;
    std::string layer; // of colour layers the one that is cut, by its name; empty: all
    FitModel model = FitModel::Auto;
    Length maxResidual = 300_um;
    PlanSpec plan;
    StandInSpec standIn;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("use_fit", self.useFit);
        visit("marks_by", self.marksBy);
        visit("layer", self.layer, AtMost{10'000});
        visit("fit", self.model);
        visit("max_residual", self.maxResidual, Within{0_mm, 1000_mm});
        visit("plan", self.plan);
        visit("stand_in", self.standIn);
    }
    bool operator==(const CutSpec&) const = default;
};

struct Job {
    std::string name = "Untitled";
    std::vector<Piece> pieces;
    SheetSpec sheet;
    std::vector<Placing> placings; // copies that a hand has put where they are; the rest is proposed
    HandOffSpec handOff;
    CutSpec cut;
    CheckSpec check;
    int ids = 0; // given out so far
    std::optional<Nested> nested = std::nullopt; // when it was saved

    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("name", self.name, AtMost{10'000}, Label{});
        visit("pieces", self.pieces, AtMost{10'000});
        visit("sheet", self.sheet);
        visit("placings", self.placings, AtMost{100'000});
        visit("hand_off", self.handOff);
        visit("cut", self.cut);
        visit("check", self.check);
        visit("ids", self.ids, Within{0, 2'000'000'000}, Label{});
        visit("nested", self.nested, Label{});
    }
    bool operator==(const Job&) const = default;
};

// Gives an id to whatever has none yet, and a new one to the later of two with the same.
void giveIds(Job& job);

Piece* find(Job& job, PieceId id);
const Piece* find(const Job& job, PieceId id);
const LineSpec* find(const Piece& piece, LineId id);

} // namespace yokai
