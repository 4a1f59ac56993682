// What each verb does. They throw Error; main turns that into a line and a code.
#pragma once

#include "options.h"

namespace yokai::batch {

int outline(const Options& options);
int sheet(const Options& options);
int check(const Options& options);
int registerCut(const Options& options);
int plan(const Options& options);
int layers(const Options& options);
int engrave(const Options& options);
int marks(const Options& options);
int cut(const Options& options);
int schema(const Options& options);

} // namespace yokai::batch
