// Changes to a piece's colour layers, as several places of the window ask for them.
#pragma once

#include "desk/desk.h"

#include <QPointF>

namespace yokai::edits {

void reversedBeside(Desk& desk); // a piece like the current one, all of whose engraving is the other way

// In the place of the piece's layers one for each colour of its picture, the largest at the bottom; or again one alone. Colours take a
// while to be found, on another thread.
void splitIntoColours(Desk& desk);
void backToOneLayer(Desk& desk);

// What the picture has and no layer: places in Split::colours.
std::vector<std::size_t> coloursInNoLayer(const Desk& desk);
void addColours(Desk& desk, const std::vector<std::size_t>& colours); // a layer each, on top

// The colour at a place, mm as shown, becomes a layer of its own: all of it, or the one area, as the hand says.
void pickLayer(Desk& desk, QPointF at);
// The colours of the first go to the second, and the first goes.
void mergeLayers(Desk& desk, LayerId from, LayerId into);
void mergeDown(Desk& desk); // the one worked on into the one below it
void dropLayer(Desk& desk, LayerId layer);
void moveLayer(Desk& desk, LayerId layer, int to); // a place among the layers, from the bottom
void addBacking(Desk& desk); // beneath all, its line so far outside as the hand's last was

} // namespace yokai::edits
