// One piece, from its picture to its cut lines. Private to the job room.
#pragma once

#include "job/derive.h"

namespace yokai {

// Fills `out` as far as it gets: a piece without a line still shows its picture. Throws
// Error where the chain ends early.
void derivePiece(const Piece& piece, Run& run, Want want, PieceResult& out);

} // namespace yokai
