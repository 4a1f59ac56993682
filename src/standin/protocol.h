// The stand-in's side of the conversation: one line in, any number of [..] lines
// and then ok or error:WHY out, as open-source motion firmware talks.
//
//   ?                        <Idle|MPos:x,y,0>
//   G0 G1 X Y F, G21 G90     moves, in mm, absolute (RS-274/NGC words)
//   M3 M5                    tool down, tool up
//   $I                       [ID:...]
//   $D sx sy turn skew dx dy how the next sheet is printed and loaded
//   $P PATH                  prints a PDF and lays it on the bed
//   $M x y d                 [MARK:x,y] the disc of diameter d near x, y
//   $V PATH                  writes the camera's picture: [VIEW:x,y,px_per_mm], its top-left corner
//   $T                       [TRUE:a,b,c,d,e,f] where the design really lies, for judging a cut
//   $C PATH                  writes the cuts made: JSON, a list of lists of [x,y]
//   $X                       forgets the cuts made
#pragma once

#include "bed.h"

#include <string>

namespace yokai::standin {

// The answer to one line, with its line ends.
std::string answer(Bed& bed, const std::string& line);

} // namespace yokai::standin
