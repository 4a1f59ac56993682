// What is said of scanners, between the program that asks them and the one that wants to know.
//
// Unit: mm on the glass, (0, 0) its top-left corner, y down.
#pragma once

#include "base/fields.h"

#include <string>
#include <vector>

namespace yokai {

struct ScannerFound {
    std::string name;  // as SANE calls it
    std::string title; // its maker's and its own
};
struct ScannerFacts {
    double width = 0, height = 0;  // of the glass
    std::vector<double> ppis;      // those there are, rising; else any from least to most
    double least = 75, most = 600;
    bool colour = false, grey = false;
};
struct ScanOrder {
    std::string scanner;
    double ppi = 300; // the nearest it can is taken
    Rect area;        // empty: all of the glass
    bool colour = true;
};

} // namespace yokai
