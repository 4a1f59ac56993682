// What follows from a job, as plain immutable data. See derive.h for how it is made.
//
// Unit: mm in the picture, (0, 0) its top-left corner, y down, unless said otherwise.
#pragma once

#include "bleed/drift.h"
#include "bleed/print_image.h"
#include "bleed/underprint.h"
#include "check/finding.h"
#include "engrave/engraving.h"
#include "job/job.h"
#include "job/step.h"
#include "keep/keep.h"
#include "layers/split.h"
#include "path/path.h"
#include "sheet/sheet.h"
#include "touchup/touch_up.h"

#include <cmath>
#include <memory>
#include <optional>
#include <vector>

namespace yokai {

// Where paper is meant to show.
struct BarePlace {
    Point centre;
    double radius = 0; // mm
    bool holds(Point p) const { return distance(p, centre) < radius; }
};

struct CutLine {
    LineId id;
    LineKind kind = LineKind::Through;
    LineShape shape = LineShape::Outline;
    Length offset;                       // as it came out, where a percentage was asked
    double cutLength = 0, gapLength = 0; // mm, of a perforation; no gap: unbroken
    double tolerance = 0;                // of the curve fit, mm
    int bridges = 0;                     // uncut stretches of each closed path but the holes,
    double bridgeWidth = 0;              // mm wide
    std::vector<Point> holes;            // the middles of those made by hand
    std::vector<Point> bridgesAt;        // where bridges were put by hand
    std::vector<BarePlace> bare;              // tabs and their fillets: bare paper is meant there
    std::vector<EditOutcome> edits;      // how each of the line's fares
    int lostParts = 0, splitParts = 0;   // of an inward line: parts it leaves nothing of, or cuts in pieces
    std::shared_ptr<const Paths> paths;
    double length = 0, area = 0;
    std::size_t nodes = 0;
};

// Whether a path is a hole made by hand, or a tab's.
bool isHole(const CutLine& line, const Path& path);
std::shared_ptr<const Paths> withoutHoles(const CutLine& line); // those are meant, whatever they go through
// How a path of a line is interrupted: by its perforation, or by the bridges that hold it.
Breaks breaksOf(const CutLine& line, const Path& path);
std::vector<Point> bridgesOn(const CutLine& line, const Path& path); // their middles; none of a perforation

struct LayerResult {
    LayerId id;
    std::shared_ptr<const Coverage> coverage;
    std::shared_ptr<const Contours> edge; // all that was traced; Part::contour counts in it
    std::shared_ptr<const Parts> parts;
    bool isPrinted = true; // else it is cut from coloured stock, or engraved, or lies on the sheet already, or there is nothing to print
    std::shared_ptr<const Engraving> engraving; // null: none
    SharedGray printed; // opacity in print; absent when only lines were asked for
    std::shared_ptr<const PrintImage> bleed; // what is printed beneath it and beyond; null: nothing
    std::shared_ptr<const Plate> underprint; // of white, beneath all; null: none
    Length printReach;                       // how far the print goes beyond the kept edge
    std::vector<CutLine> lines;
    Rect kept = Rect::nothing(); // the box of what is kept
    Drift drift; // of the through lines, or of the kiss lines where there are none
    double driftAllowance() const { return std::isfinite(drift.least()) ? drift.least() : 0; }
};

struct PieceResult {
    PieceId id;
    double pxPerMm = 1, width = 0, height = 0; // mm
    Affine sourceToMm;                         // from the upright picture's pixels
    SharedRgba pixels;                         // the working copy in its frame
    bool clear = false;                        // nothing of the picture can be seen: it is there for its lines
    std::shared_ptr<const Split> split;        // its colours, where layers are made of them
    std::vector<LayerResult> layers;           // one for each of the piece's, as far as it got
    Rect kept = Rect::nothing();               // of all layers
    Rect box = Rect::nothing();                // all that is cut or printed
    std::shared_ptr<const PieceShape> shape;   // what nothing else may lie on; null while there is a problem
    std::optional<Error> problem;              // why there is no cut line

    // Of a piece of one layer; an empty one while there is none.
    const LayerResult& layer() const;
    const LayerResult& layer(LayerId id) const; // an empty one where it is not there
    bool whole() const { return !problem && !layers.empty(); }
};

struct Derived {
    std::vector<PieceResult> pieces; // in the job's order
    bool printed = true; // whether anything is printed, or lies printed on the sheet: else there are no marks, and nothing to fit to
    Layout sheet;
    std::string nestedKey; // of what was nested to the end, or to where it was stopped; empty: nothing was
    Findings findings;
    Milliseconds milliseconds;
    const PieceResult* find(PieceId id) const;
    bool isBlank() const; // nothing at all comes out of a printer: no picture, and no mark
};

} // namespace yokai
