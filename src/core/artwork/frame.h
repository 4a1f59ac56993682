// How the picture lies in the job: turned, cut to a frame, and at what size.
//
// The order is fixed: the upright picture's tilt is taken out, then it is turned by
// quarters, mirrored, straightened, cropped to its frame and sized. Nothing of it touches the
// original, so that any step can be changed later without losing another.
//
// Source pixels are those of the upright picture, without its tilt if that is taken
// out, (0, 0) its top-left corner; the
// frame is measured in source pixels from the picture's centre, after turning, so
// that it stays on the same part of the picture while the turn changes.
#pragma once

#include "artwork/artwork.h"
#include "artwork/tilt.h"
#include "base/fields.h"
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
constexpr std::array<Named<SizeBy>, 5> namesOf(SizeBy)
{
    return {{{SizeBy::File, "file"}, {SizeBy::Width, "width"}, {SizeBy::Height, "height"}, {SizeBy::Both, "both"}, {SizeBy::Ppi, "ppi"}}};
}

struct ArtworkSpec {
    Picture picture;
    std::optional<TiltSpec> tilt = std::nullopt; // of a picture taken at an angle
    SizeBy sizeBy = SizeBy::File;              // of what lies on the sheet it is always as it lies
    Length side, down;             // as typed
    double sidePx = 0, downPx = 0; // how many source pixels they measure; 0: the whole picture's side
    double ppi = 0;                // with Ppi

    int quarters = 0;         // clockwise, 0..3
    bool mirror = false;      // left for right, as seen after the quarters
    double straighten = 0;    // degrees clockwise, -45..45
    std::optional<Rect> crop; // absent: all of the turned picture

    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("picture", self.picture);
        visit("tilt", self.tilt);
        visit("size_by", self.sizeBy);
        visit("side", self.side, Within{0_mm, 20'000_mm});
        visit("side_px", self.sidePx, Within{0.0, 1e6});
        visit("down", self.down, Within{0_mm, 20'000_mm});
        visit("down_px", self.downPx, Within{0.0, 1e6});
        visit("ppi", self.ppi, Within{0.0, 100'000.0});
        visit("quarters", self.quarters, Within{0, 3});
        visit("mirror", self.mirror);
        visit("straighten_deg", self.straighten, Within{-45.0, 45.0});
        visit("crop", self.crop);
    }
    bool operator==(const ArtworkSpec&) const = default;

    // Source pixels, and how many are an inch as the file has it.
    struct Source {
        int width = 0, height = 0;
        double ppi = 0;
    };
    Source source() const;
    std::optional<FromAbove> fromAbove() const; // how it is seen without its tilt; none where there is none to take out, or its corners cannot be
    bool lies() const { return tilt && tilt->lies; }
    // Where it lies on the sheet, from mm in the frame; of what lies on one.
    std::optional<Affine> frameOnSheet() const;
    Rect whole() const; // the box of the turned picture
    // The crop, or the whole; a whole number of pixels unless the sides are set apart, and on
    // whole pixels where nothing has to be resampled.
    Rect frame() const;
    // Source pixels per mm, across and down the frame. Throws Error(Usage) for sizes out of 1 mm to 20 m.
    Point scale() const;
    bool hasScale() const; // whether scale() has an answer
    // Pixels of the working copy per mm, the same both ways.
    double pxPerMm() const;
    double width() const; // of the frame, mm
    double height() const;
    Affine sourceToMm() const; // source pixels to mm in the frame
    struct FrameSpec frameSpec() const;

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

// Just what the working copy depends on of all that.
struct FrameSpec {
    int sourceWidth = 0, sourceHeight = 0;
    int quarters = 0;
    bool mirror = false;
    double straighten = 0;
    Rect whole, frame;         // source pixels, from the picture's centre, after turning
    int width = 1, height = 1; // of the working copy, pixels
    bool resampled = false;    // else each of its pixels is one of the source's
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("source_width", self.sourceWidth);
        visit("source_height", self.sourceHeight);
        visit("quarters", self.quarters);
        visit("mirror", self.mirror);
        visit("straighten", self.straighten);
        visit("whole", self.whole);
        visit("frame", self.frame);
        visit("width", self.width);
        visit("height", self.height);
        visit("resampled", self.resampled);
    }
};

// The working copy: the picture in its frame, with square pixels.
struct Framed {
    SharedRgba pixels;
    SharedGray within; // how far a pixel lies on the picture at all; null: all do
    Affine fromSource; // source pixels to pixels here
    bool clear = false; // nothing of it can be seen: it is all transparent
};

// Exact where no pixel has to be made anew.
Framed framePicture(const SharedRgba& source, const FrameSpec& spec, const Work& work = {});
// Throws Error(Usage) when the frame would need more than 20 000 px a side.
inline Framed framePicture(const SharedRgba& source, const ArtworkSpec& spec, const Work& work = {}) { return framePicture(source, spec.frameSpec(), work); }

} // namespace yokai
