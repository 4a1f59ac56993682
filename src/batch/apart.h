// No output is an input and no two outputs are one file: what is read is never destroyed, and what is written is all there afterwards.
#pragma once

#include "options.h"

#include <string>
#include <vector>

namespace yokai::batch {

// Every file that a run reads, as far as its options and its order list name them.
std::vector<std::string> inputsOf(const Options& o);
// Of all files that its options name to be written; before anything is read. Throws Error(Usage).
void requireApart(const Options& o);
// Also what is named only while it is made: a sheet's number, a layer's name. Throws Error(Usage).
void requireApart(const std::vector<std::string>& outputs, const std::vector<std::string>& inputs);

} // namespace yokai::batch
