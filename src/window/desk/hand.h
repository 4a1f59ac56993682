// What the maker has in hand on the bench, and how it is set. Not part of the job.
#pragma once

#include "job/job.h"
#include "keep/keep.h"

#include <memory>
#include <optional>

namespace yokai {

enum class Hold {
    Nothing,   // press to select, drag what has handles
    Guide,     // Artwork: draw along what should be level or upright
    Measure,   // Artwork: along what is of a known length
    Tilt,      // Artwork: the corners of a known rectangle, to take out tilt
    Frame,     // Artwork: crop by handles
    InsideBox, // Keep: outlines in which the rule works
    InsideLasso,
    RubOut, // Keep: brushes
    BringBack,
    RubOutLike, // Keep: an area of like colour
    Pick,       // Keep: a colour of the paper, or to keep
    NodeLasso, // Touch-up: nodes drawn round
    Stretch,   // between two places of an outline: see StretchAs
    Join,
    Smooth, // a brush along a line
    Simplify,
    RoundCorner,
    Tab,
    Hole,
    DropPath,
    AddNode,
    AddArea, // areas drawn: see DrawnAs
    TakeArea,
    BesideArea,
    KeepArea,
    GuideLine,
    PlaceEdit, // the selected one, again
    SubjectBox, // Keep: where the subject is looked for, and strokes that say what belongs to it
    SubjectIs,
    SubjectIsNot,
    PickLayer,  // Keep: a colour, or an area, that is to be a layer of its own
    PickBleed, // Bleed: its colour, or the border's, from the picture
    MarkFeature, // Sheet: what is to be a mark, in the picture
    ShowCut,   // Bleed: the piece as a cut that lands off leaves it
};

// What takes the place of a stretch.
enum class StretchAs { Straight, Smooth, Drawn, Nothing };
// How an area is drawn.
enum class DrawnAs { Lasso, Brush, Lines, Curves, Box, RoundedBox, Ellipse, Circle };
// Which nodes a box or a lasso selects: those in it, or those of all it touches.
enum class Takes { Enclosed, Touched };

// An outline that is being drawn by single places, mm.
struct Sketch {
    std::vector<Point> at;
    std::vector<Point> out; // of each, the handle of the curve that leaves it; at a corner the place itself
    bool operator==(const Sketch&) const = default;
};

// From one place of the picture to another, source pixels.
struct Measured {
    Point from, to;
    bool operator==(const Measured&) const = default;
};

// A cut line as it is, and the middle of the picture it is on, mm.
struct LineTaken {
    LineSpec line;
    std::shared_ptr<const Paths> paths;
    Point middle;
};

struct Hand {
    Hold hold = Hold::Nothing;
    std::optional<Measured> measured; // of the current piece; goes when anything else is taken in hand
    std::optional<Corners4> corners;  // likewise: of a rectangle, source pixels
    Length brush = Length::mm(3); // across
    bool square = false;
    double tolerance = 10; // of an area of like colour, CIEDE2000
    Length radius = Length::mm(0.5);               // of a corner
    Length tab = Length::mm(10), tabHole = Length::mm(4); // across
    bool upright = false;                          // a tab's: else it points away from the line
    Length simplify = Length::mm(0.05); // how far an outline may stray
    Length smooth = Length::mm(2);      // how long the lumps are
    Length hole = Length::mm(4);                   // across
    Length boxRadius = Length::mm(3);              // of a rounded box that is drawn
    StretchAs stretchAs = StretchAs::Straight;
    DrawnAs drawnAs = DrawnAs::Lasso;
    Takes takes = Takes::Enclosed;
    bool snaps = true;
    Length offBy = Length::mm(0.5); // how far off the cut is shown
    Length jog = 1_mm; // a press moves the machine's head so far; 0: for as long as it is held
    bool onlyHere = false; // of a colour picked for a layer: its one area
    bool lifts = false;    // the layer worked on is shown lifted off the others
    double offTowards = 45;         // degrees clockwise from the right
    std::shared_ptr<const LineTaken> taken; // a cut line that is taken along to other pieces
    Sketch sketch; // goes when anything else is taken in hand
    bool operator==(const Hand&) const = default;

    // Sizes of a tab as makers of either measure know them.
    struct TabSizes {
        Length across, hole;
        bool operator==(const TabSizes&) const = default;
    };
    static TabSizes usualTab(Unit unit) { return unit == Unit::Inch ? TabSizes{Length::inches(0.42), Length::inches(0.2)} : TabSizes{10_mm, 4_mm}; }
};

// What a held key shows instead.
enum class Peek { Nothing, Bare, KeptAlone };

} // namespace yokai
