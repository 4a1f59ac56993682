// What may be artwork, of any kind: pictures, and drawings that have to be turned into something that can be drawn.
//
// An EPS becomes the page it draws. A DXF has no colours of its own to be printed: its closed outlines are filled with black, what
// lies in them open again, and its open lines are drawn fine.
#pragma once

#include "artwork/artwork.h"

#include <vector>

namespace yokai {

struct ArtworkFile {
    Picture picture;                  // under the file's own name
    std::vector<std::string> leftOut; // what of a DXF cannot come in: "text"
};

// Throws Error(Input).
ArtworkFile openArtwork(const std::filesystem::path& path, const Work& work = {});

} // namespace yokai
