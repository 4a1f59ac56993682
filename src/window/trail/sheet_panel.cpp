#include "trail/panels.h"

#include <QComboBox>

namespace yokai {

SheetPanel::SheetPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    media_ = new QComboBox(this);
    media_->setObjectName("sheet-media");
    for (const Media& m : knownMedia())
        media_->addItem(QString::fromStdString(m.name));
    addRow(tr("Paper"), media_, tr("The sheet that goes through the printer"));
    turn_ = new Segmented({tr("Upright"), tr("Across")}, this);
    addRow(tr("Lies"), turn_, tr("Long side upright or across"));
    copies_ = addField(tr("Copies of this piece"), NumberField::Meaning::Number, tr("How many of the chosen piece go on the sheet"));
    copies_->setObjectName("sheet-copies");
    copies_->setRange(0, 100'000);
    copies_->setStep(1);
    copies_->setDecimals(0);
    gap_ = addField(tr("Gap"), NumberField::Meaning::Length, tr("Between neighbours"));
    margin_ = addField(tr("Margin"), NumberField::Meaning::Length, tr("Kept clear at the sheet's edges"));
    gap_->setObjectName("sheet-gap");
    margin_->setObjectName("sheet-margin");
    marks_ = new Segmented({tr("Dots"), tr("None")}, this);
    addRow(tr("Marks"), marks_, tr("Registration marks that the cutter looks for"));
    inset_ = addField(tr("Mark inset"), NumberField::Meaning::Length, tr("From the sheet's edges to a mark's centre"));
    gap_->setRange(0, 1000);
    margin_->setRange(0, 1000);
    inset_->setRange(2.5, 1000);
    gap_->setStep(0.5);
    margin_->setStep(1);
    inset_->setStep(1);
    connect(media_, &QComboBox::activated, this,
            [this](int index) { studio_.edit(tr("change the paper"), [&](Job& job) { job.sheet.media = knownMedia()[std::size_t(index)]; }); });
    connect(turn_, &Segmented::chosen, this, [this](int index) { studio_.edit(tr("turn the sheet"), [&](Job& job) { job.sheet.landscape = index == 1; }); });
    connect(marks_, &Segmented::chosen, this,
            [this](int index) { studio_.edit(tr("change the marks"), [&](Job& job) { job.sheet.marks = index == 0 ? MarkStyle::Dots : MarkStyle::None; }); });
    bind(copies_, tr("change the copies"), [](Piece& p, NumberField* f) { p.copies = int(std::lround(f->number())); });
    const auto bindSheet = [&](NumberField* field, const QString& what, Length SheetSpec::*member) {
        connect(field, &NumberField::edited, this, [this, field, what, member](bool settled) {
            studio_.edit(
                what, [&](Job& job) { job.sheet.*member = field->length(); }, what);
            if (settled)
                studio_.settle();
        });
    };
    bindSheet(gap_, tr("change the gap"), &SheetSpec::gap);
    bindSheet(margin_, tr("change the margin"), &SheetSpec::margin);
    bindSheet(inset_, tr("change the mark inset"), &SheetSpec::markInset);
}

void SheetPanel::refresh()
{
    const SheetSpec& s = studio_.job().sheet;
    for (NumberField* f : {gap_, margin_, inset_})
        f->setUnit(studio_.unit());
    media_->setCurrentIndex(media_->findText(QString::fromStdString(s.media.name)));
    turn_->setCurrent(s.landscape ? 1 : 0);
    gap_->setLength(s.gap);
    margin_->setLength(s.margin);
    inset_->setLength(s.markInset);
    marks_->setCurrent(s.marks == MarkStyle::Dots ? 0 : 1);
    inset_->setEnabled(s.marks != MarkStyle::None);
    const Piece* piece = studio_.currentPiece();
    copies_->setEnabled(piece != nullptr);
    if (piece)
        copies_->setNumber(piece->copies.value_or(0));
}

} // namespace yokai
