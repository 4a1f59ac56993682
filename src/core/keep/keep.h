// What is picture and what is paper: from pixels to coverage.
//
// Coverage is one byte a pixel: 0 nothing kept, 255 all kept, between them the
// fraction of an edge pixel that is kept. The edge runs at one half.
#pragma once

#include "artwork/artwork.h"
#include "base/geometry.h"
#include "base/raster.h"
#include "base/work.h"
#include "keep/spec.h"
#include "outline/contour.h"

#include <optional>
#include <string>
#include <vector>

namespace yokai {

// Why the rule chosen by itself was chosen.
enum class KeepWhy { Asked, Clear, ClearWithin, OneColour, FillsFrame };

struct Coverage {
    SharedGray pixels;
    KeepRule rule = KeepRule::Alpha; // what was used: never Auto
    double level = 50;
    std::vector<Rgba> papers;  // what was used as paper's colours
    double smoothing = 0;      // what was used, pixels
    double softness = 0;       // of all that blunts corners, as the standard deviation of a smoothing, pixels
    double uncertain = 0;      // how closely the edge can be known, pixels: more where it is ragged
    bool opaqueInside = false; // the picture's own opacity is not the coverage
    KeepWhy why = KeepWhy::Asked; // for Auto: why this rule
};

double usualLevel(KeepRule rule);

// What the rules read besides the picture's pixels.
struct KeepGround {
    const Gray8* within = nullptr; // how far a pixel lies on the picture; null: all do
    Affine fromSource;             // source pixels to these
    double pxPerMm = assumedPpi / 25.4;
    bool lossy = false;
    const Gray8* subject = nullptr; // found already, in source pixels; null: it is looked for in these
};

// Never throws for a picture in which nothing is kept; its coverage is then all 0.
Coverage coverageOf(const Rgba8& pixels, const KeepSpec& spec, const KeepGround& ground = {}, const Work& work = {});
// Its steps: what reads the picture, the outlines it works inside of, and each touch by hand.
Coverage ruledCoverage(const Rgba8& pixels, const RuleSpec& spec, const KeepGround& ground, const Work& work = {});
Coverage insideOnly(Coverage coverage, const std::vector<Ring>& outlines, const KeepGround& ground, const Work& work = {});
Coverage touched(const Coverage& before, const Touch& touch, const Rgba8& pixels, const KeepGround& ground, const Work& work = {});

// A kept or dropped part, or an opening in one.
struct Part {
    bool opening = false;
    bool kept = true; // for an opening: stays open
    double area = 0;  // mm2, a part's without its openings
    Rect box;         // mm, in the picture
    int openings = 0; // of a part
    int contour = -1; // in the traced edge
    int within = -1;  // an opening's part, as an index into the list
    Point inside;     // mm, a place in it
    bool byHand = false;
};

struct Parts {
    std::vector<Part> all; // largest parts first, each followed by its openings
    Contours contours;     // what stays, in pixels
    Contours dropped;      // the outlines of what is dropped
    int keptParts = 0, droppedParts = 0, keptOpenings = 0, filledOpenings = 0;
};

Parts partsOf(Contours edge, const PartsSpec& spec, const Affine& fromSource, double pxPerMm, const Work& work = {});

// Opacity in print: what the picture itself has, where it is kept.
SharedGray printedOf(const Rgba8& pixels, const Coverage& coverage, const Parts& parts, const Work& work = {});

} // namespace yokai
