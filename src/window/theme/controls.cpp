#include "theme/controls.h"

#include "theme/theme.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace yokai {

Segmented::Segmented(const QStringList& choices, QWidget* parent) : QWidget(parent), choices_(choices)
{
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

void Segmented::setCurrent(int index)
{
    current_ = index;
    setAccessibleDescription(choices_.value(index));
    update();
}

QSize Segmented::sizeHint() const
{
    const QFontMetrics metrics(theme::font(12));
    int w = 0;
    for (const QString& c : choices_)
        w += metrics.horizontalAdvance(c) + 18;
    return {w + 2, 24};
}

QRect Segmented::cell(int index) const
{
    const QFontMetrics metrics(theme::font(12));
    int x = 1;
    for (int i = 0; i < index; ++i)
        x += metrics.horizontalAdvance(choices_[i]) + 18;
    return {x, 0, metrics.horizontalAdvance(choices_[index]) + 18, height()};
}

void Segmented::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setFont(theme::font(12));
    const QRectF frame = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
    p.setPen(QPen(hasFocus() ? c.accent : c.line, 1));
    p.setBrush(c.field);
    p.drawRoundedRect(frame, 4, 4);
    for (int i = 0; i < choices_.size(); ++i) {
        const QRect at = cell(i);
        const bool on = i == current_;
        if (on) {
            p.setPen(Qt::NoPen);
            p.setBrush(c.ink);
            p.drawRoundedRect(QRectF(at).adjusted(1, 2, -1, -2), 3, 3);
        }
        p.setPen(on ? c.paper : c.ink);
        p.drawText(at, Qt::AlignCenter, choices_[i]);
    }
}

void Segmented::mousePressEvent(QMouseEvent* event)
{
    for (int i = 0; i < choices_.size(); ++i)
        if (cell(i).contains(event->pos()) && i != current_) {
            setCurrent(i);
            emit chosen(i);
        }
}

void Segmented::keyPressEvent(QKeyEvent* event)
{
    const int step = event->key() == Qt::Key_Right || event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Left || event->key() == Qt::Key_Up ? -1 : 0;
    const int next = current_ + step;
    if (step == 0) {
        QWidget::keyPressEvent(event);
    } else if (next >= 0 && next < choices_.size()) {
        setCurrent(next);
        emit chosen(next);
    }
}

BeadSlider::BeadSlider(QWidget* parent) : QSlider(Qt::Horizontal, parent)
{
    setFixedHeight(24);
    setMinimumWidth(48);
    connect(this, &QSlider::valueChanged, this, [this] { emit slid(real()); });
}

void BeadSlider::setSpan(double least, double most, double step)
{
    const QSignalBlocker block(this);
    least_ = least;
    step_ = step;
    setRange(0, int(std::lround((most - least) / step)));
    setPageStep(10);
}

void BeadSlider::setReal(double value)
{
    const QSignalBlocker block(this);
    setValue(int(std::lround((value - least_) / step_)));
    update();
}

double BeadSlider::real() const { return std::round((least_ + value() * step_) * 1e6) / 1e6; }

void BeadSlider::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double r = 7, y = height() / 2.0, x0 = r, x1 = width() - r;
    const double t = maximum() > 0 ? double(value()) / maximum() : 0, x = x0 + (x1 - x0) * t;
    p.setPen(Qt::NoPen);
    p.setBrush(c.line);
    p.drawRoundedRect(QRectF(0, y - 2, width(), 4), 2, 2);
    // Zero is where the edge is: a tick, when it lies within the range.
    const double zero = -least_ / step_;
    if (least_ < 0 && zero < maximum()) {
        const double zx = x0 + (x1 - x0) * zero / maximum();
        p.drawRect(QRectF(zx - 0.5, y - 5, 1, 10));
    }
    p.setBrush(isEnabled() ? c.ink : c.inkFaint);
    if (hasFocus())
        p.setPen(QPen(c.accent, 2));
    p.drawEllipse(QPointF(x, y), r - (hasFocus() ? 0.5 : 0), r - (hasFocus() ? 0.5 : 0));
}

void BeadSlider::setFromX(int x)
{
    const double r = 7, t = std::clamp((x - r) / std::max(1.0, width() - 2 * r), 0.0, 1.0);
    setValue(int(std::lround(t * maximum())));
}

void BeadSlider::mousePressEvent(QMouseEvent* event)
{
    setSliderDown(true);
    setFromX(event->pos().x());
}

void BeadSlider::mouseMoveEvent(QMouseEvent* event)
{
    if (event->buttons() & Qt::LeftButton)
        setFromX(event->pos().x());
}

IconButton::IconButton(const QString& icon, const QString& name, const QString& tip, QWidget* parent) : QAbstractButton(parent), icon_(icon)
{
    setAccessibleName(name);
    setToolTip(tip);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

void IconButton::paintEvent(QPaintEvent*)
{
    const auto& c = theme::colours();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool on = isChecked() || isDown();
    p.setPen(QPen(hasFocus() ? c.accent : underMouse() && isEnabled() ? c.inkFaint : c.line, 1));
    p.setBrush(on ? c.ink : c.field);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    p.setOpacity(isEnabled() ? 1 : 0.35);
    p.drawPixmap(QPointF((width() - 20) / 2.0, (height() - 20) / 2.0), theme::pixmap(icon_, on ? c.paper : c.ink, 20, devicePixelRatioF()));
}

Swatches::Swatches(QWidget* parent) : QWidget(parent) { setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed); }

