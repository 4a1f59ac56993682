// Which panel belongs to which station.
#include "trail/panels.h"

namespace yokai {

RowPanel* makePanel(Station station, Desk& desk, QWidget* parent)
{
    switch (station) {
    case Station::Artwork:
        return new ArtworkPanel(desk, parent);
    case Station::Keep:
        return new KeepPanel(desk, parent);
    case Station::CutLines:
        return new CutLinesPanel(desk, parent);
    case Station::TouchUp:
        return new TouchUpPanel(desk, parent);
    case Station::Bleed:
        return new BleedPanel(desk, parent);
    case Station::Sheet:
        return new SheetPanel(desk, parent);
    case Station::HandOff:
        return new HandOffPanel(desk, parent);
    case Station::Cut:
        return new CutPanel(desk, parent);
    }
    return nullptr;
}

} // namespace yokai
