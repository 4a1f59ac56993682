// What a HEIC or AVIF file (ISO/IEC 23008-12) says of its primary picture, before it is decoded.
#pragma once

#include "base/file.h"

#include <optional>

namespace yokai {

bool looksLikeHeif(const Bytes& bytes);

struct HeifFacts {
    int width = 0, height = 0; // as it is to be seen: turned and mirrored as the file's own properties say
    Bytes exif;                // a TIFF structure; empty: none. Its orientation says what the properties have done already
};
// None where no picture can be made out.
std::optional<HeifFacts> heifFacts(const Bytes& bytes);

} // namespace yokai
