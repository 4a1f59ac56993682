#include "bench/tool.h"
#include "studio/piece_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

bool BrushTool::brushing() const
{
    const Hold hold = studio_.hand().hold;
    return hold == Hold::RubOut || hold == Hold::BringBack;
}

std::optional<Qt::CursorShape> BrushTool::hover(QPointF, const View&, Qt::KeyboardModifiers, bool)
{
    const Hold hold = studio_.hand().hold;
    return brushing() || hold == Hold::RubOutLike || hold == Hold::Pick ? std::optional(Qt::CrossCursor) : std::nullopt;
}

bool BrushTool::press(QMouseEvent* event, const View& view, bool)
{
    if (event->button() != Qt::LeftButton || !studio_.currentResult())
        return false;
    const QPointF mm = view.toMm(event->position());
    switch (studio_.hand().hold) {
    case Hold::RubOut:
    case Hold::BringBack:
        way_ = {mm};
        return true;
    case Hold::RubOutLike:
        edits::rubOutLike(studio_, mm);
        return true;
    case Hold::Pick:
        edits::pick(studio_, mm);
        return true;
    default:
        return false;
    }
}

void BrushTool::move(QMouseEvent* event, View& view)
{
    if (way_.empty())
        return;
    // Places closer than this change nothing of the stroke's outline that could be seen.
    const QPointF mm = view.toMm(event->position()), step = mm - way_.back();
    if (std::hypot(step.x(), step.y()) > std::max(0.08 * studio_.hand().brush.mm(), 1 / view.scale))
        way_.push_back(mm);
}

void BrushTool::release(QMouseEvent*)
{
    const std::vector<QPointF> way = std::move(way_);
    way_.clear();
    if (!way.empty() && brushing())
        edits::brush(studio_, way);
}

void BrushTool::paint(QPainter& painter, const View& view, QPointF pointer) const
{
    if (!brushing())
        return;
    const auto& c = theme::colours();
    const double across = std::max(1.0, studio_.hand().brush.mm() * view.scale);
    const bool square = studio_.hand().square, out = studio_.hand().hold == Hold::RubOut;
    if (!way_.empty()) {
        QColor colour = out ? c.accent : c.fine;
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.save();
        painter.setOpacity(0.45);
        if (square) {
            QPainterPath swept;
            swept.setFillRule(Qt::WindingFill);
            for (std::size_t i = 0; i < way_.size(); ++i) {
                const QPointF a = view.toScreen(way_[i]), b = view.toScreen(way_[std::min(i + 1, way_.size() - 1)]);
                const QPointF l = a.x() <= b.x() ? a : b, r = a.x() <= b.x() ? b : a;
                const double s = across / 2, up = l.y() <= r.y() ? 1 : -1;
                QPolygonF hull{l + QPointF(-s, -s * up), l + QPointF(s, -s * up), r + QPointF(s, -s * up),
                               r + QPointF(s, s * up),   r + QPointF(-s, s * up), l + QPointF(-s, s * up)};
                if (up < 0)
                    std::reverse(hull.begin(), hull.end());
                swept.addPolygon(hull);
                swept.closeSubpath();
            }
            painter.drawPath(swept);
        } else {
            QPainterPath path(view.toScreen(way_[0]));
            for (const QPointF p : way_)
                path.lineTo(view.toScreen(p) + QPointF(0.01, 0));
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, across, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
            painter.drawPath(path);
        }
        painter.restore();
    }
    if (pointer.isNull())
        return;
    painter.setBrush(Qt::NoBrush);
    const QRectF tip(pointer - QPointF(across, across) / 2, QSizeF(across, across));
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3), QPen(c.tag, 1.2)}) {
        painter.setPen(pen);
        if (square)
            painter.drawRect(tip);
        else
            painter.drawEllipse(tip);
    }
}

} // namespace yokai
