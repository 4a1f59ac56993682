// What is picture and what is paper: from pixels to coverage.
//
// Coverage is one byte a pixel: 0 nothing kept, 255 all kept, between them the
// fraction of an edge pixel that is kept. The edge runs at one half.
#pragma once

#include "artwork/artwork.h"
#include "base/geometry.h"
#include "base/raster.h"
#include "base/work.h"
#include "outline/contour.h"

#include <optional>
#include <string>
#include <vector>

namespace yokai {

enum class KeepRule {
    Auto,   // the best of the others for this picture
    Alpha,  // what is opaque
    Paper,  // what differs from the paper's colours
    Dark,   // what is darker than the level
    Light,  // what is lighter
    Colour, // what is like one of the chosen colours
    All,    // the whole picture
};
const char* name(KeepRule rule); // as in --keep
std::optional<KeepRule> keepRuleFrom(std::string_view name);

enum class Openings { Keep, Fill, Over };

// Places are in source pixels (see artwork/frame.h), so that they stay on what they
// were put on when the picture is cropped, turned or sized anew.

struct PartChoice {
    Point at;
    bool keep = true; // an opening: stays open
    bool operator==(const PartChoice&) const = default;
};

// A colour chosen by hand, and where, if it was picked from the picture.
struct Swatch {
    Rgba colour{};
    std::optional<Point> at = std::nullopt;
    bool operator==(const Swatch&) const = default;
};

// Work by hand on what the rule kept. In the order it was done; the later wins.
struct Touch {
    enum class Kind { RubOut, BringBack, RubOutLike };
    Kind kind = Kind::RubOut;
    bool square = false;       // the brush's tip
    double radius = 0;         // of the tip, source pixels; half the side of a square one
    std::vector<Point> points; // the brush's way; RubOutLike: the one place its area spreads from
    double tolerance = 10;     // RubOutLike: how unlike its colour may become, CIEDE2000
    bool operator==(const Touch&) const = default;
};

struct KeepSpec {
    KeepRule rule = KeepRule::Auto;
    // 0..100, absent: the rule's own. Alpha: percent of opacity. Paper and Colour:
    // CIEDE2000 difference. Dark and Light: lightness L*.
    std::optional<double> level;
    std::vector<Swatch> papers;                 // empty: found by itself
    bool paperAnywhere = false;                 // else only paper joined to the picture's edge is taken out
    std::vector<Swatch> colours;                // of the Colour rule
    bool oneArea = false;                       // Colour: only the areas the colours were picked from
    std::optional<Length> smoothing;            // absent: as much as the picture needs
    std::vector<std::vector<Point>> onlyInside; // closed outlines; empty: everywhere
    std::vector<Touch> touches;
    double smallestPart = 1.0; // mm2; smaller parts are dropped
    Openings openings = Openings::Keep;
    double openingsOver = 4.0; // mm2; with Over, openings up to this are filled
    // Parts and openings kept or dropped by hand, whatever the limits say. Each is known by
    // a place in it, so that it is found again after the edge has changed; later ones win.
    std::vector<PartChoice> byHand;
};

struct Coverage {
    SharedGray pixels;
    KeepRule rule = KeepRule::Alpha; // what was used: never Auto
    double level = 50;
    std::vector<Rgba> papers;  // what was used as paper's colours
    double smoothing = 0;      // what was used, pixels
    double uncertain = 0;      // how closely the edge can be known, pixels: more where it is ragged
    bool opaqueInside = false; // the picture's own opacity is not the coverage
    std::string why;           // for Auto, why this rule: "its surround is transparent"
};

double usualLevel(KeepRule rule);

// What the rules read besides the picture's pixels.
struct KeepGround {
    const Gray8* within = nullptr; // how far a pixel lies on the picture; null: all do
    Affine fromSource;             // source pixels to these
    double pxPerMm = assumedPpi / 25.4;
    bool lossy = false;
};

// Never throws for a picture in which nothing is kept; its coverage is then all 0.
Coverage coverageOf(const Rgba8& pixels, const KeepSpec& spec, const KeepGround& ground = {}, const Work& work = {});
// Its steps: what reads the picture, the outlines it works inside of, and each touch by hand.
Coverage ruledCoverage(const Rgba8& pixels, const KeepSpec& spec, const KeepGround& ground, const Work& work = {});
Coverage insideOnly(Coverage coverage, const std::vector<std::vector<Point>>& outlines, const KeepGround& ground, const Work& work = {});
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

Parts partsOf(Contours edge, const KeepSpec& spec, const Affine& fromSource, double pxPerMm, const Work& work = {});

// Opacity in print: what the picture itself has, where it is kept.
SharedGray printedOf(const Rgba8& pixels, const Coverage& coverage, const Parts& parts, const Work& work = {});

} // namespace yokai