void Swatches::setColours(std::vector<QColor> colours, bool own)
{
    if (colours.size() > 5)
        colours.resize(5); // as many as the panel has room for; the rest still counts
    own_ = own;
    colours_ = std::move(colours);
    setToolTip(own ? tr("Press a colour to take it out") : tr("Found in the picture"));
    setCursor(own ? Qt::PointingHandCursor : Qt::ArrowCursor);
    updateGeometry();
    update();
}

void Swatches::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(theme::colours().inkFaint, 1));
    for (std::size_t i = 0; i < colours_.size(); ++i) {
        p.setBrush(colours_[i]);
        p.drawRoundedRect(QRectF(int(i) * 24 + 1.5, 3.5, 19, 19), 4, 4);
    }
}

void Swatches::mousePressEvent(QMouseEvent* event)
{
    const int index = event->pos().x() / 24;
    if (own_ && index < int(colours_.size()))
        emit removed(index);
}

PanelGrid::PanelGrid(QWidget* parent) : QWidget(parent), grid_(new QGridLayout(this))
{
    grid_->setContentsMargins(0, 8, 0, 0);
    grid_->setHorizontalSpacing(8);
    grid_->setVerticalSpacing(6);
    grid_->setColumnMinimumWidth(0, 62);
    grid_->setColumnStretch(1, 1);
}

NumberRow PanelGrid::addNumber(const QString& text, NumberField::Meaning meaning, double least, double most, double step, const QString& tip)
{
    NumberRow row;
    row.field = new NumberField(meaning, this);
    row.slider = new BeadSlider(this);
    row.label = new ScrubLabel(text, row.field, this);
    row.slider->setSpan(least, most, step);
    row.field->setStep(step);
    row.field->setRange(least, most);
    for (QWidget* w : {static_cast<QWidget*>(row.label), static_cast<QWidget*>(row.slider), static_cast<QWidget*>(row.field)})
        w->setToolTip(tip);
    row.field->setAccessibleName(text);
    row.slider->setAccessibleName(text);
    connect(row.slider, &BeadSlider::slid, row.field, [field = row.field](double v) { field->setPlain(v, false); });
    labels_.emplace_back(row.field, row.label);
    labels_.emplace_back(row.slider, row.label);
    grid_->addWidget(row.label, row_, 0);
    grid_->addWidget(row.slider, row_, 1);
    grid_->addWidget(row.field, row_++, 2);
    return row;
}

NumberField* PanelGrid::addField(const QString& text, NumberField::Meaning meaning, const QString& tip)
{
    auto* field = new NumberField(meaning, this);
    auto* label = new ScrubLabel(text, field, this);
    label->setToolTip(tip);
    field->setToolTip(tip);
    field->setAccessibleName(text);
    labels_.emplace_back(field, label);
    grid_->addWidget(label, row_, 0, 1, 2);
    grid_->addWidget(field, row_++, 2);
    return field;
}

std::pair<NumberField*, NumberField*> PanelGrid::addPair(const QString& text, NumberField::Meaning meaning, const QString& first, const QString& second,
                                                         const QString& tip)
{
    auto* pair = new QWidget(this);
    auto* layout = new QHBoxLayout(pair);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    NumberField* fields[2] = {new NumberField(meaning, pair), new NumberField(meaning, pair)};
    for (int i = 0; i < 2; ++i) {
        fields[i]->setFixedWidth(76);
        fields[i]->setProperty("tight", true);
        fields[i]->setAccessibleName(i == 0 ? first : second);
        fields[i]->setToolTip(tip + QStringLiteral(": ") + (i == 0 ? first : second));
        layout->addWidget(fields[i]);
    }
    auto* label = new ScrubLabel(text, fields[0], this);
    label->setToolTip(tip);
    grid_->addWidget(label, row_, 0);
    grid_->addWidget(pair, row_++, 1, 1, 2, Qt::AlignRight);
    return {fields[0], fields[1]};
}

void PanelGrid::addRow(const QString& text, QWidget* control, const QString& tip)
{
    auto* label = new QLabel(text, this);
    label->setBuddy(control);
    label->setToolTip(tip);
    control->setToolTip(tip);
    control->setAccessibleName(text);
    labels_.emplace_back(control, label);
    grid_->addWidget(label, row_, 0);
    grid_->addWidget(control, row_++, 1, 1, 2, qobject_cast<Segmented*>(control) ? Qt::AlignRight : Qt::Alignment());
}

QWidget* PanelGrid::addGroup(const QString& text, std::initializer_list<QWidget*> controls, const QString& tip)
{
    auto* group = new QWidget(this);
    auto* layout = new QHBoxLayout(group);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    layout->addStretch(1);
    for (QWidget* control : controls)
        layout->addWidget(control);
    auto* label = new QLabel(text, this);
    label->setToolTip(tip);
    labels_.emplace_back(group, label);
    grid_->addWidget(label, row_, 0);
    grid_->addWidget(group, row_++, 1, 1, 2);
    return group;
}

void PanelGrid::addWide(QWidget* control) { grid_->addWidget(control, row_++, 0, 1, 3); }

QLabel* PanelGrid::labelOf(QWidget* control) const
{
    for (const auto& [of, label] : labels_)
        if (of == control)
            return label;
    return nullptr;
}

void PanelGrid::showRow(QWidget* control, bool on)
{
    control->setVisible(on);
    if (QLabel* label = labelOf(control))
        label->setVisible(on);
}

QLabel* PanelGrid::addNote(const QString& text)
{
    auto* note = new QLabel(text, this);
    note->setProperty("role", "soft");
    note->setWordWrap(true);
    grid_->addWidget(note, row_++, 0, 1, 3);
    return note;
}

} // namespace yokai
