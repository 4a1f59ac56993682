// What about a fit a maker should look at before anything is cut by it. A fit that cannot be right is refused (fit.h); these may be.
#pragma once

#include "register/fit.h"

namespace yokai {

enum class FitDoubt {
    LeftOut,     // a mark does not belong: which, and by how much, mm
    Reordered,   // the marks had been measured in another order
    TurnedRound, // the sheet lies far from upright: degrees
    NoneToSpare, // as many numbers as the marks give: a wrong one would not show
    Coarse,      // the error to expect is more than is allowed, mm
};
struct DoubtOfFit {
    FitDoubt why = FitDoubt::LeftOut;
    int mark = -1; // from 0
    double value = 0, limit = 0;
    bool operator==(const DoubtOfFit&) const = default;
};

// `allowed`: how far a cut may land off, mm; what lines were checked for.
std::vector<DoubtOfFit> doubtsOf(const Fit& fit, std::size_t marks, double allowed);

} // namespace yokai
