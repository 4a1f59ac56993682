// The piece chips over the bench: every picture of the job with its copies, and a
// plus that adds one.
#pragma once

#include "desk/desk.h"
#include "theme/accessible.h"

#include <QWidget>

namespace yokai {

class Chips : public QWidget, public Drawn {
    Q_OBJECT
public:
    explicit Chips(Desk& desk, QWidget* parent = nullptr);

    QAccessible::Role drawnRole() const override { return QAccessible::PageTabList; }
    std::vector<DrawnPart> drawnParts() const override;
    void pressPart(int index) override;

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
    Desk& desk_;
    int scroll_ = 0;
};

} // namespace yokai
