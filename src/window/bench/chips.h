// The piece chips over the bench: every picture of the job with its copies, and a
// plus that adds one.
#pragma once

#include "studio/studio.h"

#include <QWidget>

namespace yokai {

class Chips : public QWidget {
    Q_OBJECT
public:
    explicit Chips(Studio& studio, QWidget* parent = nullptr);

signals:
    void addWanted();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }
    bool event(QEvent* event) override;

private:
    QString text(int index) const;
    QRect chip(int index) const; // index == count: the plus
    int at(QPoint p) const;
    Studio& studio_;
    int scroll_ = 0;
};

} // namespace yokai
