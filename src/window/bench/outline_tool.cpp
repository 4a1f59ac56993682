#include "bench/outline_tool.h"

#include "theme/theme.h"

#include <QPainter>
#include <QPolygonF>

#include <cmath>

namespace yokai {

void OutlineTool::move(const Pointer& at)
{
    if (outline_.empty())
        return;
    constexpr double apart = 3; // logical pixels between two places of a lasso
    const QPointF from = outline_.front();
    if (isBox())
        outline_ = {from, {at.mm.x(), from.y()}, at.mm, {from.x(), at.mm.y()}};
    else if (const QPointF step = at.mm - outline_.back(); std::hypot(step.x(), step.y()) > apart * at.mmAPixel)
        outline_.push_back(at.mm);
}

void OutlineTool::release(const Pointer&)
{
    const std::vector<QPointF> outline = std::exchange(outline_, {});
    constexpr double least = 0.2; // mm: anything smaller was no drag
    const QRectF box = QPolygonF(QList<QPointF>(outline.begin(), outline.end())).boundingRect();
    if (outline.size() < 3 || box.width() < least || box.height() < least)
        return;
    done(outline);
}

void OutlineTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (outline_.size() < 2)
        return;
    const auto& c = theme::colours();
    QPolygonF shape;
    for (const QPointF p : outline_)
        shape << view.toScreen(p);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 220), 3.4));
    painter.drawPolygon(shape);
    painter.setPen(QPen(c.accent, 1.6, Qt::DashLine));
    painter.drawPolygon(shape);
}

} // namespace yokai
