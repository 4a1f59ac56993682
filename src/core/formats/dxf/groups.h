// A DXF file's groups, pair after pair, with only what is read here left in: the library that reads them trusts counts and
// codes, and one that is wrong makes it write where it must not.
#pragma once

#include <set>
#include <string>

namespace yokai {

struct CleanDxf {
    std::string text;
    std::set<std::string> left; // what there is beside lines
};

// Throws Error(Input) with the line at which it is no DXF.
CleanDxf cleanDxf(const std::string& text, const std::string& name);

} // namespace yokai
