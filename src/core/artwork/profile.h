// Colour profiles: finding the one a file carries, and the way from it to sRGB.
// Private to the artwork room.
#pragma once

#include "artwork/artwork.h"
#include "base/error.h"

#include <opencv2/core.hpp>

namespace yokai {

// A picture as its decoder gives it. Samples are 8 or 16 bits; the channels are the
// colour's, then alpha if there is any.
struct RawPicture {
    enum class Space { Grey, Rgb, Cmyk }; // Cmyk: 0 is no ink
    cv::Mat samples;                           // empty: the file is damaged
    std::shared_ptr<Rgba8> place;              // where the samples were decoded to; may be where they lie
    Space space = Space::Rgb;
    bool alpha = false;
    Bytes profile; // ICC; empty: none, so sRGB is meant
};

// The ICC profile in a PNG, JPEG or WebP file. Empty when there is none or it is damaged.
Bytes embeddedProfile(const Bytes& file, PictureFormat format);

// Whether its profile can be read and is one for such samples.
bool profileFits(const RawPicture& raw);

// Its samples as they are, reduced to 8 bits: red, green, blue and a full fourth; or four inks. No greys.
SharedRgba samplesOf(const RawPicture& raw, const Work& work);

// A profile that does not go with the samples is ignored: most such files were
// converted by a program that forgot to take it out.
SharedRgba toSrgb(const RawPicture& raw, const Work& work);

} // namespace yokai
