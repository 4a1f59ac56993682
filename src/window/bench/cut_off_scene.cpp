#include "bench/paint.h"
#include "bench/scene.h"
#include "bleed/landing.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>
#include <QPainterPath>

#include <numbers>

namespace yokai {

namespace {

constexpr double sideBySide = 12; // mm between the two pieces
constexpr int tries = 100;

// The lines that cut the piece out.
Paths cutLinesOf(const LayerResult& layer)
{
    Paths out;
    for (const LineKind kind : {LineKind::Through, LineKind::Kiss, LineKind::Perforate}) {
        for (const CutLine& line : layer.lines)
            if (line.kind == kind)
                out.insert(out.end(), line.paths->begin(), line.paths->end());
        if (!out.empty())
            break;
    }
    return out;
}

QString wordsOf(const Landing& landing, Unit unit)
{
    if (landing.paper > 0.005)
        return QObject::tr("shows %1 of paper").arg(lengthText(landing.paper, unit));
    if (landing.artwork > 0.005)
        return QObject::tr("cuts %1 into the artwork").arg(lengthText(landing.artwork, unit));
    return QObject::tr("shows no paper");
}

void paintCut(QPainter& painter, const BenchState& state, const View& view, const Paths& lines, Point by, QPointF at)
{
    const PieceResult& piece = *state.result();
    const QTransform map = QTransform::fromTranslate(at.x() - by.x, at.y() - by.y) * view.transform(); // the cut piece stays where it is
    QPainterPath outline;
    for (const Path& path : lines) {
        QPolygonF polygon;
        constexpr double fine = 0.2; // px
        for (const Point p : flatten(path, fine / view.scale))
            polygon << view.toScreen(q(p) + at);
        outline.addPolygon(polygon);
        outline.closeSubpath();
    }
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(0, 0, 0, 40));
    painter.drawPath(outline.translated(0, 3));
    painter.setBrush(Qt::white);
    painter.drawPath(outline);
    painter.save();
    painter.setClipPath(outline, Qt::IntersectClip);
    const PiecePicture& picture = *state.picture();
    if (picture.bleed)
        paint::picture(painter, *picture.bleed, picture.bleedAt.size(), QTransform::fromTranslate(picture.bleedAt.x(), picture.bleedAt.y()) * map);
    if (picture.printed)
        paint::picture(painter, *picture.printed, {piece.width, piece.height}, map);
    painter.restore();
}

} // namespace

QRectF CutOffScene::extent(const BenchState& state) const
{
    const PieceResult* piece = state.result();
    if (!piece || piece->box.empty())
        return {};
    const QRectF box = q(piece->box);
    return box.united(box.translated(box.width() + sideBySide, 0));
}

void CutOffScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF&) const
{
    const PieceResult* piece = state.result();
    if (!piece || !piece->layer(state.layerId).parts || !state.picture())
        return;
    const Paths lines = cutLinesOf(piece->layer(state.layerId));
    if (lines.empty())
        return;
    const KeptEdge kept(piece->layer(state.layerId).parts->contours, piece->pxPerMm);
    const double reach = piece->layer(state.layerId).printReach.mm(), drift = state.shown->job.check.drift.mm();
    const Landing chosen = landingOf(lines, kept, reach, state.off), worst = worstLanding(lines, kept, reach, drift, tries);
    const auto& c = theme::colours();
    const QRectF box = q(piece->box);
    const auto one = [&](const Landing& landing, const QPointF& at, const QString& title) {
        paintCut(painter, state, view, lines, landing.by, at);
        const QRectF below = view.toScreen(box.translated(at));
        painter.setPen(c.ink);
        painter.setFont(theme::font(13, QFont::DemiBold));
        painter.drawText(QRectF(below.left() - 40, below.bottom() + 8, below.width() + 80, theme::px(20)), Qt::AlignCenter, title);
        painter.setPen(landing.paper > 0.005 || landing.artwork > 0.005 ? c.fault : c.inkSoft);
        painter.setFont(theme::font(12));
        painter.drawText(QRectF(below.left() - 40, below.bottom() + 8 + theme::px(20), below.width() + 80, theme::px(20)), Qt::AlignCenter, wordsOf(landing, state.unit));
    };
    one(chosen, {}, QObject::tr("Cut %1 off").arg(lengthText(norm(state.off), state.unit)));
    one(worst, {box.width() + sideBySide, 0}, QObject::tr("Worst of %1 within %2").arg(tries).arg(lengthText(drift, state.unit)));
}

} // namespace yokai
