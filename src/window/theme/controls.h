// The small controls of the trail's panels, in Yokai's own looks.
#pragma once

#include "theme/number_field.h"

#include <QAbstractButton>
#include <QSlider>
#include <QWidget>

#include <vector>

class QGridLayout;
class QLabel;

namespace yokai {

// One choice of a few, side by side. Arrow keys move it.
class Segmented : public QWidget {
    Q_OBJECT
public:
    explicit Segmented(const QStringList& choices, QWidget* parent = nullptr);
    int current() const { return current_; }
    void setCurrent(int index); // emits nothing
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

signals:
    void chosen(int index);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    QRect cell(int index) const;
    QStringList choices_;
    int current_ = 0;
};

// A slider over a real range, drawn as a thread with a bead.
class BeadSlider : public QSlider {
    Q_OBJECT
public:
    explicit BeadSlider(QWidget* parent = nullptr);
    void setSpan(double least, double most, double step);
    void setReal(double value); // emits nothing
    double real() const;

signals:
    void slid(double value);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override { event->ignore(); }

private:
    void setFromX(int x);
    double least_ = 0, step_ = 0.1;
};

// A small button that is its icon. Checkable ones are filled while on.
class IconButton : public QAbstractButton {
    Q_OBJECT
public:
    IconButton(const QString& icon, const QString& name, const QString& tip, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {30, 26}; }
    QSize minimumSizeHint() const override { return sizeHint(); }

protected:
    void paintEvent(QPaintEvent*) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }

private:
    QString icon_;
};

// Chosen colours in a row; pressing one takes it out.
class Swatches : public QWidget {
    Q_OBJECT
public:
    explicit Swatches(QWidget* parent = nullptr);
    // `own`: chosen by hand; found ones are shown but cannot be taken out.
    void setColours(std::vector<QColor> colours, bool own);
    QSize sizeHint() const override { return {int(colours_.size()) * 24, 26}; }
    QSize minimumSizeHint() const override { return sizeHint(); }

signals:
    void removed(int index);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    std::vector<QColor> colours_;
    bool own_ = false;
};

// A label, a slider and a field that show the same number.
struct NumberRow {
    ScrubLabel* label = nullptr;
    BeadSlider* slider = nullptr;
    NumberField* field = nullptr;
};

// Rows of a panel: label | control | field, on one grid so that everything aligns.
class PanelGrid : public QWidget {
    Q_OBJECT
public:
    explicit PanelGrid(QWidget* parent = nullptr);
    NumberRow addNumber(const QString& label, NumberField::Meaning meaning, double least, double most, double step, const QString& tip);
    NumberField* addField(const QString& label, NumberField::Meaning meaning, const QString& tip);
    // Two numbers of one kind side by side.
    std::pair<NumberField*, NumberField*> addPair(const QString& label, NumberField::Meaning meaning, const QString& first, const QString& second,
                                                  const QString& tip);
    void addRow(const QString& label, QWidget* control, const QString& tip = {});
    void addWide(QWidget* control);
    // A label and buttons or other small controls to its right.
    QWidget* addGroup(const QString& label, std::initializer_list<QWidget*> controls, const QString& tip = {});
    QLabel* addNote(const QString& text = {});
    QLabel* labelOf(QWidget* control) const; // of a row, or null
    void showRow(QWidget* control, bool on); // with its label

private:
    QGridLayout* grid_;
    std::vector<std::pair<QWidget*, QLabel*>> labels_;
    int row_ = 0;
};

} // namespace yokai
