#include "studio/piece_edits.h"
#include "theme/theme.h"
#include "trail/panels.h"

#include <QCheckBox>
#include <QComboBox>
#include <QKeyEvent>
#include <QPainter>

namespace yokai {

namespace {

constexpr int rowHeight = 28;

QString kindText(LineKind kind)
{
    switch (kind) {
    case LineKind::Through:
        return CutLinesPanel::tr("Through");
    case LineKind::Kiss:
        return CutLinesPanel::tr("Kiss");
    case LineKind::Perforate:
        return CutLinesPanel::tr("Perforate");
    case LineKind::Crease:
        return CutLinesPanel::tr("Crease");
    }
    return {};
}

} // namespace

LineRows::LineRows(Studio& studio, QWidget* parent) : QWidget(parent), studio_(studio)
{
    setObjectName("line-rows");
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(tr("Cut lines"));
    setToolTip(tr("The lines of this piece; press one to set it"));
}

void LineRows::refresh()
{
    updateGeometry();
    update();
}

QSize LineRows::sizeHint() const
{
    const Piece* piece = studio_.currentPiece();
    return {120, std::max(1, piece ? int(piece->cutLines.lines.size()) : 0) * rowHeight + 2};
}

void LineRows::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(hasFocus() ? c.accent : c.line, 1));
    p.setBrush(c.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    const Piece* piece = studio_.currentPiece();
    if (!piece)
        return;
    if (piece->cutLines.lines.empty()) {
        p.setPen(c.inkSoft);
        p.setFont(theme::font(12));
        p.drawText(rect().adjusted(10, 0, -4, 0), Qt::AlignLeft | Qt::AlignVCenter, tr("No line yet; add one"));
    }
    for (int i = 0; i < int(piece->cutLines.lines.size()); ++i) {
        const LineSpec& line = piece->cutLines.lines[std::size_t(i)];
        const QRectF row(3, 1 + i * rowHeight + 2, width() - 6, rowHeight - 4);
        if (i == studio_.line()) {
            p.setPen(Qt::NoPen);
            p.setBrush(c.accentSoft);
            p.drawRoundedRect(row, 3, 3);
        }
        QPen pen = theme::linePen(line.kind, 2.4);
        const double y = row.center().y();
        p.setPen(QPen(QColor(255, 255, 255, theme::isDark() ? 210 : 0), 5));
        p.drawLine(QPointF(10, y), QPointF(38, y));
        p.setPen(pen);
        p.drawLine(QPointF(10, y), QPointF(38, y));
        p.setPen(c.ink);
        p.setFont(theme::font(13, i == studio_.line() ? QFont::Medium : QFont::Normal));
        const QRectF text = row.adjusted(44, 0, -6, 0);
        p.drawText(text, Qt::AlignLeft | Qt::AlignVCenter, kindText(line.kind));
        p.setFont(theme::font(12));
        p.setPen(c.inkSoft);
        p.drawText(text, Qt::AlignRight | Qt::AlignVCenter,
                   line.percent ? QStringLiteral("%1 %").arg(*line.percent, 0, 'f', 1) : QString::fromStdString(formatLength(line.offset, studio_.unit())));
    }
}

void LineRows::mousePressEvent(QMouseEvent* event)
{
    const int i = int(event->position().y() - 1) / rowHeight;
    if (studio_.currentPiece() && i >= 0 && i < int(studio_.currentPiece()->cutLines.lines.size()))
        studio_.setLine(i);
}

void LineRows::keyPressEvent(QKeyEvent* event)
{
    const int step = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
    const int next = studio_.line() + step;
    if (event->key() == Qt::Key_Delete)
        edits::removeLine(studio_);
    else if (step != 0 && studio_.currentPiece() && next >= 0 && next < int(studio_.currentPiece()->cutLines.lines.size()))
        studio_.setLine(next);
    else
        QWidget::keyPressEvent(event);
}

template <class Apply> void CutLinesPanel::editLine(const QString& what, Apply apply)
{
    studio_.editPiece(what, [&](Piece& p) {
        if (const int i = studio_.line(); i >= 0 && i < int(p.cutLines.lines.size()))
            apply(p.cutLines.lines[std::size_t(i)]);
    });
}

template <class Apply> void CutLinesPanel::bindLine(NumberField* field, const QString& what, Apply apply)
{
    bind(field, what, [this, apply](Piece& p, NumberField* f) {
        if (const int i = studio_.line(); i >= 0 && i < int(p.cutLines.lines.size()))
            apply(p.cutLines.lines[std::size_t(i)], f);
    });
}

