#include "artwork/tilt.h"

#include "base/remapped.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

constexpr double mostAcross = 12'000, mostPixels = 60e6, aroundIt = 3; // pixels; of the rectangle's longer side

Lens lensOf(double bulge, int width, int height) { return {{width / 2.0, height / 2.0}, std::hypot(width, height) / 2, bulge}; }

// What can be seen of the plane, mm: the picture's own outline on it, as far as that lies before the camera. Asked for at every turn, so few places.
Rect seenOfPlane(const Homography& toSeen, const Lens& lens, const Rect& within, int width, int height)
{
    const Homography toPlane = toSeen.inverse();
    Rect out = Rect::nothing();
    constexpr int steps = 24; // a lens bends the picture's sides
    const Point corners[] = {{0, 0}, {double(width), 0}, {double(width), double(height)}, {0, double(height)}};
    for (std::size_t side = 0; side < 4; ++side)
        for (int k = 0; k < steps; ++k) {
            const Point p = lens.straight(mix(corners[side], corners[(side + 1) % 4], double(k) / steps));
            if (1 + toPlane.g * p.x + toPlane.h * p.y <= 0) // at the horizon, or above it
                continue;
            const Point at = toPlane(p);
            out.add(Point{std::clamp(at.x, within.x0, within.x1), std::clamp(at.y, within.y0, within.y1)});
        }
    return out;
}

} // namespace

void setCorners(TiltSpec& tilt, const Corners4& c)
{
    tilt.topLeft = c[0];
    tilt.topRight = c[1];
    tilt.bottomRight = c[2];
    tilt.bottomLeft = c[3];
}

std::optional<FromAbove> FromAbove::of(const TiltSpec& tilt, int width, int height)
{
    FromAbove out;
    out.lens_ = lensOf(tilt.bulge, width, height);
    Corners4 seen = tilt.corners();
    for (Point& p : seen)
        p = out.lens_.straight(p);
    const double w = tilt.across.mm(), h = tilt.down.mm();
    const auto map = w > 0 && h > 0 ? homographyOf({Point{0, 0}, {w, 0}, {w, h}, {0, h}}, seen) : std::nullopt;
    if (!map || !(map->areaAt({w / 2, h / 2}) > 0)) // seen from behind
        return std::nullopt;
    out.toSeen_ = *map;
    const Rect rectangle{0, 0, w, h};
    const Rect shown = tilt.lies ? rectangle : seenOfPlane(*map, out.lens_, rectangle.grown(aroundIt * std::max(w, h)), width, height);
    if (shown.empty() || !(shown.width() > 0) || !(shown.height() > 0))
        return std::nullopt;
    out.corner_ = {shown.x0, shown.y0};
    out.pxPerMm_ = std::min({std::sqrt(std::abs(map->areaAt(rectangle.centre()))), mostAcross / std::max(shown.width(), shown.height()),
                             std::sqrt(mostPixels / (shown.width() * shown.height()))});
    if (!(out.pxPerMm_ > 0) || !std::isfinite(out.pxPerMm_))
        return std::nullopt;
    out.width_ = std::max(1, int(std::lround(shown.width() * out.pxPerMm_)));
    out.height_ = std::max(1, int(std::lround(shown.height() * out.pxPerMm_)));
    return out;
}

Affine FromAbove::toPlane() const { return Affine::move(corner_.x, corner_.y) * Affine::scale(1 / pxPerMm_, 1 / pxPerMm_); }
Point FromAbove::toPicture(Point above) const { return lens_.bent(toSeen_(toPlane()(above))); }
Point FromAbove::fromPicture(Point px) const { return toPlane().inverse()(toSeen_.inverse()(lens_.straight(px))); }

Rgba8 seenFromAbove(const Rgba8& picture, const FromAbove& above, const Work& work)
{
    return remapped(picture, above.width(), above.height(), [&](Point p) { return above.toPicture(p); }, Rgba{}, work);
}

} // namespace yokai
