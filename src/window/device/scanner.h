// A scanner, through SANE (libsane): which there are, what they can, and a picture from one at its true size.
//
// The library may be asked by one thread at a time; these functions see to that. Each may take seconds: none is for the window's thread.
//
// Unit: mm on the glass, (0, 0) its top-left corner, y down.
#pragma once

#include "artwork/artwork.h"

#include <vector>

namespace yokai {

struct ScannerFound {
    std::string name;  // as SANE calls it
    std::string title; // its maker's and its own
};
// None where there are none. Throws Error(Device) where SANE itself cannot be used.
std::vector<ScannerFound> scanners(const Work& work = {});

struct ScannerFacts {
    double width = 0, height = 0;  // of the glass
    std::vector<double> ppis;      // those there are, rising; else any from least to most
    double least = 75, most = 600;
    bool colour = false, grey = false;
};
// Throws Error(Device) where it does not answer.
ScannerFacts factsOf(const std::string& scanner, const Work& work = {});

struct ScanOrder {
    std::string scanner;
    double ppi = 300; // the nearest it can is taken
    Rect area;        // empty: all of the glass
    bool colour = true;
};
// A PNG with the resolution that it was truly taken at. Throws Error(Device) where the scanner ends it: jammed, no paper, no answer.
Picture scanned(const ScanOrder& order, const Work& work = {});

} // namespace yokai
