// Reading colours: the rim of a picture, what its paper is, and soft-edged
// likeness to chosen colours. Private to the keep room.
#pragma once

#include "keep/keep.h"

namespace yokai::rules {

// The pixels along the picture's rim, evenly sampled; of a turned picture its own rim.
std::vector<Rgba> rim(const Rgba8& px, const Gray8* within);

// The most frequent colour of the rim, averaged over what is like it.
Rgba paperOf(const std::vector<Rgba>& rim);

// How far the paper itself strays from its colour, with room to spare: what a
// level must exceed so that noise is not taken for picture.
double levelAbove(const std::vector<Rgba>& rim, Rgba paper);

// CIEDE2000 to the nearest of the colours over the whole picture, in quarter units, 63
// and more as 252. With `clearIsLike` a transparent pixel shows the colour through it.
Gray8 differences(const Rgba8& px, const std::vector<Rgba>& from, bool clearIsLike, const Work& work);

enum class Reach { Rim, Anywhere, Places };

// 0 where the picture is like the colours and within reach (from its rim, anywhere, or
// spreading from places), 255 elsewhere. Where the two meet, a pixel is a mixture of what
// lies two pixels to either side of it across the edge, and its cover is how far it has
// gone from the one colour to the other, as anti-aliasing mixed them. A soft shadow has
// nothing firm behind it: there the level itself is the edge.
Gray8 awayFrom(const Rgba8& px, const Gray8& difference, double level, Reach reach, const std::vector<Point>& places, const Work& work);

} // namespace yokai::rules
