// A picture taken at an angle, as it is seen from right above: where the corners of a rectangle of known sides are in it says how
// all of its plane lies, and at what scale.
//
// What comes after it, sees the straightened picture: "source pixels" are then pixels of that.
#pragma once

#include "base/fields.h"
#include "base/lens.h"
#include "base/raster.h"
#include "base/work.h"
#include "path/homography.h"

namespace yokai {

struct TiltSpec {
    Point topLeft, topRight, bottomRight, bottomLeft; // of the rectangle as it is to be seen; pixels of the picture as it came, upright
    Length across, down;                              // its sides
    double bulge = 0;                                 // of the lens, see Lens
    // The rectangle is the sheet, or the mat: what is seen lies on it and is cut where it lies. It is not printed.
    bool lies = false;
    Corners4 corners() const { return {topLeft, topRight, bottomRight, bottomLeft}; }
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("top_left", self.topLeft);
        visit("top_right", self.topRight);
        visit("bottom_right", self.bottomRight);
        visit("bottom_left", self.bottomLeft);
        visit("across", self.across, Within{1_mm, 20'000_mm});
        visit("down", self.down, Within{1_mm, 20'000_mm});
        visit("bulge", self.bulge, Within{-0.5, 0.5});
        visit("lies", self.lies);
    }
    bool operator==(const TiltSpec&) const = default;
};
void setCorners(TiltSpec& tilt, const Corners4& corners);

// How a picture of so many pixels is seen from above: of what lies on the sheet the sheet, else all that is seen of the plane as far as three
// times the rectangle's longer side, as fine as the rectangle was taken.
class FromAbove {
public:
    // None where the corners are no rectangle's: crossed over, or in a line.
    static std::optional<FromAbove> of(const TiltSpec& tilt, int width, int height);
    int width() const { return width_; }
    int height() const { return height_; }
    double pxPerMm() const { return pxPerMm_; }
    Point toPicture(Point above) const;   // pixels of either
    Point fromPicture(Point px) const;
    Affine toPlane() const;               // from pixels seen from above to mm, (0, 0) the rectangle's top-left corner

private:
    Homography toSeen_; // from the plane's mm to the picture as a straight lens has it
    Lens lens_;
    Point corner_;      // of what is seen, mm
    double pxPerMm_ = 1;
    int width_ = 1, height_ = 1;
};

Rgba8 seenFromAbove(const Rgba8& picture, const FromAbove& above, const Work& work = {});

} // namespace yokai
