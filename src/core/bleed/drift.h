// How far the cut may land off before it shows: paper inside the piece, or the cut in the artwork where a border
// is wanted. Exact, in any direction: the distance from the line to the edge of the print, and to that of the artwork.
//
// Unit: mm in the picture.
#pragma once

#include "base/work.h"
#include "outline/kept_edge.h"
#include "path/path.h"

#include <functional>

namespace yokai {

struct Drift {
    double paper = std::numeric_limits<double>::infinity();   // before paper shows; infinite where it is meant to be seen
    double artwork = std::numeric_limits<double>::infinity(); // before the artwork is cut into, 0 where it is; infinite where no border is wanted
    Point paperAt, artworkAt; // the weakest places
    double least() const { return std::min(paper, artwork); }
    Point at() const { return paper <= artwork ? paperAt : artworkAt; }
    void add(const Drift& other)
    {
        if (other.paper < paper) {
            paper = other.paper;
            paperAt = other.paperAt;
        }
        if (other.artwork < artwork) {
            artwork = other.artwork;
            artworkAt = other.artworkAt;
        }
    }
};

// Whether a border is wanted between the artwork and the line: of a line beyond its edge.
enum class Border { Wanted, None };
// Of one place of a line, `fromArtwork` beyond the artwork's edge and `fromPrint` beyond the print's, both negative within.
Drift driftAt(Point at, double fromArtwork, double fromPrint, Border border);
// Of lines of any shape. `skip`: places that do not count, such as a tab, where bare paper is meant.
Drift driftOf(const Paths& paths, const KeptEdge& artwork, const KeptEdge& print, Border border, const std::function<bool(Point)>& skip = {}, const Work& work = {});

} // namespace yokai
