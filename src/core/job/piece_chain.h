// The chain of steps for one piece, from its picture to its cut lines. Private to
// the job room.
#pragma once

#include "job/derive.h"

namespace yokai {

// Fills `out` as far as it gets: a piece without a line still shows its picture. Throws
// Error where the chain ends early. Adds to `milliseconds` what each step took.
void derivePiece(const Piece& piece, StepCache& cache, Want want, PieceResult& out, std::map<std::string, double>& milliseconds, const Work& work);

} // namespace yokai
