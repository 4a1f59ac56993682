// What a piece's own places follow when its picture changes under them.
//
// A newer picture in a piece's place ("the artist sent version 2"): all settings and all work by hand stay where they
// were in the picture, whatever its number of pixels, and the piece as large as it was.
#pragma once

#include "job/job.h"

namespace yokai {

// What was at a part of the old picture's width and height is at that part of the new one's.
void replacePicture(Piece& piece, Picture picture);

// Another unit for a line from a drawing that says no size: it is as large as that makes it, with all work on it by hand.
void takeUnit(LineSpec& line, double anInch);

// Takes the tilt out of a piece's picture, or leaves it as it came. Its turn, crop and size start anew; work by hand stays on what it was made on.
void setTilt(Piece& piece, const std::optional<TiltSpec>& tilt);

} // namespace yokai
