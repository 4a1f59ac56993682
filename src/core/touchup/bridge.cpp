// A bridge put by hand: it leaves the path as it is and says where the uncut stretch lies.
#include "touchup/kinds.h"

namespace yokai {

EditFate putBridge(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const auto place = held(edit.from, edit, paths, ground);
    if (!place) {
        constexpr double arm = 1; // mm
        out.ghost = {out.at - Point{arm, 0}, out.at + Point{arm, 0}};
        return EditFate::NoPlace;
    }
    out.at = place->at;
    return EditFate::Held;
}

} // namespace yokai
