// What the side list shows at each station, as plain rows.
#pragma once

#include "studio/studio.h"

#include <QImage>

#include <vector>

namespace yokai {

struct SideRow {
    enum class Kind { Section, Item, Warning, Fault };
    Kind kind = Kind::Item;
    QString title, detail;
    bool faded = false;
    int id = -1;                 // an item's part, line, placement's piece or mark
    Rect crop = Rect::nothing(); // of the current piece's picture, mm, for the small picture
    bool ring = false;           // drawn as an opening
    int touch = -1;              // an item's touch by hand
    bool operator==(const SideRow&) const = default;
};

std::vector<SideRow> sideRows(const Studio& studio);

} // namespace yokai
