// What a maker decides about the cut on a machine. A job holds the machine and the material themselves, so that it is
// whole wherever it is opened.
#pragma once

#include "machine/machine.h"
#include "machine/material.h"

namespace yokai {

enum class Way { AsDrawn, Clockwise, Counter }; // round closed lines
constexpr std::array<Named<Way>, 3> namesOf(Way) { return {{{Way::AsDrawn, "as-drawn"}, {Way::Clockwise, "clockwise"}, {Way::Counter, "counter-clockwise"}}}; }

struct PlanSpec {
    std::optional<Machine> machine;                            // none: the sheet is the bed; no kerf, no blade, no leads
    std::optional<Material> material;                          // none: usual settings
    std::vector<OperationStep> operations = usualOperations(); // in the order they are done
    bool byOperation = false;                                  // all of one operation first, instead of each copy whole before the next
    Way way = Way::AsDrawn;
    Length sheetX, sheetY; // where the sheet's near left corner should lie on the bed
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("machine", self.machine);
        visit("material", self.material);
        visit("operations", self.operations, AtMost{1000});
        visit("by_operation", self.byOperation);
        visit("way", self.way);
        visit("sheet_x", self.sheetX, Within{-1000_mm, 50'000_mm});
        visit("sheet_y", self.sheetY, Within{-1000_mm, 50'000_mm});
    }
    bool operator==(const PlanSpec&) const = default;
};

} // namespace yokai
