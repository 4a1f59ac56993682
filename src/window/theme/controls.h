// The small controls of the trail's panels, in Yokai's own looks.
#pragma once

#include "theme/accessible.h"
#include "theme/number_field.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QSlider>
#include <QWidget>

#include <vector>

class QGridLayout;
class QLabel;

namespace yokai {

// One choice of a few, side by side. Arrow keys move it.
class Segmented : public QWidget, public Drawn {
    Q_OBJECT
public:
    explicit Segmented(const QStringList& choices, QWidget* parent = nullptr);
    int current() const { return current_; }
    void setCurrent(int index); // emits nothing
    int count() const { return int(choices_.size()); }
    QSize sizeHint() const override;
    std::vector<DrawnPart> drawnParts() const override;
    void pressPart(int index) override;
    QSize minimumSizeHint() const override { return sizeHint(); }

signals:
    void chosen(int index);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    void changeEvent(QEvent* event) override;

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
    void slid(double value, yokai::NumberField::How how); // dragged: tried until let go

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    void setFromX(int x);
    double least_ = 0, step_ = 0.1;
    int before_ = 0; // the drag
};

// A small button that is its icon. Checkable ones are filled while on.
class IconButton : public QAbstractButton {
    Q_OBJECT
public:
    IconButton(const QString& icon, const QString& name, const QString& tip, QWidget* parent = nullptr);
    QSize sizeHint() const override;
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

// A choice from a list. The wheel changes it only once it was clicked: scrolling past must not.
class ChoiceBox : public QComboBox {
    Q_OBJECT
public:
    explicit ChoiceBox(QWidget* parent = nullptr);

protected:
    void wheelEvent(QWheelEvent* event) override;
};

// Chosen colours in a row; pressing one, or Delete, takes it out.
class Swatches : public QWidget, public Drawn {
    Q_OBJECT
public:
    explicit Swatches(QWidget* parent = nullptr);
    // `own`: chosen by hand; found ones are shown but cannot be taken out.
    void setColours(std::vector<QColor> colours, bool own);
    std::vector<DrawnPart> drawnParts() const override;
    void pressPart(int index) override;
    QSize sizeHint() const override { return {int(colours_.size()) * 24, 26}; }
    QSize minimumSizeHint() const override { return sizeHint(); }

signals:
    void removed(int index);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    std::vector<QColor> colours_;
    bool own_ = false;
    int at_ = 0; // where the keyboard is
};

// Rows of a panel: label | control | field, on one grid so that everything aligns. See
// trail/rows.h for what the rows mean.
class PanelGrid : public QWidget {
    Q_OBJECT
public:
    explicit PanelGrid(QWidget* parent = nullptr);
    void addRow(QLabel* label, QWidget* middle, QWidget* end); // any may be null
    void addWide(QWidget* control);
    // A label and buttons or other small controls to its right.
    QWidget* addGroup(const QString& label, std::initializer_list<QWidget*> controls, const QString& tip = {});
    QLabel* addNote(const QString& text = {});
    QLabel* labelOf(QWidget* group) const; // of one made by addGroup, else null

private:
    QGridLayout* grid_;
    std::vector<std::pair<QWidget*, QLabel*>> groups_;
    int row_ = 0;
};

} // namespace yokai
