// Registration marks in a photo or a scan of the printed sheet: which of the dark shapes in it are the marks, which is which, and
// where exactly their middles lie.
//
// Shapes that may be marks are matched with where the marks were designed, whatever the way up, the scale and the tilt; places are then
// measured in the full picture to a fraction of a pixel, and a mild bulge of the lens is taken out where marks are to spare.
// What cannot be told for sure is refused.
//
// Unit: design in mm on the sheet, y down; pictures in pixels, the top-left corner of the first at (0, 0), y down.
#pragma once

#include "base/lens.h"
#include "base/raster.h"
#include "base/work.h"
#include "register/fit.h"
#include "sheet/marks.h"

#include <optional>
#include <span>
#include <vector>

namespace yokai {

struct FoundMarks {
    std::vector<std::optional<Point>> px; // a mark each; nothing where it was not seen
    Lens lens;
    Homography toPicture;          // from the design to the picture as a straight lens sees it
    std::vector<double> residuals; // mm, a mark each, 0 where it was not seen: what that map leaves
    double worst = 0;
    double pxPerMm = 1; // in the middle of the marks
    // A place in the picture as one of the design.
    Point toDesign(Point px) const;
    // Where the corners of a sheet of that size are in the picture.
    Corners4 cornersOf(double width, double height) const;
};

// Throws Error(Input) where none are seen, Error(Fit) where they cannot be trusted: too few seen, more than one way to see them, or the
// shape of the whole is no sheet's.
FoundMarks findMarks(const Rgba8& picture, std::span<const Mark> design, const Work& work = {});

// Marks of any style that look alike, where nothing is known of the design: by size, the most numerous first. Places in pixels.
struct LooseMark {
    MarkStyle style;
    Point px;
    double size;
};
std::vector<LooseMark> likelyMarks(const Rgba8& picture, const Work& work = {});

// A mark, or any dark feature, nearest to a place: its middle, to a fraction of a pixel. For crosses drawn by hand and the like.
std::optional<Point> featureNear(const Rgba8& picture, Point near, double reach);

// The sheet as it was designed, so many pixels a mm, out of the picture.
Rgba8 flattened(const Rgba8& picture, const FoundMarks& found, double width, double height, double pxPerMm, const Work& work = {});

} // namespace yokai
