// Taking the tilt out of a picture: by four corners of a known rectangle, or by the sheet's own marks.
#pragma once

#include "desk/desk.h"

namespace yokai::edits {

void holdCorners(Desk& desk); // takes the four corners in hand, or puts them down
std::array<Length, 2> knownSides(const Desk& desk); // of the rectangle last said, else of the sheet
// The corners in hand are those of a rectangle with these sides. Of a sheet, on which what is seen lies already, the job's sheet is as large.
void takeTiltOut(Desk& desk, Length across, Length down, bool lies);
void takeTiltOutByMarks(Desk& desk); // the current sheet's, as they were printed
void leaveTilt(Desk& desk);          // the picture as it came
// A flat scan is the sheet itself: what is in its frame lies on a sheet of that size, is cut where it lies, and is not printed. Off: the
// picture as it came.
void layAsSheet(Job& job, Piece& piece, bool lies);

} // namespace yokai::edits
