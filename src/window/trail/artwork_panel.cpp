#include "trail/panels.h"

namespace yokai {

ArtworkPanel::ArtworkPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    width_ = addField(tr("Width"), NumberField::Meaning::Length, tr("How wide the printed picture is; the height follows"));
    height_ = addField(tr("Height"), NumberField::Meaning::Length, tr("How high the printed picture is; the width follows"));
    ppi_ = addField(tr("Resolution"), NumberField::Meaning::Number, tr("Pixels an inch at this size; under 150 prints soft"));
    copies_ = addField(tr("Copies"), NumberField::Meaning::Number, tr("How many go on the sheet"));
    width_->setObjectName("artwork-width");
    height_->setObjectName("artwork-height");
    for (NumberField* f : {width_, height_}) {
        f->setRange(1, 20'000);
        f->setStep(1);
    }
    ppi_->setRange(1, 100'000);
    ppi_->setStep(10);
    ppi_->setDecimals(0);
    ppi_->setSuffix(QStringLiteral(" ppi"));
    copies_->setRange(0, 100'000);
    copies_->setStep(1);
    copies_->setDecimals(0);
    bind(width_, tr("change the width"), [](Piece& p, NumberField* f) {
        p.artwork.sizeBy = SizeBy::Width;
        p.artwork.side = f->length();
    });
    bind(height_, tr("change the height"), [](Piece& p, NumberField* f) {
        p.artwork.sizeBy = SizeBy::Height;
        p.artwork.side = f->length();
    });
    bind(ppi_, tr("change the resolution"), [](Piece& p, NumberField* f) {
        p.artwork.sizeBy = SizeBy::Ppi;
        p.artwork.ppi = f->number();
    });
    bind(copies_, tr("change the copies"), [](Piece& p, NumberField* f) { p.copies = int(std::lround(f->number())); });
    note_ = addNote();
}

void ArtworkPanel::refresh()
{
    const Piece* piece = studio_.currentPiece();
    setEnabled(piece != nullptr);
    for (NumberField* f : {width_, height_})
        f->setUnit(studio_.unit());
    if (!piece)
        return;
    const ArtworkSpec& a = piece->artwork;
    // A typed side is shown as typed, exactly; the other follows.
    width_->setLength(a.sizeBy == SizeBy::Width ? a.side : Length::mm(a.width()));
    height_->setLength(a.sizeBy == SizeBy::Height ? a.side : Length::mm(a.height()));
    ppi_->setNumber(a.pxPerMm() * 25.4);
    copies_->setNumber(piece->copies.value_or(0));
    const PictureInfo& info = a.picture.info;
    const QString from =
        info.ppiFrom == PpiSource::File ? tr("the file says %1 ppi").arg(info.ppi, 0, 'f', 0) : tr("the file says no resolution; 300 ppi assumed");
    note_->setText(tr("%1 \u00d7 %2 px, %3").arg(info.width).arg(info.height).arg(from));
}

} // namespace yokai
