// A path that goes altogether, as a bubble an offset has left.
#include "touchup/kinds.h"

namespace yokai {

EditFate dropPath(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const auto place = held(edit.from, edit, paths, ground);
    if (!place)
        return EditFate::NoPlace;
    out.at = place->at;
    paths.erase(paths.begin() + std::ptrdiff_t(place->path));
    return EditFate::Held;
}

} // namespace yokai
