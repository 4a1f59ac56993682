// One piece, from its picture to its cut lines. Private to the job room.
#pragma once

#include "job/derive.h"
#include "job/steps/layers.h"

namespace yokai {

// Fills `out` as far as it gets: a piece without a line still shows its picture. Throws
// Error where the chain ends early.
void derivePiece(const Piece& piece, Run& run, Want want, PieceResult& out);

// The colours of a piece's picture, without the single areas its layers took.
Made<Split> splitOf(const Piece& piece, const Made<Framed>& framed, double pxPerMm, Run& run);

} // namespace yokai
