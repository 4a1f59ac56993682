// What the side list shows at each station, as plain rows.
#pragma once

#include "desk/desk.h"

#include <QImage>

#include <vector>

namespace yokai {

struct SideRow {
    enum class Kind { Section, Item, Note, Warning, Fault };
    Kind kind = Kind::Item;
    QString title, detail, tip;
    QStringList presses = {}; // on small buttons at its right
    bool faded = false;
    enum class Of { Nothing, Part, Touch, Piece, Mark, Operation, Finding, Edit, Kind, Sheet, Separation };
    Of of = Of::Nothing; // what the item stands for,
    int id = -1;         // and which: a place in its list
    Rect crop = Rect::nothing(); // of the current piece's picture, mm, for the small picture
    bool ring = false;           // drawn as an opening
    bool operator==(const SideRow&) const = default;
};

std::vector<SideRow> sideRows(const Desk& desk);
// What a row of a separation stands for, by its number.
SeparationSelected separationOf(int id);

} // namespace yokai
