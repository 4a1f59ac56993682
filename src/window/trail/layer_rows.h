// The colour layers of a piece, as they lie: a row each, the uppermost first, then what of the picture's colours is in none. Drag moves one.
#pragma once

#include "desk/desk.h"
#include "theme/accessible.h"

#include <QWidget>

namespace yokai {

class LayerRows : public QWidget, public Drawn {
    Q_OBJECT
public:
    explicit LayerRows(Desk& desk, QWidget* parent);
    void refresh();
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }
    QAccessible::Role drawnRole() const override { return QAccessible::List; }
    std::vector<DrawnPart> drawnParts() const override;
    void pressPart(int index) override;

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    struct Shown {
        QString name, figures;
        QColor colour;
        LayerId layer;          // none: a colour in no layer,
        std::size_t inNone = 0; // this one of the split
    };
    std::vector<Shown> rows() const;
    QRect row(int index) const;
    int gapAt(double y) const; // between which rows of layers a drag would put it
    void step(int by);
    void move(int by);
    Desk& desk_;
    QPointF pressed_;
    LayerId dragged_; // once the pointer has gone far enough
    bool down_ = false;
    int gap_ = -1;
};

} // namespace yokai
