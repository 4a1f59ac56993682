// The job: everything a maker has decided, as plain data.
//
// A Job has value semantics and is small (pictures are shared), so undo keeps
// whole Jobs. Nothing computed is in it; see derive.h for what follows from it.
#pragma once

#include "artwork/frame.h"
#include "keep/keep.h"
#include "outline/build.h"
#include "register/fit.h"
#include "sheet/sheet.h"

#include <optional>
#include <string>
#include <vector>

namespace yokai {

enum class LineKind { Through, Kiss, Perforate, Crease };
constexpr LineKind lineKinds[] = {LineKind::Through, LineKind::Kiss, LineKind::Perforate, LineKind::Crease};
const char* name(LineKind kind);   // "through"
const char* name(Corners corners); // "round"

// What a line follows: the kept shape's outline, or a plain figure round it.
enum class LineShape { Outline, Box, RoundedBox, Ellipse, Circle, BoxRoundAll };
constexpr LineShape lineShapes[] = {LineShape::Outline, LineShape::Box, LineShape::RoundedBox, LineShape::Ellipse, LineShape::Circle, LineShape::BoxRoundAll};
const char* name(LineShape shape); // "rounded-box"

struct LineSpec {
    LineKind kind = LineKind::Through;
    Length offset = Length::mm(2);                // positive outwards
    std::optional<double> percent = std::nullopt; // instead: of the longer side of what is kept
    LineShape shape = LineShape::Outline;
    Corners corners = Corners::Round;
    double sharpLimit = 4;              // in offsets: a sharp corner reaching farther is cut flat
    Openings openings = Openings::Keep; // of what is kept: the line goes round them, or not
    double openingsOver = 4;            // mm2; with Over, round those above this
    Length joinGap = Length();          // parts nearer than this become one
    Length roundInside = Length();      // the radius the tool can follow
    double smallestNotch = 0;           // mm2; enclosed notches under it are closed
    Length tolerance = Length::um(20);  // of the curve fit
    Length boxRadius = Length::mm(3);   // of a rounded box
    // Perforate: the dash and the space between two. Without a gap the line is written
    // unbroken on its own layer, for machines that make the pattern themselves.
    Length cutLength = Length::mm(3), gapLength = Length();
    bool clipsPrint = false; // the picture is printed up to this line and no farther; at most one
};

struct CutLinesSpec {
    std::vector<LineSpec> lines = {LineSpec{}};
};

struct Piece {
    std::string name;
    ArtworkSpec artwork;
    KeepSpec keep;
    CutLinesSpec cutLines;
    std::optional<int> copies = 1; // absent: as many as fit
};

struct HandOffSpec {
    std::string spot = "CutContour"; // of the through line
};

// What the stand-in does to a sheet it prints, so that the fit has something to find.
struct StandInSpec {
    double stretchX = 1.003, stretchY = 0.998;
    double turn = 0.6;  // degrees
    double skew = 0.15; // degrees
    Length shiftX = Length::mm(1.8), shiftY = Length::mm(-1.2);
};

struct CutSpec {
    bool useFit = true;
    FitModel model = FitModel::Auto;
    Length maxResidual = Length::um(300);
    StandInSpec standIn;
};

struct Job {
    std::string name = "Untitled";
    std::vector<Piece> pieces;
    SheetSpec sheet;
    HandOffSpec handOff;
    CutSpec cut;
};

} // namespace yokai
