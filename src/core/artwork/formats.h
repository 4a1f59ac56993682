// Decoding one file into raw samples. Private to the artwork room.
#pragma once

#include "artwork/profile.h"

namespace yokai {

// In the order they are stored: not turned upright yet. Empty samples: damaged.
RawPicture rawPicture(const Picture& picture);

} // namespace yokai
