// The order in which a tool takes its stops, and where it begins each: blocks one after another, in a block tier after tier, and
// in a tier on a short way (route.h).
//
// Unit: mm.
#pragma once

#include "base/work.h"
#include "machine/route.h"

#include <vector>

namespace yokai {

struct Entry {
    Point in, out; // where the tool goes down, and where it comes up
};

struct Stop {
    int rank = 0;               // of its block: lower ones first
    int block = 0;              // stops of one block follow each other
    int tier = 0;               // within the block: lower ones first
    std::vector<Entry> entries; // one of them is chosen; at least one
};

struct Visit {
    int stop = 0, entry = 0;
};

std::vector<Visit> sequenceOf(const std::vector<Stop>& stops, Point from, Point home, const Work& work = {});

} // namespace yokai
