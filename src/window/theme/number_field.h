// A field for one number that a maker can type, step, scroll or scrub.
//
// Lengths accept units and sums (1/8in, 2+0.5mm), areas units (4mm2, 0.01in2); Up and Down, the wheel and
// dragging the label step it, with Shift in finer steps. What cannot be read stays
// in the field, marked, and changes nothing. Undo first takes back what is typed and
// not yet taken; after that it is the job's.
#pragma once

#include "base/length.h"

#include <QLabel>
#include <QLineEdit>

#include <optional>

class QKeyEvent;

namespace yokai {

// A line of text whose undo and redo are the job's, but for what is typed and not yet taken. What is typed counts: a key of the window, a
// press elsewhere or closing takes it first, as Return does.
class TextField : public QLineEdit {
    Q_OBJECT
public:
    using QLineEdit::QLineEdit;

protected:
    bool event(QEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    virtual void takeBack() { undo(); }
    virtual void settle() { emit editingFinished(); }
};

class NumberField : public TextField {
    Q_OBJECT
public:
    enum class Meaning { Length, Area, Speed, Number };
    enum class How {
        Typed,   // settled
        Stepped, // by a key or the wheel, perhaps one of many in a row
        Trying,  // by a gesture that goes on
        Kept,    // the gesture ended
        Dropped, // or was given up
    };
    explicit NumberField(Meaning meaning, QWidget* parent = nullptr);

    void setRange(double least, double most)
    {
        least_ = least;
        most_ = most;
    } // mm for lengths, mm2 for areas
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

    void setLength(Length value); // shows it; emits nothing; of a speed what is covered in a minute
    void setNumber(double value); // mm2 for areas
    Length length() const { return length_; }
    double number() const { return number_; }
    double plain() const { return percent_ ? *percent_ : isLength() ? length_.mm() : number_; }
    void stepBy(double steps, bool fine);
    void setPlain(double value, How how);
    // Nothing is set: what was found is shown, in a softer ink.
    void setAutomatic(bool automatic);

signals:
    void edited(yokai::NumberField::How how);

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void takeBack() override;
    void settle() override { accept(); }

private:
    bool isLength() const { return meaning_ == Meaning::Length || meaning_ == Meaning::Speed; }
    void accept();
    void acceptPercent(QString text);
    void show();
    void refreshText(); // unless something is being typed
    void change(double value, How how);
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
    void keyPressEvent(QKeyEvent* event) override;

private:
    NumberField* field_;
    double from_ = 0;
    int pressX_ = 0;
    bool pressed_ = false, dragging_ = false;
};

} // namespace yokai
