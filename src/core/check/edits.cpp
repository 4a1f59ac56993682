// Edits by hand that found no place on the line as it is now.
#include "check/checks.h"

namespace yokai {

void checkEdits(const CheckGround& ground, Findings& found)
{
    eachLine(ground.derived, [&](const PieceResult& piece, const LayerResult&, const CutLine& line) {
        for (const EditOutcome& edit : line.edits)
            if (edit.fate == EditFate::NoPlace || edit.fate == EditFate::DoesNotFit)
                found.push_back({"lost-edit", Severity::Warning, piece.id, line.id, edit.at, edit.largest, 0});
    });
}

} // namespace yokai
