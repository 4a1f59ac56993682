// Whatever in a picture may be a mark: dark discs, crosses and brackets on lighter ground, by their shapes alone. Private to the room.
//
// Unit: pixels of the picture, the middle of the first at (0.5, 0.5); y down.
#pragma once

#include "base/work.h"
#include "sheet/marks.h"

#include <opencv2/core.hpp>

#include <vector>

namespace yokai {

struct Candidate {
    MarkStyle style = MarkStyle::Dots;
    Point at;        // to about a pixel
    double size = 0; // across
    double pure = 0; // how far its shape strays from the mark's: 0 not at all
};

// Looked for in a reduced picture: `grey` may be as large as it likes.
std::vector<Candidate> markCandidates(const cv::Mat& grey, const Work& work);

} // namespace yokai
