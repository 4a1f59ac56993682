#include "bench/tool.h"
#include "studio/piece_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

std::optional<Qt::CursorShape> InsideTool::hover(QPointF, const View&, Qt::KeyboardModifiers, bool)
{
    const Hold hold = studio_.hand().hold;
    return hold == Hold::InsideBox || hold == Hold::InsideLasso ? std::optional(Qt::CrossCursor) : std::nullopt;
}

bool InsideTool::press(QMouseEvent* event, const View& view, bool)
{
    if (event->button() != Qt::LeftButton || !hover({}, view, {}, false) || !studio_.currentResult())
        return false;
    outline_ = {view.toMm(event->position())};
    return true;
}

void InsideTool::move(QMouseEvent* event, View& view)
{
    if (outline_.empty())
        return;
    const QPointF mm = view.toMm(event->position()), from = outline_.front();
    if (studio_.hand().hold == Hold::InsideBox)
        outline_ = {from, {mm.x(), from.y()}, mm, {from.x(), mm.y()}};
    else if (const QPointF step = mm - outline_.back(); std::hypot(step.x(), step.y()) > 3 / view.scale)
        outline_.push_back(mm);
}

void InsideTool::release(QMouseEvent*)
{
    const std::vector<QPointF> outline = std::move(outline_);
    outline_.clear();
    const QRectF box = QPolygonF(QList<QPointF>(outline.begin(), outline.end())).boundingRect();
    if (outline.size() < 3 || box.width() < 0.2 || box.height() < 0.2)
        return;
    edits::addInside(studio_, outline);
    studio_.hold(studio_.hand().hold); // done: put down
}

void InsideTool::paint(QPainter& painter, const View& view, QPointF) const
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
