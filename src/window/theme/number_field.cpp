#include "theme/number_field.h"

#include "base/error.h"
#include "theme/theme.h"
#include "words.h"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPointer>
#include <QStyle>
#include <QWheelEvent>

namespace yokai {

bool TextField::event(QEvent* event)
{
    if (event->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(event);
        const bool undoes = key->matches(QKeySequence::Undo), redoes = key->matches(QKeySequence::Redo);
        if ((undoes && !isModified()) || redoes) {
            event->ignore(); // the window's
            return false;
        }
    }
    if (event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->matches(QKeySequence::Undo) && isModified()) {
        takeBack();
        return true;
    }
    return QLineEdit::event(event);
}

// Not all that is pressed takes the focus, and a key of the window never does.
bool TextField::eventFilter(QObject* watched, QEvent* event)
{
    const bool elsewhere = event->type() == QEvent::Shortcut || event->type() == QEvent::Close || event->type() == QEvent::MouseButtonPress;
    if (elsewhere && isModified() && watched->isWidgetType() != (event->type() == QEvent::Shortcut) && watched != this && !isAncestorOf(qobject_cast<QWidget*>(watched))) {
        const QPointer<QObject> there = watched;
        settle();
        if (!there) // it went with what changed
            return true;
    }
    return QLineEdit::eventFilter(watched, event);
}

void TextField::focusInEvent(QFocusEvent* event)
{
    qApp->installEventFilter(this);
    QLineEdit::focusInEvent(event);
}

void TextField::focusOutEvent(QFocusEvent* event)
{
    qApp->removeEventFilter(this);
    QLineEdit::focusOutEvent(event);
}

void NumberField::takeBack()
{
    show();
    selectAll();
}

NumberField::NumberField(Meaning meaning, QWidget* parent) : TextField(parent), meaning_(meaning)
{
    setAlignment(Qt::AlignRight);
    setFixedWidth(theme::px(92)); // "260.00 mm", and "0.0254 mm" while it is typed
    connect(this, &QLineEdit::returnPressed, this, [this] {
        accept();
        selectAll();
    });
    connect(this, &QLineEdit::textEdited, this, [this] { setBad(false); });
}

void NumberField::setUnit(Unit unit)
{
    unit_ = unit;
    refreshText();
}

void NumberField::refreshText()
{
    if (!hasFocus() || !isModified())
        show();
}

void NumberField::setPercent(double value)
{
    percent_ = value;
    refreshText();
}

void NumberField::setLength(Length value)
{
    length_ = value;
    percent_.reset();
    refreshText();
}

void NumberField::setNumber(double value)
{
    number_ = value;
    refreshText();
}

void NumberField::show()
{
    if (percent_)
        setText(yokai::number(*percent_, 1) + QStringLiteral(" %"));
    else if (meaning_ == Meaning::Length) {
        // What is as thin as a hairline is typed finer than is shown elsewhere.
        constexpr double thin = 0.1, shownTo = 0.01, fine = 1e-6; // mm
        const double mm = length_.mm();
        const bool finer = unit_ == Unit::Mm && std::abs(mm) < thin && std::abs(std::remainder(mm, shownTo)) > fine;
        setText(finer ? yokai::number(mm, 4) + QStringLiteral(" mm") : exactText(mm, unit_));
    } else if (meaning_ == Meaning::Speed)
        setText(speedText({length_}, unit_));
    else if (meaning_ == Meaning::Area)
        setText(exactAreaText(number_, unit_, decimals_));
    else
        setText(yokai::number(number_, decimals_) + suffix_);
    setModified(false);
    setBad(false);
}

void NumberField::setBad(bool bad)
{
    if (property("bad").toBool() == bad)
        return;
    setProperty("bad", bad);
    style()->unpolish(this);
    style()->polish(this);
}

void NumberField::setAutomatic(bool automatic)
{
    if (property("automatic").toBool() == automatic)
        return;
    setProperty("automatic", automatic);
    style()->unpolish(this);
    style()->polish(this);
}

void NumberField::change(double value, How how)
{
    value = std::clamp(value, least_, most_);
    if (percent_)
        percent_ = value;
    else if (isLength())
        length_ = Length::mm(value);
    else
        number_ = value;
    show();
    emit edited(how);
}

void NumberField::setPlain(double value, How how) { change(value, how); }

void NumberField::stepBy(double steps, bool fine)
{
    const bool inches = !percent_ && unit_ == Unit::Inch;
    constexpr double inch = 25.4; // a 64th of an inch for a tenth of a mm, a thousandth of in2 for half a mm2
    const double base = inches && meaning_ == Meaning::Length ? inch / 64 * (step_ / 0.1)
                        : meaning_ == Meaning::Speed            ? Speed::of(1, speedUnit(unit_)).perMinute.mm() * step_
                        : inches && meaning_ == Meaning::Area ? mm2PerInch2 / 1000 * (step_ / 0.5)
                                                              : step_;
    const double step = fine ? base / 10 : base;
    // Land on whole steps, so that 1.97 goes to 2.0 and not to 2.07.
    const double count = plain() / step;
    const double next = steps > 0 ? std::floor(count + 1e-6) + steps : std::ceil(count - 1e-6) + steps;
    change(next * step, How::Stepped);
}

void NumberField::accept()
{
    if (!isModified())
        return;
    try {
        const QString typedText = text().trimmed();
        const bool bare = std::none_of(typedText.begin(), typedText.end(), [](QChar c) { return c.isLetter() || c == QLatin1Char('"'); });
        if (mayBePercent_ && (typedText.endsWith(QLatin1Char('%')) || (percent_ && bare))) {
            acceptPercent(typedText);
        } else if (meaning_ == Meaning::Length) {
            const Length typed = parseLength(text().toStdString(), unit_);
            if (typed.mm() < least_ - 1e-9 || typed.mm() > most_ + 1e-9)
                throw Error(ErrorKind::Usage, "use {} to {}", exactText(least_, unit_).toStdString(), exactText(most_, unit_).toStdString());
            length_ = typed;
            percent_.reset();
        } else if (meaning_ == Meaning::Speed) {
            const Speed typed = parseSpeed(typedText.toStdString(), speedUnit(unit_));
            if (typed.perMinute.mm() < least_ - 1e-9 || typed.perMinute.mm() > most_ + 1e-9)
                throw Error(ErrorKind::Usage, "use {} to {}", speedText({Length::mm(least_)}, unit_).toStdString(), speedText({Length::mm(most_)}, unit_).toStdString());
            length_ = typed.perMinute;
            noteSpeedUnit(typedText);
        } else if (meaning_ == Meaning::Area) {
            const double typed = parseArea(typedText.toStdString(), unit_);
            if (typed < least_ || typed > most_)
                throw Error(ErrorKind::Usage, "use {} to {}", exactAreaText(least_, unit_, decimals_).toStdString(),
                            exactAreaText(most_, unit_, decimals_).toStdString());
            number_ = typed;
        } else {
            QString plainText = text().trimmed();
            if (!suffix_.isEmpty() && plainText.endsWith(suffix_.trimmed()))
                plainText.chop(suffix_.trimmed().size());
            bool ok = false;
            const double typed = plainText.trimmed().replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&ok);
            if (!ok || typed < least_ || typed > most_)
                throw Error(ErrorKind::Usage, "use a number from {} to {}", plainNumber(least_, 2), plainNumber(most_, 2));
            number_ = typed;
        }
        show();
        emit edited(How::Typed);
    } catch (const Error& e) {
        setBad(true);
        setToolTip(words(e));
    }
}

