#include "bench/paint.h"

#include "theme/theme.h"

#include <QPainter>

namespace yokai::paint {

void line(QPainter& painter, const ClosedPaths& paths, LineKind kind, const QTransform& map, double width)
{
    painter.save();
    painter.setTransform(map, true);
    painter.setBrush(Qt::NoBrush);
    const QRectF seen = painter.transform().inverted().mapRect(QRectF(painter.viewport()));
    QPen halo(QColor(255, 255, 255, 190), width + 2.4);
    halo.setCosmetic(true);
    halo.setJoinStyle(Qt::BevelJoin);
    for (const QPen& pen : {halo, theme::linePen(kind, width)}) {
        painter.setPen(pen);
        for (const QPainterPath& path : paths)
            if (path.controlPointRect().intersects(seen))
                painter.drawPath(path);
    }
    painter.restore();
}

void picture(QPainter& painter, const ImagePyramid& pyramid, QSizeF size, const QTransform& map)
{
    if (pyramid.empty())
        return;
    const double across = std::hypot(map.m11(), map.m12()) * size.width() * painter.device()->devicePixelRatioF();
    const QImage& image = pyramid.at(across / pyramid.levels.front().width());
    painter.save();
    painter.setTransform(map, true);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, across < 4.0 * pyramid.levels.front().width());
    painter.drawImage(QRectF(QPointF(), size), image);
    painter.restore();
}

QRectF tag(QPainter& painter, QPointF at, const QString& text)
{
    const auto& c = theme::colours();
    painter.setFont(theme::font(12, QFont::Medium));
    const QFontMetricsF metrics(painter.font());
    const QSizeF size(metrics.horizontalAdvance(text) + 14, 20);
    const QRectF box(QPointF(std::round(at.x() - size.width() / 2), std::round(at.y() - size.height() / 2)), size);
    painter.setPen(Qt::NoPen);
    painter.setBrush(c.tag);
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(c.onTag);
    painter.drawText(box, Qt::AlignCenter, text);
    return box;
}

void dimension(QPainter& painter, QPointF from, QPointF to, const QString& text)
{
    const auto& c = theme::colours();
    const QPointF d = to - from;
    const double n = std::hypot(d.x(), d.y());
    const QPointF u = n > 0 ? d / n : QPointF(1, 0), across(-u.y() * 4, u.x() * 4);
    for (const auto& [colour, width] : {std::pair(QColor(255, 255, 255, 200), 3.4), std::pair(c.tag, 1.4)}) {
        painter.setPen(QPen(colour, width));
        painter.drawLine(from, to);
        painter.drawLine(from - across, from + across);
        painter.drawLine(to - across, to + across);
    }
    const QFontMetricsF metrics(theme::font(12, QFont::Medium));
    const double away = metrics.horizontalAdvance(text) / 2 + 16;
    tag(painter, to + QPointF(u.x() >= 0 ? away : -away, u.y() * 12), text);
}

} // namespace yokai::paint
