// What a check finds in lines by themselves, before it is known whose they are.
#pragma once

#include "job/step_cache.h"
#include "path/path.h"

#include <memory>
#include <vector>

namespace yokai {

// One place.
struct Fault {
    Point at; // mm
    double value = 0;
    int path = 0; // of those looked at, the one it lies on
};
using Faults = std::vector<Fault>;

inline void owned(const Faults& faults, Owns& out) { out.push_back({&faults, faults.capacity() * sizeof(Fault)}); }

// Some of a line's paths, to be looked at together; by their shapes when digested, so that what
// was found in them is found again while they stay as they are.
struct PathSet {
    std::shared_ptr<const Paths> all;
    std::vector<std::size_t> which;

    const Path& operator[](std::size_t k) const { return (*all)[which[k]]; }
    std::size_t size() const { return which.size(); }
    void digestTo(Digest& digest) const;
};

// Each path by itself.
std::vector<PathSet> singly(const std::shared_ptr<const Paths>& paths);
// The paths in groups, none of which comes nearer than `reach` to another.
std::vector<PathSet> together(const std::shared_ptr<const Paths>& paths, double reach);

} // namespace yokai
