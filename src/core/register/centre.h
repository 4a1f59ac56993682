// Where exactly a mark's middle lies in a picture. Private to the room.
#pragma once

#include "register/fit.h"
#include "sheet/marks.h"

#include <opencv2/core.hpp>

#include <optional>

namespace yokai {

// `near` is good to a few pixels; `map` says how the design lies in the picture about there. A disc's middle is that of its darkness; a
// cross's or a bracket's is where the lines through its arms' middles meet. Nothing where there is no such mark.
std::optional<Point> exactCentre(const cv::Mat& grey, const Mark& mark, Point near, const Homography& map);

} // namespace yokai
