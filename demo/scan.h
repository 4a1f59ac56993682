// A scan of woven patches as a flatbed gives one, made from drawings: laid askew, on a lid that is not quite white, with a scanner's noise.
#pragma once

#include "artwork/artwork.h"

#include <filesystem>
#include <vector>

namespace yokai::demo {

struct Patch {
    std::filesystem::path drawing;
    Rgba cloth;     // what it is woven on
    Rgba rim;       // of the thread round it
    Point middle;   // mm on the glass
    double side;    // mm
    double askew;   // degrees clockwise
};

Rgba8 scanned(const std::vector<Patch>& patches, double width, double height, double ppi); // mm

} // namespace yokai::demo
