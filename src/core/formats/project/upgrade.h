// Job files of older formats, brought to today's by what they say. Private to the project
// format.
#pragma once

#include "formats/project/json_fields.h"

namespace yokai::project {

// 1 had places as parts of the picture and one setting for all lines; 2 had no layers, no
// names for things, and two settings for a line's openings.
constexpr int formatVersion = 5;

// May throw BadField or a JSON exception where the old file is not as its format was.
void upgrade(Json& job, int version);

} // namespace yokai::project
