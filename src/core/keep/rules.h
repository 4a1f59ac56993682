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

// A difference (CIEDE2000) in a byte: in quarters up to 40, then coarser up to 100, which is
// as far as colours can be apart.
std::uint8_t packed(double difference);

// The difference to the nearest of the colours over the whole picture, packed. With
// `clearIsLike` a transparent pixel shows the colour through it.
Gray8 differences(const Rgba8& px, const std::vector<Rgba>& from, bool clearIsLike, const Work& work);

enum class Reach { Rim, Anywhere, Places };

// 0 where the picture is like the colours and within reach (from its rim, anywhere, or
// spreading from places), 255 elsewhere. Where the two meet, a pixel is a mixture of what
// lies a few pixels to either side of it across the edge, and its cover is how far it has
// gone from the one colour to the other, as anti-aliasing mixed them. `lossy`: compression
// has halved the colours, so that what brightness tells weighs more. A soft shadow has
// nothing firm behind it: there the level itself is the edge.
Gray8 awayFrom(const Rgba8& px, const Gray8& difference, double level, Reach reach, const std::vector<Point>& places, bool lossy, const Work& work);

// OpenCV's filters a band of rows at a time, so that a stop is obeyed; the same result.
void blur(Gray8& pixels, double sigma, const Work& work);
void grow(const Gray8& from, Gray8& to, int side, bool shrink, const Work& work); // dilation by a square, or erosion

} // namespace yokai::rules
