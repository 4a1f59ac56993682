#include "bench/paint.h"
#include "bench/scene.h"
#include "device/test_cut.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

namespace yokai {

namespace {
// The bed counts upwards, the screen downwards.
QPointF down(Point p) { return {p.x, -p.y}; }
} // namespace

QRectF BedScene::extent(const BenchState& state) const
{
    const auto& cut = state.testCut;
    if (!cut)
        return {};
    return {cut->bedCorner.x, -cut->bedCorner.y, cut->bed.width() / cut->bedPxPerMm, cut->bed.height() / cut->bedPxPerMm};
}

void BedScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF&) const
{
    const auto& cut = state.testCut;
    if (!cut)
        return;
    const auto& c = theme::colours();
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(view.toScreen(extent(state)), cut->bed);
    const QTransform map = QTransform::fromScale(1, -1) * view.transform();
    // Where the cut landed, bold; where the print has its line, thin over it.
    paint::outlines(painter, cut->landed, {QPen(QColor(255, 255, 255, 200), 4), QPen(theme::lineColour(LineKind::Through), 1.8)}, map);
    paint::outlines(painter, cut->ideal, {QPen(QColor("#f2b632"), 1)}, map);

    for (std::size_t i = 0; i < cut->marks.size(); ++i) {
        const QPointF at = view.toScreen(down(cut->marks[i].measured));
        const bool chosen = int(i) == state.mark;
        painter.setPen(QPen(QColor(255, 255, 255, 220), chosen ? 5.4 : 3.4));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(at, 14, 14);
        painter.setPen(QPen(c.accent, chosen ? 3 : 1.6));
        painter.drawEllipse(at, 14, 14);
        // Tags stand outside the sheet, where they cover nothing.
        const QPointF middle = view.toScreen(extent(state).center());
        const QPointF outward(i == 4 ? 0 : at.x() > middle.x() ? 10 : -20, at.y() > middle.y() ? 27 : -27);
        const double residual = cut->fit ? cut->fit->residuals[i] : 0;
        paint::tag(painter, at + outward, QStringLiteral("%1 \u00b7 %2").arg(i + 1).arg(number(residual, 3)));
    }
    // The worst place, and how far off it is; a small miss is drawn larger than it is only by its ring.
    const QPointF landed = view.toScreen(down(cut->worstAt)), wanted = view.toScreen(down(cut->worstShouldBe));
    const bool bad = cut->worst > 0.3;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 230), 5));
    painter.drawEllipse(landed, 11, 11);
    painter.setPen(QPen(bad ? QColor("#c8231a") : QColor("#2f7a41"), 2.4));
    painter.drawEllipse(landed, 11, 11);
    painter.drawLine(wanted, landed);
    paint::tag(painter, landed + QPointF(0, landed.y() < view.toScreen(extent(state).center()).y() ? 28 : -28),
               QObject::tr("worst %1").arg(exactText(cut->worst, state.unit)));
}

} // namespace yokai
