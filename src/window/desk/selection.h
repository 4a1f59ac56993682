// What is selected: one thing for the whole window, shown by lists and bench alike.
#pragma once

#include "base/id.h"

#include <variant>
#include <vector>

namespace yokai {

struct PartsSelected {
    std::vector<int> parts; // of the current piece, as in Parts::all; found again by place after every result
    bool operator==(const PartsSelected&) const = default;
};
struct EditSelected { // work by hand
    EditId edit;
    bool operator==(const EditSelected&) const = default;
};
struct MarkSelected {
    int mark = 0;
    bool operator==(const MarkSelected&) const = default;
};
using Selection = std::variant<std::monostate, PartsSelected, EditSelected, MarkSelected>;

} // namespace yokai
