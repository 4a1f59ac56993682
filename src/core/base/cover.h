// How much of each pixel polygons cover, exactly: the area under each edge is
// added up along the rows. (The signed-area method of vector font rasterizers.)
//
// Unit: pixels; pixel (i, j) covers [i, i+1] x [j, j+1]. Polygons wind: where two
// with the same sense overlap the cover is full once, and one wound the other way
// within another takes away.
#pragma once

#include "base/geometry.h"
#include "base/work.h"

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

namespace yokai {

// Calls row(y, x0, cover) for each row the polygons touch within width x height, with
// the cover of pixels x0, x0 + 1, ... as 0..255. Rows may come from several threads,
// each row once.
void coverPolygons(std::span<const std::vector<Point>> polygons, int width, int height,
                   const std::function<void(int y, int x0, std::span<const std::uint8_t> cover)>& row, const Work& work = {});

} // namespace yokai
