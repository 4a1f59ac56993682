// Several things in one scan, each made a piece of its own.
#pragma once

#include "job/derived.h"
#include "job/job.h"

#include <vector>

namespace yokai {

enum class Straighten { Nothing, EachThing }; // along its longest straight edge, if it has one

// How far a part has to be turned, degrees clockwise within 45, for its longest straight edge to be level or upright; 0 where it has none worth the name.
double turnToLevel(const Contour& outline);

// A piece for each kept part: the picture cropped to it and `margin` round it, mm, only what lies nearest to it kept, and all other settings as they
// were. What told picture from paper is kept as it was used, so that it stays the same in the smaller frame. Of what is in colour layers, and
// of what has fewer than two parts, none. Throws Error(Usage) where there are over 500.
std::vector<Piece> takenApart(const Piece& piece, const PieceResult& result, Straighten straighten, double margin, const Work& work = {});

} // namespace yokai