CutLinesPanel::CutLinesPanel(Studio& studio, QWidget* parent) : Panel(studio, parent)
{
    rows_ = new LineRows(studio, this);
    addWide(rows_);
    auto* add = new IconButton(QStringLiteral("plus"), tr("Add a line"), tr("One more line"), this);
    copy_ = new IconButton(QStringLiteral("copy"), tr("Copy the line"), tr("One more line, set as this one"), this);
    remove_ = new IconButton(QStringLiteral("trash"), tr("Remove the line"), tr("Takes this line away"), this);
    add->setObjectName("line-add");
    copy_->setObjectName("line-copy");
    remove_->setObjectName("line-remove");
    addGroup(tr("Lines"), {add, copy_, remove_}, tr("As many as the piece needs"));
    kind_ = new QComboBox(this);
    kind_->setObjectName("line-kind");
    for (const LineKind kind : lineKinds)
        kind_->addItem(kindText(kind));
    addRow(tr("Kind"), kind_, tr("Through cuts all, kiss leaves the backing whole, perforate leaves bridges, crease does not cut"));
    shape_ = new QComboBox(this);
    shape_->setObjectName("line-shape");
    for (QComboBox* box : {kind_, shape_})
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    for (const QString& text : {tr("The outline"), tr("A box"), tr("A rounded box"), tr("An ellipse"), tr("A circle"), tr("A box round all lines")})
        shape_->addItem(text);
    addRow(tr("Follows"), shape_, tr("What the line keeps its distance from"));
    offset_ = addNumber(tr("Offset"), NumberField::Meaning::Length, -5, 10, 0.05,
                        tr("How far outside the edge the line runs, below 0 inside it: a length, or a percentage of the piece's longer side, as 3%"));
    offset_.field->setObjectName("line-offset");
    offset_.slider->setObjectName("line-slider");
    offset_.field->setRange(-500, 500);
    offset_.field->allowPercent();
    offset_.field->setStep(0.1);
    radius_ = addField(tr("Corner radius"), NumberField::Meaning::Length, tr("Of the rounded box"));
    corners_ = new Segmented({tr("Round"), tr("Sharp"), tr("Flat")}, this);
    corners_->setObjectName("corners");
    addRow(tr("Corners"), corners_, tr("How the line goes round the picture's corners"));
    limit_ = addField(tr("Sharp up to"), NumberField::Meaning::Number, tr("Corners that would reach farther than this many offsets are cut flat"));
    limit_->setRange(1, 100);
    limit_->setStep(0.5);
    limit_->setDecimals(1);
    limit_->setSuffix(QStringLiteral(" \u00d7"));
    openings_ = new Segmented({tr("Keep"), tr("Over"), tr("Fill")}, this);
    openings_->setObjectName("line-openings");
    addRow(tr("Openings"), openings_, tr("Whether this line goes round openings too: all, those over an area, or none"));
    over_ = addField(tr("Openings over"), NumberField::Meaning::Number, tr("Smaller openings have no line"));
    join_ = addNumber(tr("Join gaps"), NumberField::Meaning::Length, 0, 10, 0.1, tr("Parts nearer to each other than this become one piece"));
    join_.field->setObjectName("join-gap");
    join_.field->setRange(0, 200);
    roundInside_ = addField(tr("Round inside"), NumberField::Meaning::Length, tr("Inside corners are rounded to this radius, so that the tool can follow"));
    roundInside_->setObjectName("round-inside");
    roundInside_->setRange(0, 100);
    notch_ = addField(tr("Close notches"), NumberField::Meaning::Number, tr("Enclosed notches of the line under this area are closed"));
    for (NumberField* f : {notch_, over_}) {
        f->setRange(0, 1e6);
        f->setStep(0.5);
        f->setDecimals(1);
        f->setSuffix(QStringLiteral(" mm\u00b2"));
    }
    cut_ = addField(tr("Cut"), NumberField::Meaning::Length, tr("Length of a dash of the perforation"));
    gap_ = addField(tr("Bridge"), NumberField::Meaning::Length,
                    tr("What stays between two dashes; 0 writes the line unbroken, for machines that make the pattern"));
    gap_->setObjectName("line-gap");
    cut_->setRange(0.05, 1000);
    gap_->setRange(0, 1000);
    radius_->setRange(0, 1000);
    tolerance_ = addField(tr("Curve tolerance"), NumberField::Meaning::Length, tr("How closely the curves follow; looser means fewer nodes"));
    tolerance_->setRange(0.001, 5);
    tolerance_->setStep(0.01);
    clips_ = new QCheckBox(tr("Print up to this line"), this);
    clips_->setObjectName("line-clips");
    clips_->setToolTip(tr("The picture is printed, with its own surround, up to this line and no farther"));
    addWide(clips_);

    connect(add, &QAbstractButton::clicked, this, [this] { edits::addLine(studio_, false); });
    connect(copy_, &QAbstractButton::clicked, this, [this] { edits::addLine(studio_, true); });
    connect(remove_, &QAbstractButton::clicked, this, [this] { edits::removeLine(studio_); });
    connect(kind_, &QComboBox::activated, this, [this](int i) {
        editLine(tr("change the kind"), [&](LineSpec& l) {
            l.kind = lineKinds[i];
            if (l.kind == LineKind::Perforate && l.gapLength == Length())
                l.gapLength = Length::um(800);
        });
    });
    connect(shape_, &QComboBox::activated, this,
            [this](int i) { editLine(tr("change what the line follows"), [&](LineSpec& l) { l.shape = lineShapes[i]; }); });
    connect(corners_, &Segmented::chosen, this, [this](int i) { editLine(tr("change the corners"), [&](LineSpec& l) { l.corners = Corners(i); }); });
    connect(openings_, &Segmented::chosen, this, [this](int i) {
        editLine(tr("change the line's openings"), [&](LineSpec& l) { l.openings = i == 0 ? Openings::Keep : i == 1 ? Openings::Over : Openings::Fill; });
    });
    connect(clips_, &QCheckBox::clicked, this, [this](bool on) {
        studio_.editPiece(on ? tr("print up to a line") : tr("print what is kept"), [&](Piece& p) {
            for (std::size_t i = 0; i < p.cutLines.lines.size(); ++i)
                p.cutLines.lines[i].clipsPrint = on && int(i) == studio_.line();
        });
    });
    bindLine(offset_.field, tr("change the offset"), [](LineSpec& l, NumberField* f) {
        l.percent = f->percent();
        if (!l.percent)
            l.offset = f->length();
    });
    bindLine(radius_, tr("change the corner radius"), [](LineSpec& l, NumberField* f) { l.boxRadius = f->length(); });
    bindLine(limit_, tr("change the sharp limit"), [](LineSpec& l, NumberField* f) { l.sharpLimit = f->number(); });
    bindLine(over_, tr("change the line's openings"), [](LineSpec& l, NumberField* f) { l.openingsOver = f->number(); });
    bindLine(join_.field, tr("change the join"), [](LineSpec& l, NumberField* f) { l.joinGap = f->length(); });
    bindLine(roundInside_, tr("change the inside radius"), [](LineSpec& l, NumberField* f) { l.roundInside = f->length(); });
    bindLine(notch_, tr("change the notch limit"), [](LineSpec& l, NumberField* f) { l.smallestNotch = f->number(); });
    bindLine(tolerance_, tr("change the tolerance"), [](LineSpec& l, NumberField* f) { l.tolerance = f->length(); });
    bindLine(cut_, tr("change the dash"), [](LineSpec& l, NumberField* f) { l.cutLength = f->length(); });
    bindLine(gap_, tr("change the bridge"), [](LineSpec& l, NumberField* f) { l.gapLength = f->length(); });
}

