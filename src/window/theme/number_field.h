// A field for one number that a maker can type, step, scroll or scrub.
//
// Lengths accept units and sums (1/8in, 2+0.5mm); Up and Down, the wheel and
// dragging the label step it, with Shift in finer steps. What cannot be read stays
// in the field, marked, and changes nothing.
#pragma once

#include "base/length.h"

#include <QLabel>
#include <QLineEdit>

#include <optional>

namespace yokai {

class NumberField : public QLineEdit {
    Q_OBJECT
public:
    enum class Meaning { Length, Number };
    explicit NumberField(Meaning meaning, QWidget* parent = nullptr);

    void setRange(double least, double most)
    {
        least_ = least;
        most_ = most;
    } // mm for lengths
    void setStep(double step) { step_ = step; }
    void setDecimals(int decimals)
    {
        decimals_ = decimals;
        refreshText();
    }
    void setSuffix(const QString& suffix)
    {
        suffix_ = suffix;
        refreshText();
    }
    // A length that may be given as a percentage instead: "3%"; then percent() has it.
    void allowPercent() { mayBePercent_ = true; }
    void setPercent(double value);
    std::optional<double> percent() const { return percent_; }
    void setUnit(Unit unit);
    Meaning meaning() const { return meaning_; }

    void setLength(Length value); // shows it; emits nothing
    void setNumber(double value);
    Length length() const { return length_; }
    double number() const { return number_; }
    double plain() const { return percent_ ? *percent_ : meaning_ == Meaning::Length ? length_.mm() : number_; }
    void stepBy(double steps, bool fine);
    void setPlain(double value, bool settled); // as if typed

signals:
    // `settled` is false while scrubbing or stepping, which may be many in a row.
    void edited(bool settled);

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    void accept();
    void acceptPercent(QString text);
    void show();
    void refreshText(); // unless something is being typed
    void change(double value, bool settled);
    void setBad(bool bad);

    Meaning meaning_;
    Unit unit_ = Unit::Mm;
    Length length_;
    std::optional<double> percent_;
    bool mayBePercent_ = false;
    double number_ = 0;
    double least_ = -1e6, most_ = 1e6, step_ = 0.1;
    int decimals_ = 2;
    QString suffix_;
};

// A label that scrubs the field beside it.
class ScrubLabel : public QLabel {
    Q_OBJECT
public:
    ScrubLabel(const QString& text, NumberField* field, QWidget* parent = nullptr);

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

private:
    NumberField* field_;
    double from_ = 0;
    int pressX_ = 0;
    bool dragging_ = false;
};

} // namespace yokai
