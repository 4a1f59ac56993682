// What the tool and the material can do: the limits that findings are held against.
#pragma once

#include "base/fields.h"

namespace yokai {

// Common practice, to start with.
struct CheckSpec {
    Length toolRadius = 250_um; // the tightest inside corner the tool can follow
    Length leastNeck = 1_mm;    // of material between two cuts
    Length leastGap = 500_um;   // of what falls out between two cuts
    double leastArea = 4;       // mm2, of a part or an opening
    Length leastLength = 3_mm;  // of a line
    double leastPpi = 150;      // under which a picture prints soft
    Length drift = 300_um;      // how far the cut is expected to land off the print

    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("tool_radius", self.toolRadius, Within{0_mm, 100_mm});
        visit("least_neck", self.leastNeck, Within{0_mm, 50_mm});
        visit("least_gap", self.leastGap, Within{0_mm, 50_mm});
        visit("least_area_mm2", self.leastArea, Within{0.0, 1e6});
        visit("least_length", self.leastLength, Within{0_mm, 1000_mm});
        visit("least_ppi", self.leastPpi, Within{0.0, 10'000.0});
        visit("drift", self.drift, Within{0_mm, 50_mm});
    }
    bool operator==(const CheckSpec&) const = default;
};

} // namespace yokai
