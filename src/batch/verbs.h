// What each verb does. They throw Error; main turns that into a line and a code.
#pragma once

#include "options.h"

namespace yokai::batch {

int outline(const Options& options);
int sheet(const Options& options);
int check(const Options& options);
int registerCut(const Options& options);

} // namespace yokai::batch
