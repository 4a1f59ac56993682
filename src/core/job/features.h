// Marks that are features of a picture: crosses drawn by hand on a thing that was scanned, or whatever stands out on it. They belong to
// the picture and go where it goes. Nothing is printed of them, nor of the thing.
//
// Unit: mm on the sheet, y down, or in the piece's frame; source pixels in the job.
#pragma once

#include "job/derive.h"
#include "sheet/marks.h"

#include <optional>
#include <vector>

namespace yokai {

// One of them, as it lies on the sheet.
struct FeatureMark {
    PieceId piece;
    std::size_t index = 0; // of Piece::features
    Mark mark;
};

// Of each piece where its first copy lies; none where the job's marks are others.
std::vector<FeatureMark> featureMarksOf(const Job& job, const std::vector<PieceResult>& pieces, const Layout& layout);

// What stands out in a piece's whole picture next to a place of its frame, kept or not; none: nothing does.
std::optional<Point> featureIn(const PieceResult& piece, Point mm, double reach);

// Whether a piece is a thing that is there already, with features of its own for marks.
bool isThere(const Job& job, const Piece& piece);

} // namespace yokai
