#include "check/checks.h"

namespace yokai {

namespace {
constexpr Check table[] = {checkProblems,  checkResolution,    checkLosses, checkEdits, checkCrossings, checkArtwork, checkPaper,
                           checkKindOrder, checkTightCorners, checkWidths, checkSizes, checkLumps,     checkNodes,   checkCrumbs, checkPlaces,
                           checkReach,     checkMarks,         checkCopiesClose, checkKerf,     checkMaterial, checkExtraCuts, checkFeatures};
}

Findings findingsOf(const CheckGround& ground)
{
    Findings found;
    for (const Check check : table) {
        ground.run.work().check();
        check(ground, found);
    }
    return found;
}

} // namespace yokai
