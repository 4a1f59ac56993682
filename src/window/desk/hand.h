// What the maker has in hand on the bench, and how it is set. Not part of the job.
#pragma once

#include "keep/keep.h"

namespace yokai {

enum class Hold {
    Nothing,   // press to select, drag what has handles
    Guide,     // Artwork: draw along what should be level or upright
    Frame,     // Artwork: crop by handles
    InsideBox, // Keep: outlines in which the rule works
    InsideLasso,
    RubOut, // Keep: brushes
    BringBack,
    RubOutLike, // Keep: an area of like colour
    Pick,       // Keep: a colour of the paper, or to keep
    Straighten, // Touch-up: a stretch made straight
    RoundCorner,
    Tab,
    Hole,
    DropPath,
    Simplify,
    AddNode,
    AddArea,
    TakeArea,
    PlaceEdit, // the selected one, again
};

struct Hand {
    Hold hold = Hold::Nothing;
    Length brush = Length::mm(3); // across
    bool square = false;
    double tolerance = 10; // of an area of like colour, CIEDE2000
    Length radius = Length::mm(0.5);               // of a corner
    Length tab = Length::mm(10), tabHole = Length::mm(4); // across
    Length simplify = Length::mm(0.05); // how far an outline may stray
    Length hole = Length::mm(4);                   // across
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
