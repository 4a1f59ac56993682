// What is picture and what is paper: from pixels to coverage.
//
// Coverage is one byte a pixel: 0 nothing kept, 255 all kept, between them the
// fraction of an edge pixel that is kept. The edge runs at one half.
#pragma once

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
    Paper,  // what differs from the paper's colour; paper is what is joined to the picture's edge
    Dark,   // what is darker than the level
    Light,  // what is lighter
    Colour, // what is like one colour
    All,    // the whole picture
};
const char* name(KeepRule rule); // as in --keep
std::optional<KeepRule> keepRuleFrom(std::string_view name);

enum class Openings { Keep, Fill, Over };

struct PartChoice {
    Point at;
    bool keep = true; // an opening: stays open
    bool operator==(const PartChoice&) const = default;
};

struct KeepSpec {
    KeepRule rule = KeepRule::Auto;
    // 0..100, absent: the rule's own. Alpha: percent of opacity. Paper and Colour:
    // CIEDE2000 difference. Dark and Light: lightness L*.
    std::optional<double> level;
    std::optional<Rgba> paper; // absent: found by itself
    Rgba colour{};             // of the Colour rule
    double smallestPart = 1.0; // mm2; smaller parts are dropped
    Openings openings = Openings::Keep;
    double openingsOver = 4.0; // mm2; with Over, openings up to this are filled
    // Parts and openings kept or dropped by hand, whatever the limits say. Each is known by a
    // place in it, as fractions of the picture's width and height, so that it is found
    // again after the edge has changed; later choices win.
    std::vector<PartChoice> byHand;
};

struct Coverage {
    SharedGray pixels;
    KeepRule rule = KeepRule::Alpha; // what was used: never Auto
    double level = 50;
    Rgba paper{255, 255, 255, 255};
    std::string why; // for Auto, why this rule: "most of its edge is transparent"
};

double usualLevel(KeepRule rule);

// Never throws for a picture in which nothing is kept; its coverage is then all 0.
Coverage coverageOf(const Rgba8& pixels, const KeepSpec& spec, const Work& work = {});

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

// `size`: the picture's width and height in pixels.
Parts partsOf(Contours edge, const KeepSpec& spec, Point size, double pxPerMm, const Work& work = {});

// Opacity in print: what the picture itself has, where it is kept.
SharedGray printedOf(const Rgba8& pixels, const Coverage& coverage, const Parts& parts, const Work& work = {});

} // namespace yokai
