// Bleed as far as it reaches, and which panel belongs to which station.
#include "trail/panels.h"
#include "words.h"

#include <QLabel>

namespace yokai {

BleedPanel::BleedPanel(Desk& desk, QWidget* parent) : RowPanel(desk, parent) { figures_ = addNote(); }

void BleedPanel::refreshRest()
{
    const LayerResult* r = desk_.layerResult();
    if (!r || r->lines.empty()) {
        figures_->setText(tr("There is no cut line yet."));
        return;
    }
    double inward = 0;
    for (const CutLine& l : r->lines)
        if (l.kind == LineKind::Through)
            inward = l.offset.mm();
    figures_->setText(inward > 0   ? tr("The print ends at the picture's edge and a border of bare paper stays round it.")
                      : inward < 0 ? tr("The print reaches past the cut, which hides a cut that lands a little off.")
                                   : tr("The cut runs on the picture's edge: any drift shows paper or cuts into the picture. An offset under Cut lines gives it room."));
}

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