void NumberField::acceptPercent(QString plainText)
{
    plainText.remove(QLatin1Char('%'));
    bool ok = false;
    const double typed = plainText.trimmed().replace(QLatin1Char(','), QLatin1Char('.')).toDouble(&ok);
    if (!ok || std::abs(typed) > 100)
        throw Error(ErrorKind::Usage, "use a percentage from -100 to 100, or a length with its unit");
    percent_ = typed;
}

void NumberField::keyPressEvent(QKeyEvent* event)
{
    const bool fine = event->modifiers() & Qt::ShiftModifier;
    switch (event->key()) {
    case Qt::Key_Up:
        accept();
        stepBy(1, fine);
        return;
    case Qt::Key_Down:
        accept();
        stepBy(-1, fine);
        return;
    case Qt::Key_Escape:
        if (isModified()) {
            show();
            selectAll();
            return;
        }
        break;
    default:
        break;
    }
    QLineEdit::keyPressEvent(event);
}

void NumberField::wheelEvent(QWheelEvent* event)
{
    // Only where the maker has clicked: scrolling the trail must not change numbers on the way.
    if (!hasFocus()) {
        event->ignore();
        return;
    }
    const int turn = event->angleDelta().y() ? event->angleDelta().y() : event->angleDelta().x();
    if (turn != 0)
        stepBy(turn > 0 ? 1 : -1, event->modifiers() & Qt::ShiftModifier);
    event->accept();
}

void NumberField::focusOutEvent(QFocusEvent* event)
{
    TextField::focusOutEvent(event);
    accept();
}

ScrubLabel::ScrubLabel(const QString& text, NumberField* field, QWidget* parent) : QLabel(text, parent), field_(field)
{
    setCursor(Qt::SizeHorCursor);
    setBuddy(field);
}

void ScrubLabel::mousePressEvent(QMouseEvent* event)
{
    if (event->button() != Qt::LeftButton)
        return;
    pressX_ = event->pos().x();
    from_ = field_->plain();
    dragging_ = false;
    pressed_ = true;
}

void ScrubLabel::mouseMoveEvent(QMouseEvent* event)
{
    const int dx = event->pos().x() - pressX_;
    constexpr int least = 3; // pixels: less is a hand that shakes
    if (!pressed_ || (!dragging_ && std::abs(dx) < least))
        return;
    if (!dragging_)
        grabKeyboard(); // for Esc
    dragging_ = true;
    const double step = (event->modifiers() & Qt::ShiftModifier) ? 0.01 : 0.05;
    field_->setPlain(from_ + dx * step * (field_->meaning() == NumberField::Meaning::Length ? 1 : 10), NumberField::How::Trying);
}

void ScrubLabel::mouseReleaseEvent(QMouseEvent* event)
{
    if (event->button() != Qt::LeftButton || !pressed_)
        return;
    pressed_ = false;
    if (dragging_)
        emit field_->edited(NumberField::How::Kept);
    else
        field_->setFocus(Qt::MouseFocusReason);
    dragging_ = false;
    releaseKeyboard();
}

void ScrubLabel::keyPressEvent(QKeyEvent* event)
{
    if (dragging_ && event->key() == Qt::Key_Escape) {
        dragging_ = false;
        pressed_ = false;
        releaseKeyboard();
        field_->setPlain(from_, NumberField::How::Dropped);
    }
}

} // namespace yokai
