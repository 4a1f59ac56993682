// Sheets: where the copies of the pieces lie, on as many as it takes, and the registration marks.
//
// Unit: mm on the sheet, (0, 0) its top-left corner, y down.
#pragma once

#include "base/error.h"
#include "base/geometry.h"
#include "base/length.h"
#include "base/work.h"
#include "sheet/marks.h"
#include "sheet/media.h"
#include "sheet/spec.h"

#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace yokai {

// What of a piece nothing else may lie on, in its own mm.
struct PieceShape {
    std::vector<Polyline> rings; // all that is cut of it, from outside; openings that fall out are rings too. Even-odd
    double reach = 0;            // how far its print runs on past them
    double area = 0;             // mm2 within its cut lines
};

struct ToPlace {
    PieceId piece;
    Rect box;                  // all that is cut or printed of the piece, in its own mm
    std::optional<int> copies; // absent: as many as fit
    int share = 1;             // of those that fit, beside the others'
    std::shared_ptr<const PieceShape> shape = nullptr; // none: the box
    std::optional<Affine> lies = std::nullopt;         // it lies on the first sheet already, once: from its mm
};

struct Placement {
    PieceId piece;
    std::size_t at = 0; // the piece's place among those laid out
    int copy = 0;       // the how manyth of this piece
    PlacingId placing;  // the hand's, if it was put there by hand
    Affine toSheet;     // from the piece's mm
    int sheet = 0;
    bool lies = false; // it lies there already, and cannot be moved
};

struct Layout {
    double width = 0, height = 0;
    std::vector<Mark> marks; // of every sheet
    int sheets = 1;
    std::vector<Placement> placements; // sheet by sheet
    std::vector<std::optional<int>> asked; // a piece each; absent: as many as fit
    std::vector<int> placed;
    std::vector<double> used; // a sheet each: the fraction of it within the pieces' cut lines
    bool waits = false;       // for being nested: nothing but what a hand put there is on it yet
    std::optional<Error> problem;

    std::span<const Placement> on(int sheet) const;
    double usedOf(int sheet) const { return std::size_t(sheet) < used.size() ? used[std::size_t(sheet)] : 0; }
};

// Who looks on while copies are nested.
struct LayoutWatch {
    bool nests = true;                        // false: nesting is put off, and waits
    std::function<void(const Layout&)> better; // there is something better to see
    std::function<bool()> enough;             // take what there is
    const Nested* nested = nullptr;           // how it was nested before, to be taken instead
};

// What lies on the sheet already first, then copies put by hand, then the rest clear of the margin, of the marks and of those, on as many
// sheets as it takes. A piece that fits no empty sheet is counted, not squeezed in; those asked for as many times as
// fit share what is left of the last sheet. A sheet whose margins or marks leave nothing has a problem and nothing on it.
Layout layOut(const SheetSpec& spec, std::span<const ToPlace> pieces, std::span<const Placing> byHand = {}, const Work& work = {},
              const LayoutWatch& watch = {});

// Where a placing puts a piece with this box.
Affine toSheet(const Placing& placing, const Rect& box);
Rect mapped(const Affine& map, const Rect& box);
// How a map that does nothing else but mirror, turn and move turns: degrees clockwise, after it has mirrored.
double turnOf(const Affine& map);
// Within the margin and the machine's reach.
Rect layoutArea(const SheetSpec& spec);

} // namespace yokai
