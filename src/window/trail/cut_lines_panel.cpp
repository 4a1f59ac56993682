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
    corners_ = new Segmented({tr("Round"), tr("Sharp"), tr("Flat")}, this);
    corners_->setObjectName("corners");
    addRow(tr("Corners"), corners_, tr("How the line goes round the picture's corners"));
    join_ = addNumber(tr("Join gaps"), NumberField::Meaning::Length, 0, 10, 0.1, tr("Parts nearer to each other than this become one piece"));
    join_.field->setObjectName("join-gap");
    roundInside_ = addField(tr("Round inside"), NumberField::Meaning::Length, tr("Inside corners are rounded to this radius, so that the tool can follow"));
    roundInside_->setObjectName("round-inside");
    roundInside_->setRange(0, 100);
    notch_ = addField(tr("Close notches"), NumberField::Meaning::Number, tr("Enclosed notches of the line under this area are closed"));
    notch_->setRange(0, 1e6);
    notch_->setStep(0.5);
    notch_->setDecimals(1);
    notch_->setSuffix(QStringLiteral(" mm\u00b2"));
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
    bind(join_.field, tr("change the join"), [](Piece& p, NumberField* f) { p.cutLines.joinGap = f->length(); });
    bind(roundInside_, tr("change the inside radius"), [](Piece& p, NumberField* f) { p.cutLines.roundInside = f->length(); });
    bind(notch_, tr("change the notch limit"), [](Piece& p, NumberField* f) { p.cutLines.smallestNotch = f->number(); });
    connect(corners_, &Segmented::chosen, this,
            [this](int index) { studio_.editPiece(tr("change the corners"), [&](Piece& p) { p.cutLines.corners = Corners(index); }); });
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
    for (NumberField* f : {through_.field, kiss_.field, join_.field, roundInside_, tolerance_})
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
    corners_->setCurrent(int(copy.cutLines.corners));
    join_.field->setLength(copy.cutLines.joinGap);
    join_.slider->setReal(copy.cutLines.joinGap.mm());
    roundInside_->setLength(copy.cutLines.roundInside);
    notch_->setNumber(copy.cutLines.smallestNotch);
}

} // namespace yokai
