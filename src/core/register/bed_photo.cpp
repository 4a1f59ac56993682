#include "register/bed_photo.h"

#include "base/error.h"
#include "base/remapped.h"

namespace yokai {

namespace {

// From the picture as a lens without a bulge would show it to the bed.
Homography onBedOf(const BedPhoto& photo)
{
    Corners4 seen = photo.corners;
    for (Point& p : seen)
        p = photo.lens.straight(p);
    const auto map = homographyOf(seen, {Point{0, 0}, {photo.width, 0}, {photo.width, photo.depth}, {0, photo.depth}});
    if (!map)
        throw Error(ErrorKind::Input, "the bed's four corners in the picture are not those of a bed; put each where the bed has it");
    return *map;
}

} // namespace

Point BedPhoto::onBed(Point px) const { return onBedOf(*this)(lens.straight(px)); }

BedCorners likelyCorners(double width, double height)
{
    constexpr double in = 0.08; // of the picture
    const double x0 = in * width, x1 = width - x0, y0 = in * height, y1 = height - y0;
    return {Point{x0, y1}, Point{x1, y1}, Point{x1, y0}, Point{x0, y0}};
}

Rgba8 fromAbove(const Rgba8& picture, const BedPhoto& photo, double pxPerMm, const Work& work)
{
    const Homography toSeen = onBedOf(photo).inverse();
    const int w = std::max(1, int(std::lround(photo.width * pxPerMm))), h = std::max(1, int(std::lround(photo.depth * pxPerMm)));
    return remapped(picture, w, h, [&](Point p) { return photo.lens.bent(toSeen(Point{p.x / pxPerMm, photo.depth - p.y / pxPerMm})); }, Rgba{255, 255, 255, 255}, work);
}

} // namespace yokai
