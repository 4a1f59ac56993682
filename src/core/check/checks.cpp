#include "check/checks.h"

namespace yokai {

namespace {
constexpr Check all[] = {checkProblems, checkResolution, checkLosses, checkPlaces};
}

Findings findingsOf(const Job& job, const Derived& derived)
{
    Findings found;
    for (const Check check : all)
        check(job, derived, found);
    return found;
}

} // namespace yokai
