#include "bench/paint.h"
#include "bench/scene.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

QTransform mapOf(const Placement& place)
{
    const Affine& m = place.toSheet;
    return {m.a, m.b, m.c, m.d, m.e, m.f};
}

} // namespace

QRectF SheetScene::extent(const BenchState& state) const
{
    const Shown* shown = state.shown.get();
    return shown ? QRectF(0, 0, shown->derived.sheet.width, shown->derived.sheet.height) : QRectF();
}

void SheetScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const
{
    const Shown* shown = state.shown.get();
    if (!shown)
        return;
    const auto& c = theme::colours();
    const Layout& sheet = shown->derived.sheet;
    const QRectF paper = view.toScreen(QRectF(0, 0, sheet.width, sheet.height));
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(0, 0, 0, 26));
    painter.drawRect(paper.translated(0, 2).adjusted(-1, 0, 1, 2));
    painter.fillRect(paper, Qt::white);
    const double margin = shown->job.sheet.margin.mm();
    painter.setPen(QPen(QColor("#b9b2a4"), 1, Qt::DotLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(view.toScreen(QRectF(margin, margin, sheet.width - 2 * margin, sheet.height - 2 * margin)));

    painter.setPen(Qt::NoPen);
    painter.setBrush(Qt::black);
    for (const Mark& m : sheet.marks)
        painter.drawEllipse(view.toScreen(q(m.centre)), m.diameter / 2 * view.scale, m.diameter / 2 * view.scale);
    for (const Placement& place : sheet.placements) {
        const PieceResult& result = shown->derived.pieces[place.at];
        const PiecePicture& picture = shown->pictures[place.at];
        const QTransform map = mapOf(place) * view.transform();
        if (!map.mapRect(q(result.box)).intersects(clip))
            continue;
        if (picture.bleed)
            paint::picture(painter, *picture.bleed, picture.bleedAt.size(), QTransform::fromTranslate(picture.bleedAt.x(), picture.bleedAt.y()) * map);
        if (picture.printed)
            paint::picture(painter, *picture.printed, {result.width, result.height}, map);
        for (const LayerResult& layer : result.layers)
            for (const CutLine& line : layer.lines)
                paint::line(painter, *line.paths, line.kind, map, 1.4);
        if (int(place.at) == state.piece) {
            painter.setPen(QPen(c.accent, 1, Qt::DashLine));
            painter.setBrush(Qt::NoBrush);
            painter.drawRect(map.mapRect(q(result.box)));
        }
    }
}

} // namespace yokai
