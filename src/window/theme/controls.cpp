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
    if (index == current_)
        return;
    current_ = index;
    tellParts(this);
    update();
}

QSize Segmented::sizeHint() const
{
    const QFontMetrics metrics(theme::font(12));
    int w = 0;
    for (const QString& c : choices_)
        w += metrics.horizontalAdvance(c) + 18;
    return {w + 2, theme::px(24)};
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

std::vector<DrawnPart> Segmented::drawnParts() const
{
    std::vector<DrawnPart> out;
    for (int i = 0; i < choices_.size(); ++i)
        out.push_back({choices_[i], cell(i), QAccessible::RadioButton, i == current_});
    return out;
}

void Segmented::pressPart(int index)
{
    if (index == current_ || index < 0 || index >= choices_.size())
        return;
    setCurrent(index);
    emit chosen(index);
}

void Segmented::changeEvent(QEvent* event)
{
    QWidget::changeEvent(event);
    if (event->type() == QEvent::FontChange)
        updateGeometry();
}

void Segmented::mousePressEvent(QMouseEvent* event)
{
    for (int i = 0; i < choices_.size() && event->button() == Qt::LeftButton; ++i)
        if (cell(i).contains(event->pos())) {
            pressPart(i);
            return;
        }
}

void Segmented::keyPressEvent(QKeyEvent* event)
{
    const int step = event->key() == Qt::Key_Right || event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Left || event->key() == Qt::Key_Up ? -1 : 0;
    const int next = current_ + step;
    if (step == 0) {
        QWidget::keyPressEvent(event);
    } else {
        pressPart(next);
    }
}

BeadSlider::BeadSlider(QWidget* parent) : QSlider(Qt::Horizontal, parent)
{
    setFixedHeight(theme::px(24));
    setMinimumWidth(theme::px(36));
    connect(this, &QSlider::valueChanged, this, [this] { emit slid(real(), isSliderDown() ? NumberField::How::Trying : NumberField::How::Stepped); });
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
    if (event->button() != Qt::LeftButton || isSliderDown())
        return;
    before_ = value();
    setSliderDown(true);
    setFromX(event->pos().x());
}

void BeadSlider::mouseMoveEvent(QMouseEvent* event)
{
    if (isSliderDown() && (event->buttons() & Qt::LeftButton))
        setFromX(event->pos().x());
}

void BeadSlider::mouseReleaseEvent(QMouseEvent* event)
{
    if (event->button() != Qt::LeftButton || !isSliderDown())
        return;
    setSliderDown(false);
    emit slid(real(), NumberField::How::Kept);
}

void BeadSlider::keyPressEvent(QKeyEvent* event)
{
    if (event->key() != Qt::Key_Escape || !isSliderDown()) {
        QSlider::keyPressEvent(event);
        return;
    }
    {
        const QSignalBlocker block(this);
        setSliderDown(false);
        setValue(before_);
    }
    emit slid(real(), NumberField::How::Dropped);
}

void BeadSlider::wheelEvent(QWheelEvent* event)
{
    if (hasFocus() && underMouse() && !isSliderDown())
        QSlider::wheelEvent(event);
    else
        event->ignore();
}

ChoiceBox::ChoiceBox(QWidget* parent) : QComboBox(parent)
{
    setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    setFocusPolicy(Qt::StrongFocus); // not by the wheel
}

void ChoiceBox::wheelEvent(QWheelEvent* event)
{
    if (hasFocus())
        QComboBox::wheelEvent(event);
    else
        event->ignore();
}

QSize IconButton::sizeHint() const { return {theme::px(30), theme::px(26)}; }

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
    const int side = theme::px(20);
    p.drawPixmap(QPointF((width() - side) / 2.0, (height() - side) / 2.0), theme::pixmap(icon_, on ? c.paper : c.ink, side, devicePixelRatioF()));
}

Swatches::Swatches(QWidget* parent) : QWidget(parent)
{
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    setAccessibleName(tr("Colours"));
}

std::vector<DrawnPart> Swatches::drawnParts() const
{
    std::vector<DrawnPart> out;
    for (std::size_t i = 0; i < colours_.size(); ++i)
        out.push_back({colours_[i].name(), QRect(int(i) * 24, 0, 24, 26), own_ ? QAccessible::Button : QAccessible::StaticText, false});
    return out;
}

void Swatches::pressPart(int index)
{
    if (own_ && index >= 0 && index < int(colours_.size()))
        emit removed(index);
}

void Swatches::keyPressEvent(QKeyEvent* event)
{
    const int step = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    if (step != 0) {
        at_ = std::clamp(at_ + step, 0, std::max(0, int(colours_.size()) - 1));
        update();
    } else if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
        pressPart(at_);
    } else {
        QWidget::keyPressEvent(event);
    }
}

void Swatches::setColours(std::vector<QColor> colours, bool own)
{
    if (colours.size() > 5)
        colours.resize(5); // as many as the panel has room for; the rest still counts
    own_ = own;
    colours_ = std::move(colours);
    setToolTip(own ? tr("Press a colour to take it out") : tr("Found in the picture"));
    setCursor(own ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setFocusPolicy(own && !colours_.empty() ? Qt::StrongFocus : Qt::NoFocus);
    at_ = std::min(at_, std::max(0, int(colours_.size()) - 1));
    updateGeometry();
    update();
}

void Swatches::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    for (std::size_t i = 0; i < colours_.size(); ++i) {
        p.setPen(QPen(hasFocus() && int(i) == at_ ? theme::colours().accent : theme::colours().inkFaint, hasFocus() && int(i) == at_ ? 2 : 1));
        p.setBrush(colours_[i]);
        p.drawRoundedRect(QRectF(int(i) * 24 + 1.5, 3.5, 19, 19), 4, 4);
    }
}

void Swatches::mousePressEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton)
        pressPart(event->pos().x() / 24);
}

PanelGrid::PanelGrid(QWidget* parent) : QWidget(parent), grid_(new QGridLayout(this))
{
    grid_->setContentsMargins(0, 8, 0, 0);
    grid_->setHorizontalSpacing(6);
    grid_->setVerticalSpacing(6);
    grid_->setColumnMinimumWidth(0, theme::px(60));
    grid_->setColumnStretch(1, 1);
}

void PanelGrid::addRow(QLabel* label, QWidget* middle, QWidget* end)
{
    if (label)
        grid_->addWidget(label, row_, 0, 1, middle ? 1 : 2);
    const bool small = qobject_cast<Segmented*>(middle) && !end;
    if (middle)
        grid_->addWidget(middle, row_, 1, 1, end ? 1 : 2, small ? Qt::AlignRight : Qt::Alignment());
    if (end)
        grid_->addWidget(end, row_, 2);
    ++row_;
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
    grid_->addWidget(label, row_, 0);
    grid_->addWidget(group, row_++, 1, 1, 2);
    groups_.emplace_back(group, label);
    return group;
}

QLabel* PanelGrid::labelOf(QWidget* group) const
{
    for (const auto& [of, label] : groups_)
        if (of == group)
            return label;
    return nullptr;
}

void PanelGrid::addWide(QWidget* control) { grid_->addWidget(control, row_++, 0, 1, 3); }

QLabel* PanelGrid::addNote(const QString& text)
{
    auto* note = new QLabel(text, this);
    note->setProperty("role", "soft");
    note->setWordWrap(true);
    grid_->addWidget(note, row_++, 0, 1, 3);
    return note;
}

} // namespace yokai
