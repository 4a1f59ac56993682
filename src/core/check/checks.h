// The checks: each looks at a derived job and says what it finds. One file a check, and
// its name in the table of checks.cpp.
#pragma once

#include "check/finding.h"

namespace yokai {

struct Job;
struct Derived;

using Check = void (*)(const Job& job, const Derived& derived, Findings& found);

void checkProblems(const Job&, const Derived&, Findings&);
void checkResolution(const Job&, const Derived&, Findings&);
void checkLosses(const Job&, const Derived&, Findings&);
void checkPlaces(const Job&, const Derived&, Findings&);

Findings findingsOf(const Job& job, const Derived& derived); // of all checks

} // namespace yokai
