// A picture seen through any map.
#pragma once

#include "base/geometry.h"
#include "base/raster.h"
#include "base/work.h"

#include <functional>

namespace yokai {

// `from` says where in the picture the middle of each new pixel lies, pixels, the picture's top-left corner at (0, 0). What lies beside the
// picture is `beside`. Between pixels it is interpolated by cubics; pictures are taken to be opaque. `from` is taken to be smooth: it is
// asked for along each row at every eighth pixel.
Rgba8 remapped(const Rgba8& picture, int width, int height, const std::function<Point(Point)>& from, Rgba beside, const Work& work = {});

} // namespace yokai
