// How the picture lies in the job: turned, cut to a frame, and at what size.
//
// The order is fixed: the upright picture is turned by quarters, mirrored,
// straightened, cropped to its frame and then sized. Nothing of it touches the
// original, so that any step can be changed later without losing another.
//
// Source pixels are those of the upright picture, (0, 0) its top-left corner; the
// frame is measured in source pixels from the picture's centre, after turning, so
// that it stays on the same part of the picture while the turn changes.
#pragma once

#include "artwork/artwork.h"
#include "base/geometry.h"

#include <optional>

namespace yokai {

enum class SizeBy {
    File,  // the file's own resolution
    Width, // `side` is as long as `sidePx` source pixels
    Height,
    Both, // `side` across and `down` down: the ratio is not kept
    Ppi,
};

struct ArtworkSpec {
    Picture picture;
    SizeBy sizeBy = SizeBy::File;
    Length side, down;             // as typed
    double sidePx = 0, downPx = 0; // how many source pixels they measure; 0: the whole picture's side
    double ppi = 0;                // with Ppi

    int quarters = 0;         // clockwise, 0..3
    bool mirror = false;      // left for right, as seen after the quarters
    double straighten = 0;    // degrees clockwise, -45..45
    std::optional<Rect> crop; // absent: all of the turned picture

    Rect whole() const; // the box of the turned picture
    // The crop, or the whole; a whole number of pixels unless the sides are set apart, and on
    // whole pixels where nothing has to be resampled.
    Rect frame() const;
    // Source pixels per mm, across and down the frame. Throws Error(Usage) for sizes out of 1 mm to 20 m.
    Point scale() const;
    // Pixels of the working copy per mm, the same both ways.
    double pxPerMm() const;
    double width() const; // of the frame, mm
    double height() const;
    Affine sourceToMm() const; // source pixels to mm in the frame

    // What a maker presses; each keeps what is seen of the picture in the frame.
    void turnRight();
    void turnLeft();
    void mirrorAcross();
    void straightenTo(double degrees);
    void cropTo(const Rect& mm); // in the present frame, clipped to the whole picture
    // Sizes with what is seen now as the measure.
    void setWidth(Length width, bool keepRatio = true);
    void setHeight(Length height, bool keepRatio = true);
};

// The working copy: the picture in its frame, with square pixels.
struct Framed {
    SharedRgba pixels;
    SharedGray within; // how far a pixel lies on the picture at all; null: all do
    Affine fromSource; // source pixels to pixels here
};

// Exact where no pixel has to be made anew. Throws Error(Usage) when the frame would
// need more than 20 000 px a side.
Framed framePicture(const SharedRgba& source, const ArtworkSpec& spec, const Work& work = {});

} // namespace yokai
