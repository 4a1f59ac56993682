// The checks: each looks at a derived job and says what it finds. One file a check, and
// its name in the table of checks.cpp.
//
// What takes time is a step of its own, by the shapes it looks at, and so remembered for what
// did not change. Codes, values and limits are those of the headless front end.
#pragma once

#include "check/finding.h"
#include "job/derived.h"
#include "job/step.h"

namespace yokai {

struct CheckGround {
    const Job& job;
    const Derived& derived;
    Run& run;
};
using Check = void (*)(const CheckGround&, Findings& found);

void checkProblems(const CheckGround&, Findings&);
void checkResolution(const CheckGround&, Findings&);
void checkLosses(const CheckGround&, Findings&);
void checkPlaces(const CheckGround&, Findings&);
void checkReach(const CheckGround&, Findings&);
void checkMarks(const CheckGround&, Findings&);
void checkCopiesClose(const CheckGround&, Findings&);
void checkTightCorners(const CheckGround&, Findings&);
void checkWidths(const CheckGround&, Findings&);
void checkSizes(const CheckGround&, Findings&);
void checkNodes(const CheckGround&, Findings&);
void checkLumps(const CheckGround&, Findings&);
void checkCrossings(const CheckGround&, Findings&);
void checkArtwork(const CheckGround&, Findings&);
void checkPaper(const CheckGround&, Findings&);
void checkKindOrder(const CheckGround&, Findings&);
void checkEdits(const CheckGround&, Findings&);
void checkCrumbs(const CheckGround&, Findings&);
void checkKerf(const CheckGround&, Findings&);
void checkMaterial(const CheckGround&, Findings&);
void checkFeatures(const CheckGround&, Findings&);
void checkExtraCuts(const CheckGround&, Findings&);

Findings findingsOf(const CheckGround& ground); // of all checks

// Visits every cut line of every piece that has any: (piece, layer, line).
template <class F> void eachLine(const Derived& derived, F visit)
{
    for (const PieceResult& piece : derived.pieces)
        for (const LayerResult& layer : piece.layers)
            for (const CutLine& line : layer.lines)
                visit(piece, layer, line);
}

} // namespace yokai