void CutLinesPanel::refresh()
{
    const Piece* piece = studio_.currentPiece();
    setEnabled(piece != nullptr);
    for (NumberField* f : {offset_.field, join_.field, roundInside_, tolerance_, radius_, cut_, gap_})
        f->setUnit(studio_.unit());
    if (!piece)
        return;
    rows_->refresh();
    const int at = studio_.line();
    const bool any = at >= 0 && at < int(piece->cutLines.lines.size());
    static const LineSpec none;
    const LineSpec& line = any ? piece->cutLines.lines[std::size_t(at)] : none;
    remove_->setEnabled(any);
    copy_->setEnabled(any);
    for (QWidget* w :
         {static_cast<QWidget*>(kind_), static_cast<QWidget*>(shape_), static_cast<QWidget*>(offset_.field), static_cast<QWidget*>(offset_.slider)})
        showRow(w, any);
    clips_->setVisible(any);
    kind_->setCurrentIndex(int(line.kind));
    shape_->setCurrentIndex(int(line.shape));
    if (line.percent)
        offset_.field->setPercent(line.percent.value_or(0));
    else
        offset_.field->setLength(line.offset);
    offset_.slider->setReal(line.percent.value_or(line.offset.mm()));
    radius_->setLength(line.boxRadius);
    corners_->setCurrent(int(line.corners));
    limit_->setNumber(line.sharpLimit);
    openings_->setCurrent(line.openings == Openings::Keep ? 0 : line.openings == Openings::Over ? 1 : 2);
    over_->setNumber(line.openingsOver);
    join_.field->setLength(line.joinGap);
    join_.slider->setReal(line.joinGap.mm());
    roundInside_->setLength(line.roundInside);
    notch_->setNumber(line.smallestNotch);
    tolerance_->setLength(line.tolerance);
    cut_->setLength(line.cutLength);
    gap_->setLength(line.gapLength);
    clips_->setChecked(line.clipsPrint);
    // Only what means something for this line.
    const bool outline = any && line.shape == LineShape::Outline;
    for (QWidget* w :
         {static_cast<QWidget*>(corners_), static_cast<QWidget*>(openings_), static_cast<QWidget*>(join_.field), static_cast<QWidget*>(join_.slider),
          static_cast<QWidget*>(roundInside_), static_cast<QWidget*>(notch_), static_cast<QWidget*>(tolerance_)})
        showRow(w, outline);
    showRow(limit_, outline && line.corners == Corners::Sharp);
    showRow(over_, outline && line.openings == Openings::Over);
    showRow(radius_, any && line.shape == LineShape::RoundedBox);
    showRow(cut_, any && line.kind == LineKind::Perforate);
    showRow(gap_, any && line.kind == LineKind::Perforate);
}

} // namespace yokai
