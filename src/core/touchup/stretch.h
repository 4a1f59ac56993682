// A stretch's own frame: what an edit keeps of a shape that was drawn.
#pragma once

#include "path/path.h"

namespace yokai {

// Of each curve of an open path its handles and its end, where its ends lie at (0, 0) and (1, 0).
// `mirror`: the picture is shown as a mirror sees it.
std::vector<Point> frameOf(const Path& stretch, bool mirror);

} // namespace yokai
