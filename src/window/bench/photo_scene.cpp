#include "bench/scene.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

QRectF PhotoScene::extent(const BenchState& state) const
{
    return state.bed.photo ? QRectF(QPointF(), QSizeF(state.bed.photo->image.size())) : QRectF();
}

void PhotoScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF&) const
{
    if (!state.bed.photo || !state.bed.corners)
        return;
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(view.toScreen(extent(state)), state.bed.photo->image);
    QPolygonF bed;
    for (const Point p : *state.bed.corners)
        bed << view.toScreen(q(p));
    painter.setBrush(Qt::NoBrush);
    for (const auto& pen : {QPen(QColor(255, 255, 255, 200), 4), QPen(theme::colours().accent, 1.8)}) {
        painter.setPen(pen);
        painter.drawPolygon(bed);
    }
}

} // namespace yokai
