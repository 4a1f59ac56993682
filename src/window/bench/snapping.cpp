#include "bench/snapping.h"

#include "desk/guides.h"
#include "theme/theme.h"

#include <QPainter>

#include <cmath>
#include <numbers>

namespace yokai::snapping {

Snapped at(const Desk& desk, const Pointer& pointer, Point mm, const From& from)
{
    constexpr double reach = 7; // logical pixels
    const PieceResult* piece = desk.currentResult();
    if (!piece || !desk.hand().snaps || (pointer.modifiers & Qt::ControlModifier))
        return {mm};
    std::vector<const Paths*> lines;
    for (const CutLine& line : piece->layer(desk.layerId()).lines)
        lines.push_back(line.paths.get());
    std::vector<StraightGuide> guides;
    for (const edits::GuideOn& guide : edits::guides(desk))
        guides.push_back(guide.line);
    return snapped(mm, {lines, guides, {0, 0, piece->width, piece->height}, from.from, from.before, from.but}, reach * pointer.mmAPixel);
}

Point bySteps(Point from, Point to)
{
    constexpr double step = std::numbers::pi / 12; // 15 degrees
    const Point way = to - from;
    const double angle = std::round(std::atan2(way.y, way.x) / step) * step;
    const Point along{std::cos(angle), std::sin(angle)};
    return from + along * dot(way, along);
}

void paint(QPainter& painter, const View& view, const Snapped& snapped)
{
    if (snapped.to == SnapTo::Nothing)
        return;
    constexpr double arm = 6; // px
    const QPointF at = view.toScreen(q(snapped.at));
    painter.setBrush(Qt::NoBrush);
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3.4), QPen(theme::colours().accent, 1.6)}) {
        painter.setPen(pen);
        // A square at a node, a cross where lines meet, a ring on a line.
        if (snapped.to == SnapTo::Node) {
            painter.drawRect(QRectF(at - QPointF(arm, arm), QSizeF(2 * arm, 2 * arm)));
        } else if (snapped.to == SnapTo::Crossing || snapped.to == SnapTo::RightAngle) {
            painter.drawLine(at - QPointF(arm, arm), at + QPointF(arm, arm));
            painter.drawLine(at - QPointF(arm, -arm), at + QPointF(arm, -arm));
        } else {
            painter.drawEllipse(at, arm, arm);
        }
    }
}

} // namespace yokai::snapping
