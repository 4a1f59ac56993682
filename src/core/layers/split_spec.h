// How a picture's colours are told apart.
#pragma once

#include "base/fields.h"

namespace yokai {

struct SplitSpec {
    int colours = 0;   // so many; 0: as many as there are
    double merge = 10; // CIEDE2000 under which two are one
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("colours", self.colours, Within{0, 64});
        visit("merge", self.merge, Within{0.5, 60.0});
    }
    bool operator==(const SplitSpec&) const = default;
};

} // namespace yokai
