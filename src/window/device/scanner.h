// A scanner, through the program yokai-scan: which there are, what they can, and a picture from one at its true size.
//
// Each may take seconds: none is for the window's thread.
#pragma once

#include "artwork/artwork.h"
#include "device/scanning.h"

namespace yokai {

// None where there are none. All throw Error(Device) with what the scanner says: jammed, no paper, no answer.
std::vector<ScannerFound> scanners(const Work& work = {});
ScannerFacts factsOf(const std::string& scanner, const Work& work = {});
// A PNG with the resolution that it was truly taken at.
Picture scanned(const ScanOrder& order, const Work& work = {});

} // namespace yokai
