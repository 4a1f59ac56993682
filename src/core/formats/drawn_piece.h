// Lines as drawn elsewhere, as those of a piece.
#pragma once

#include "formats/cut_file.h"

namespace yokai {

// A line a kind that there is, its outlines in source pixels of a picture that mm are brought into so.
std::vector<LineSpec> drawnLines(const CutItems& items, const Affine& mmToSource);

// A piece of nothing but lines: its picture is as large as the drawing and clear, so that nothing is printed.
Piece pieceOfLines(const CutFile& file, const std::string& fileName);

} // namespace yokai
