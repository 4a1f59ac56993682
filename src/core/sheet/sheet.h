// The sheet: media, copies of the pieces in rows, and the registration marks.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "base/geometry.h"
#include "base/length.h"
#include "base/work.h"
#include "sheet/spec.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace yokai {

// ISO 216 A and B sizes, those of ANSI/ASME Y14.1 (Letter and Tabloid are its A and B) with Legal, and cutting mats.
std::span<const Media> knownMedia();
// A known name (in any case) or WxH as in 210x297mm. Throws Error(Usage).
Media mediaFrom(const std::string& text);

struct Mark {
    Point centre;
    double diameter = 0;
    bool orientation = false; // the extra one that tells the corners apart
    bool operator==(const Mark&) const = default;
};

// Four discs near the corners (top left, top right, bottom right, bottom left) and a
// fifth that tells the corners apart, so that a sheet that lies turned round or over is
// recognised. The fifth lies in line with no two others, so that any one bad reading
// of the five can be told from the other four.
std::vector<Mark> marksOf(const SheetSpec& spec);

struct ToPlace {
    PieceId piece;
    Rect box;                  // all that is cut or printed of the piece, in its own mm
    std::optional<int> copies; // absent: as many as fit
};

struct Placement {
    PieceId piece;
    std::size_t at = 0; // the piece's place among those laid out
    int copy = 0;       // the how manyth of this piece
    PlacingId placing;  // the hand's, if it was put there by hand
    Affine toSheet;     // from the piece's mm
};

struct Layout {
    double width = 0, height = 0;
    std::vector<Mark> marks;
    std::vector<Placement> placements;
    std::vector<std::optional<int>> asked; // a piece each; absent: as many as fit
    std::vector<int> placed;
    double used = 0; // the fraction of the sheet within the pieces' boxes
    std::optional<Error> problem;
};

// Copies put by hand first, then rows from the top left, clear of the margin, of the marks
// and of what was put by hand. Pieces that no longer fit are counted, not squeezed in. A
// sheet whose margins or marks leave nothing has a problem and nothing on it.
Layout layOut(const SheetSpec& spec, std::span<const ToPlace> pieces, std::span<const Placing> byHand = {}, const Work& work = {});

// Where a placing puts a piece with this box.
Affine toSheet(const Placing& placing, const Rect& box);

} // namespace yokai
