// The proof: pages for the customer's yes. Each piece with its lines, its sizes and how many are made; a legend of the kinds of
// line; the material, the day, and whose work it is.
#pragma once

#include "base/file.h"
#include "base/length.h"
#include "job/derive.h"

#include <functional>
#include <optional>
#include <string>

namespace yokai {

struct Maker {
    std::string name;
    std::optional<Picture> logo;
};

struct ProofFacts {
    Maker maker;
    std::string date; // as it is to be read
    Unit unit = Unit::Mm;
    // In the reader's language; as it stands unless given.
    std::function<std::string(const char*)> say = [](const char* words) { return std::string(words); };
};

// A4 pages as PDF. What is not cut yet (a piece with a problem) is left out.
Bytes writeProof(const Job& job, const Derived& derived, const ProofFacts& facts, const Work& work = {});

} // namespace yokai
