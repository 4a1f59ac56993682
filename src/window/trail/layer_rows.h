// The colour layers of a piece, as they lie: a row each, the uppermost first, then what of the picture's colours is in none. Drag moves one.
#pragma once

#include "desk/desk.h"
#include "trail/drawn_list.h"

namespace yokai {

class LayerRows : public DrawnList {
    Q_OBJECT
public:
    explicit LayerRows(Desk& desk, QWidget* parent);
    void pressPart(int index) override;

protected:
    std::vector<ListRow> rows() const override;
    void step(int by) override;
    void remove() override;
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    const Layer* layerAt(int index) const; // null: it is a colour in no layer, or nothing
    int gapAt(double y) const;             // between which rows of layers a drag would put it
    void move(int by);
    Desk& desk_;
    QPointF pressed_;
    LayerId dragged_; // once the pointer has gone far enough
    bool down_ = false;
    int gap_ = -1;
};

} // namespace yokai
