#include "desk/station.h"

#include "desk/desk.h"

namespace yokai {

QString title(Station station)
{
    switch (station) {
    case Station::Artwork:
        return Desk::tr("Artwork");
    case Station::Keep:
        return Desk::tr("Keep");
    case Station::CutLines:
        return Desk::tr("Cut lines");
    case Station::TouchUp:
        return Desk::tr("Touch-up");
    case Station::Bleed:
        return Desk::tr("Bleed");
    case Station::Sheet:
        return Desk::tr("Sheet");
    case Station::HandOff:
        return Desk::tr("Hand-off");
    case Station::Cut:
        return Desk::tr("Cut");
    }
    return {};
}

} // namespace yokai
