// Copies nested by their shapes. Private to the sheet room.
#pragma once

#include "sheet/sheet.h"

namespace yokai {

// Adds to a layout that holds what was put there by hand. `remaining`: of each piece; absent: as many as fit.
void nestInto(Layout& out, const SheetSpec& spec, std::span<const ToPlace> pieces, const std::vector<std::optional<int>>& remaining, const Work& work,
              const LayoutWatch& watch);

} // namespace yokai
