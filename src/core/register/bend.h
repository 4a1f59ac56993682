// Marks in bands along a long sheet. Private to the room.
#pragma once

#include "register/fit.h"

namespace yokai {

constexpr double readingNoise = 0.02; // mm: what is left below this is only how well marks can be read

// A long sheet that creeps or swims as it is drawn through: the fit bends with its bands, and its residuals are what the other bands
// would have foretold. A fit that has left out marks or put them in another order stays as it is.
// `reading`: the deviation of one reading of a mark; what that alone may leave is no bend.
void addBend(Fit& fit, std::span<const MarkPair> marks, double reading);

} // namespace yokai
