// What is selected: one thing for the whole window, shown by lists and bench alike.
#pragma once

#include "base/id.h"
#include "base/line_kind.h"
#include "check/finding.h"

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
struct OperationSelected { // of the cut
    int step = 0;          // its place among the job's
    bool operator==(const OperationSelected&) const = default;
};
struct NodesSelected { // of one line
    LineId line;
    std::vector<Point> at; // mm as they were; the nodes nearest to them
    bool operator==(const NodesSelected&) const = default;
};
struct GuideSelected {
    GuideId guide;
    bool operator==(const GuideSelected&) const = default;
};
struct CopiesSelected { // on the sheets
    // One put there by hand by its placing; else the how manyth of its piece it is.
    struct Copy {
        PlacingId placing;
        PieceId piece;
        int copy = 0;
        bool operator==(const Copy& o) const { return placing || o.placing ? placing == o.placing : piece == o.piece && copy == o.copy; }
    };
    std::vector<Copy> copies; // the last is the one picked last
    bool operator==(const CopiesSelected&) const = default;
};
// One plate of what is handed off, shown by itself.
struct SeparationSelected {
    enum class Of { Picture, White, Engraving, Marks, Lines };
    Of of = Of::Picture;
    LineKind kind = LineKind::Through; // of lines
    bool operator==(const SeparationSelected&) const = default;
};
struct FindingSelected {
    std::string_view code;
    PieceId piece;
    LineId line;
    Point at;
    explicit FindingSelected(const Finding& f) : code(f.code), piece(f.piece), line(f.line), at(f.at) {}
    // Found again by what it is and where it is.
    bool is(const Finding& f) const { return f.code == code && f.piece == piece && f.line == line && f.at == at; }
    bool operator==(const FindingSelected&) const = default;
};
using Selection = std::variant<std::monostate, PartsSelected, EditSelected, MarkSelected, OperationSelected, FindingSelected, NodesSelected, GuideSelected, CopiesSelected, SeparationSelected>;

} // namespace yokai
