// Touch-up and Bleed as far as they reach: they tell what holds today.
#include "trail/panels.h"
#include "trail/summary.h"

namespace yokai {

TouchUpPanel::TouchUpPanel(Studio& studio, QWidget* parent) : Panel(studio, parent) { figures_ = addNote(); }

void TouchUpPanel::refresh()
{
    const PieceResult* r = studio_.currentResult();
    if (!r || r->lines.empty()) {
        figures_->setText(tr("There is no cut line yet."));
        return;
    }
    QStringList rows;
    for (const CutLine& l : r->lines) {
        std::size_t corners = 0;
        for (const Path& p : *l.paths)
            corners += std::size_t(std::count(p.corners.begin(), p.corners.end(), true));
        rows << tr("%1: %2 closed, %3 nodes, %4 of them corners, %5 long")
                    .arg(QString::fromLatin1(name(l.kind)).replace(0, 1, QString::fromLatin1(name(l.kind)).left(1).toUpper()))
                    .arg(l.paths->size())
                    .arg(l.nodes)
                    .arg(corners)
                    .arg(lengthText(l.length, studio_.unit()));
    }
    rows << tr("The lines go to the machine as they were fitted. Their nodes are shown on the bench.");
    figures_->setText(rows.join(QStringLiteral("\n")));
}

BleedPanel::BleedPanel(Studio& studio, QWidget* parent) : Panel(studio, parent) { figures_ = addNote(); }

void BleedPanel::refresh()
{
    const PieceResult* r = studio_.currentResult();
    if (!r || r->lines.empty()) {
        figures_->setText(tr("There is no cut line yet."));
        return;
    }
    double inward = 0;
    for (const CutLine& l : r->lines)
        if (l.kind == LineKind::Through)
            inward = l.offset.mm();
    const QString drift = lengthText(r->driftAllowance, studio_.unit());
    figures_->setText(
        inward > 0   ? tr("The print ends at the picture's edge and a border stays round it. The cut may land %1 off before it touches the picture.").arg(drift)
        : inward < 0 ? tr("The print reaches %1 past the cut. The cut may land that far off before paper shows.").arg(drift)
                     : tr("The cut runs on the picture's edge: any drift shows paper or cuts into the picture. An offset under Cut lines gives it room."));
}

Panel* makePanel(Station station, Studio& studio, QWidget* parent)
{
    switch (station) {
    case Station::Artwork:
        return new ArtworkPanel(studio, parent);
    case Station::Keep:
        return new KeepPanel(studio, parent);
    case Station::CutLines:
        return new CutLinesPanel(studio, parent);
    case Station::TouchUp:
        return new TouchUpPanel(studio, parent);
    case Station::Bleed:
        return new BleedPanel(studio, parent);
    case Station::Sheet:
        return new SheetPanel(studio, parent);
    case Station::HandOff:
        return new HandOffPanel(studio, parent);
    case Station::Cut:
        return new CutPanel(studio, parent);
    }
    return nullptr;
}

} // namespace yokai
