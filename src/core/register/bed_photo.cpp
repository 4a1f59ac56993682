#include "register/bed_photo.h"

#include "base/error.h"

namespace yokai {

namespace {

// Corner by corner, as a lens without a bulge would show them, and as the bed has them.
std::array<MarkPair, 4> pairsOf(const BedPhoto& photo)
{
    const Point bed[] = {{0, 0}, {photo.width, 0}, {photo.width, photo.depth}, {0, photo.depth}};
    std::array<MarkPair, 4> out;
    double sign = 0;
    for (std::size_t k = 0; k < 4; ++k) {
        const Point a = photo.corners[k], b = photo.corners[(k + 1) % 4], c = photo.corners[(k + 2) % 4];
        const double turns = cross(b - a, c - b);
        if (turns == 0 || turns * sign < 0)
            throw Error(ErrorKind::Input, "the bed's four corners in the picture are not those of a bed; put each where the bed has it");
        sign = turns;
        out[k] = {photo.lens.straight(a), bed[k]};
    }
    return out;
}

} // namespace

Point BedPhoto::onBed(Point px) const { return leastSquares(pairsOf(*this), FitModel::Projective)(lens.straight(px)); }

BedCorners likelyCorners(double width, double height)
{
    constexpr double in = 0.08; // of the picture
    const double x0 = in * width, x1 = width - x0, y0 = in * height, y1 = height - y0;
    return {Point{x0, y1}, Point{x1, y1}, Point{x1, y0}, Point{x0, y0}};
}

Rgba8 fromAbove(const Rgba8& picture, const BedPhoto& photo, double pxPerMm, const Work& work)
{
    std::array<MarkPair, 4> pairs = pairsOf(photo);
    for (MarkPair& p : pairs)
        p = {{p.measured.x, photo.depth - p.measured.y}, p.design};
    FoundMarks seen;
    seen.lens = photo.lens;
    seen.toPicture = leastSquares(pairs, FitModel::Projective);
    return flattened(picture, seen, photo.width, photo.depth, pxPerMm, work);
}

} // namespace yokai
