// Copies that found no place on the sheet.
#include "check/checks.h"

namespace yokai {

void checkPlaces(const CheckGround& ground, Findings& found)
{
    const Derived& derived = ground.derived;
    const Layout& sheet = derived.sheet;
    for (std::size_t i = 0; i < derived.pieces.size() && i < sheet.placed.size(); ++i) {
        const int asked = sheet.asked[i].value_or(1); // as many as fit: at least one should
        if (derived.pieces[i].whole() && sheet.placed[i] < asked)
            found.push_back({"does-not-fit", Severity::Warning, derived.pieces[i].id, {}, {}, double(sheet.placed[i]), double(asked)});
    }
}

} // namespace yokai
