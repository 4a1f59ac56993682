// A part of the plane in whole pixels of the picture, which may reach beyond it. Private to the bleed room.
#pragma once

#include "outline/offset.h"

#include <cmath>

namespace yokai {

struct Window {
    int x0 = 0, y0 = 0, width = 0, height = 0;
};

// Round all that is kept, and `reach` farther.
inline Window windowOf(const DistanceField& edge, double reach)
{
    Rect box = Rect::nothing();
    for (const Contour& c : edge.contours())
        box.add(bounds(c.points));
    const int x0 = int(std::floor(box.x0 - reach)) - 1, y0 = int(std::floor(box.y0 - reach)) - 1;
    return {x0, y0, int(std::ceil(box.x1 + reach)) + 1 - x0, int(std::ceil(box.y1 + reach)) + 1 - y0};
}

inline Polyline inWindow(const Polyline& line, const Window& window)
{
    Polyline out;
    out.reserve(line.size());
    for (const Point p : line)
        out.push_back(p - Point{double(window.x0), double(window.y0)});
    return out;
}

inline Affine toMmOf(const Window& window, double pxPerMm) { return Affine::scale(1 / pxPerMm, 1 / pxPerMm) * Affine::move(window.x0, window.y0); }

} // namespace yokai
