// A short list in a panel, drawn by itself: a row each with a sign, a name and its figures; one is chosen, by a press or the arrow keys.
#pragma once

#include "theme/accessible.h"

#include <QPainter>
#include <QWidget>

#include <functional>
#include <vector>

namespace yokai {

struct ListRow {
    QString name, figures;
    bool chosen = false;
    bool offered = false;                                       // not in the list yet: its figures say what a press does
    std::function<void(QPainter&, const QRectF& place)> sign;
};

class DrawnList : public QWidget, public Drawn {
    Q_OBJECT
public:
    DrawnList(const char* name, const QString& accessible, int signWidth, QWidget* parent); // where text is of the usual size
    void refresh();
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }
    QAccessible::Role drawnRole() const override { return QAccessible::List; }
    std::vector<DrawnPart> drawnParts() const override;

protected:
    virtual std::vector<ListRow> rows() const = 0;
    virtual QString wordsIfEmpty() const { return {}; }
    virtual void step(int by) = 0; // another becomes the chosen one
    virtual void remove() = 0;     // the chosen one
    int indexAt(double y) const;
    double top(int index) const; // of a row, or the end of the last

    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent*) override { update(); }
    void focusOutEvent(QFocusEvent*) override { update(); }

private:
    QRect row(int index) const;
    int signWidth_;
};

} // namespace yokai
