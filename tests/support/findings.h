// The findings of a derived job, looked through.
#pragma once

#include "job/derived.h"

namespace yokai::test {

// The one of a code; null where there is none, or more than one.
inline const Finding* only(const Derived& d, std::string_view code)
{
    const Finding* found = nullptr;
    for (const Finding& f : d.findings)
        if (f.code == code) {
            if (found)
                return nullptr;
            found = &f;
        }
    return found;
}

} // namespace yokai::test
