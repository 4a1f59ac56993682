// The sheet: media, copies of the pieces in rows, and the registration marks.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "base/geometry.h"
#include "base/length.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace yokai {

struct Media {
    std::string name;     // "A4", or "custom"
    Length width, height; // upright
    bool operator==(const Media&) const = default;
};

// ISO 216 A and B sizes, and Letter, Legal and Tabloid of ANSI/ASME Y14.1.
std::span<const Media> knownMedia();
// A known name (in any case) or WxH as in 210x297mm. Throws Error(Usage).
Media mediaFrom(const std::string& text);

enum class MarkStyle { None, Dots };

struct SheetSpec {
    Media media = {"A4", Length::mm(210), Length::mm(297)};
    bool landscape = false;
    Length margin = Length::mm(10);
    Length gap = Length::mm(3);
    MarkStyle marks = MarkStyle::Dots;
    Length markInset = Length::mm(12); // from the sheet's edges to a mark's centre
    Length markDiameter = Length::mm(5);
    double width() const { return (landscape ? media.height : media.width).mm(); }
    double height() const { return (landscape ? media.width : media.height).mm(); }
};

struct Mark {
    Point centre;
    double diameter = 0;
    bool orientation = false; // the extra one that tells the corners apart
    bool operator==(const Mark&) const = default;
};

// Four discs near the corners (top left, top right, bottom right, bottom left) and
// a fifth beside the first, so that a sheet that lies turned round is recognised.
std::vector<Mark> marksOf(const SheetSpec& spec);

struct ToPlace {
    Rect box;                  // all that is cut or printed of the piece, in its own mm
    std::optional<int> copies; // absent: as many as fit
};

struct Placement {
    int piece = 0;
    Affine toSheet; // from the piece's mm
};

struct Layout {
    double width = 0, height = 0;
    std::vector<Mark> marks;
    std::vector<Placement> placements;
    std::vector<int> asked, placed; // a piece each; asked is -1 for "as many as fit"
    double used = 0;                // the fraction of the sheet within the pieces' boxes
};

// Rows from the top left, clear of the margin and of the marks. Pieces that no
// longer fit are counted, not squeezed in. Throws Error(Usage) for a sheet whose
// margins leave nothing.
Layout layOut(const SheetSpec& spec, std::span<const ToPlace> pieces);

} // namespace yokai
