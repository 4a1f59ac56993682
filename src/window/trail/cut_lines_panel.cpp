#include "trail/panels.h"

#include <QCheckBox>

namespace yokai {

namespace {

LineSpec* lineOf(Piece& piece, LineKind kind)
{
    for (LineSpec& l : piece.cutLines.lines)
        if (l.kind == kind)
            return &l;
    return nullptr;
}

} // namespace

CutLinesPanel::CutLinesPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    through_ = addNumber(tr("Through"), NumberField::Meaning::Length, -5, 10, 0.05, tr("How far outside the edge the cut runs; below 0 it runs inside"));
    hasKiss_ = new QCheckBox(tr("Kiss line too"), this);
    hasKiss_->setObjectName("has-kiss");
    hasKiss_->setToolTip(tr("A second line that cuts the sticker but not its backing"));
    kiss_ = addNumber(tr("Kiss"), NumberField::Meaning::Length, -5, 10, 0.05, tr("How far outside the edge the kiss cut runs"));
    addWide(hasKiss_);
    tolerance_ = addField(tr("Curve tolerance"), NumberField::Meaning::Length, tr("How closely the curves follow; looser means fewer nodes"));
    through_.field->setObjectName("offset-through");
    through_.slider->setObjectName("slider-through");
    kiss_.field->setObjectName("offset-kiss");
    for (const NumberRow& row : {through_, kiss_}) {
        row.field->setRange(-500, 500);
        row.field->setStep(0.1);
    }
    tolerance_->setRange(0.001, 5);
    tolerance_->setStep(0.01);
    bind(through_.field, tr("change the through offset"), [](Piece& p, NumberField* f) {
        if (LineSpec* l = lineOf(p, LineKind::Through))
            l->offset = f->length();
    });
    bind(kiss_.field, tr("change the kiss offset"), [](Piece& p, NumberField* f) {
        if (LineSpec* l = lineOf(p, LineKind::Kiss))
            l->offset = f->length();
    });
    bind(tolerance_, tr("change the tolerance"), [](Piece& p, NumberField* f) { p.cutLines.tolerance = f->length(); });
    connect(hasKiss_, &QCheckBox::clicked, this, [this](bool on) {
        studio_.editPiece(on ? tr("add a kiss line") : tr("remove the kiss line"), [&](Piece& p) {
            if (on && !lineOf(p, LineKind::Kiss))
                p.cutLines.lines.push_back({LineKind::Kiss, Length::um(500)});
            else if (!on)
                std::erase_if(p.cutLines.lines, [](const LineSpec& l) { return l.kind == LineKind::Kiss; });
        });
    });
}

void CutLinesPanel::refresh()
{
    const Piece* piece = studio_.currentPiece();
    setEnabled(piece != nullptr);
    for (NumberField* f : {through_.field, kiss_.field, tolerance_})
        f->setUnit(studio_.unit());
    if (!piece)
        return;
    Piece copy = *piece;
    const LineSpec* through = lineOf(copy, LineKind::Through);
    const LineSpec* kiss = lineOf(copy, LineKind::Kiss);
    for (QWidget* w : {static_cast<QWidget*>(through_.label), static_cast<QWidget*>(through_.slider), static_cast<QWidget*>(through_.field)})
        w->setEnabled(through != nullptr);
    for (QWidget* w : {static_cast<QWidget*>(kiss_.label), static_cast<QWidget*>(kiss_.slider), static_cast<QWidget*>(kiss_.field)})
        w->setVisible(kiss != nullptr);
    if (through) {
        through_.field->setLength(through->offset);
        through_.slider->setReal(through->offset.mm());
    }
    if (kiss) {
        kiss_.field->setLength(kiss->offset);
        kiss_.slider->setReal(kiss->offset.mm());
    }
    hasKiss_->setChecked(kiss != nullptr);
    tolerance_->setLength(copy.cutLines.tolerance);
}

} // namespace yokai
