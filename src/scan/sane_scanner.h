// Scanners through SANE (libsane), in a program that does nothing else: what drives a scanner comes from many hands, and what goes wrong in it
// ends this program and no other.
#pragma once

#include "base/raster.h"
#include "base/work.h"
#include "device/scanning.h"

namespace yokai {

// Throws Error(Device) where SANE itself cannot be used.
std::vector<ScannerFound> scanners();
// Throws Error(Device) where it does not answer.
ScannerFacts factsOf(const std::string& scanner);

struct Scanned {
    Rgba8 pixels;
    double ppi = 0; // as it was truly taken
};
// Throws Error(Device) where the scanner ends it: jammed, no paper, no answer.
Scanned scan(const ScanOrder& order, const Work& work);

} // namespace yokai
