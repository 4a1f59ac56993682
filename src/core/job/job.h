// The job: everything a maker has decided, as plain data.
//
// A Job has value semantics and is small (pictures are shared), so undo keeps
// whole Jobs. Nothing computed is in it; see derive.h for what follows from it.
#pragma once

#include "artwork/artwork.h"
#include "keep/keep.h"
#include "outline/build.h"
#include "register/fit.h"
#include "sheet/sheet.h"

#include <optional>
#include <string>
#include <vector>

namespace yokai {

enum class SizeBy { File, Width, Height, Ppi };

struct ArtworkSpec {
    Picture picture;
    SizeBy sizeBy = SizeBy::File;
    Length side;    // the typed side, with Width or Height
    double ppi = 0; // with Ppi
    // Pixels per mm, the same both ways. Throws Error(Usage) for sizes out of 1 mm to 20 m.
    double pxPerMm() const;
    double width() const { return picture.info.width / pxPerMm(); }   // mm
    double height() const { return picture.info.height / pxPerMm(); } // mm
};

enum class LineKind { Through, Kiss, Perforate, Crease };
constexpr LineKind lineKinds[] = {LineKind::Through, LineKind::Kiss, LineKind::Perforate, LineKind::Crease};
const char* name(LineKind kind);    // "through"
const char* name(Corners corners);  // "round"

struct LineSpec {
    LineKind kind = LineKind::Through;
    Length offset = Length::mm(2); // positive outwards
};

struct CutLinesSpec {
    std::vector<LineSpec> lines = {LineSpec{}};
    Length tolerance = Length::um(20);
    Corners corners = Corners::Round;
    Length joinGap;            // parts nearer than this become one
    Length roundInside;        // the radius the tool can follow
    double smallestNotch = 0;  // mm2; enclosed notches under it are closed
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
