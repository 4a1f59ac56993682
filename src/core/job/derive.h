// What follows from a job: the chain of steps from pixels to the sheet.
//
// Each step is a pure function of what it reads and is remembered under a digest
// of that; after a change only the steps that read it run again. derive() never
// touches the window, may run on any thread, and stops within 50 ms of being asked
// (throwing Cancelled).
#pragma once

#include "job/job.h"
#include "job/step_cache.h"
#include "outline/offset.h"
#include "path/path.h"
#include "sheet/sheet.h"

#include <map>
#include <memory>
#include <string>
#include <vector>

namespace yokai {

struct CutLine {
    LineKind kind = LineKind::Through;
    LineShape shape = LineShape::Outline;
    Length offset;                       // as it came out, where a percentage was asked
    double cutLength = 0, gapLength = 0; // mm, of a perforation; no gap: unbroken
    int lostParts = 0, splitParts = 0;   // of an inward line: parts it leaves nothing of, or cuts in pieces
    std::shared_ptr<const Paths> paths;  // mm in the picture, (0, 0) its top-left corner, y down
    double length = 0, area = 0;
    std::size_t nodes = 0;
};

enum class Severity { Note, Warning, Error };

struct Finding {
    std::string code; // "nothing-kept"
    Severity severity = Severity::Warning;
    int piece = -1; // -1: the sheet
    Point at;       // mm, in the piece or on the sheet
    std::string text;
};

struct PieceResult {
    double pxPerMm = 1, width = 0, height = 0; // mm
    Affine sourceToMm;                         // from the upright picture's pixels
    SharedRgba pixels;                         // the working copy in its frame
    std::shared_ptr<const Coverage> coverage;
    std::shared_ptr<const Parts> parts;
    SharedGray printed; // opacity in print; absent when only lines were asked for
    std::vector<CutLine> lines;
    Rect kept = Rect::nothing();  // the box of what is kept, mm
    Rect box = Rect::nothing();   // all that is cut or printed, mm
    std::optional<Error> problem; // why there is no cut line
    double driftAllowance = 0;    // mm the cut may land off before it meets the picture or shows paper
};

struct Derived {
    std::vector<PieceResult> pieces;
    Layout sheet;
    std::vector<Finding> findings;
    std::map<std::string, double> milliseconds; // by step, of what was computed now
};

// Errors of a piece stay with the piece; only Cancelled and failures of the whole come out.
enum class Want { All, Lines }; // Lines: no pictures for print
Derived derive(const Job& job, StepCache& cache, const Work& work = {}, Want want = Want::All);

} // namespace yokai
