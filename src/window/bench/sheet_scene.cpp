#include "bench/paint.h"
#include "bench/scene.h"
#include "job/colour_layers.h"
#include "job/features.h"
#include "bench/sheet_view.h"
#include "formats/drawing.h"
#include "sheet/extra_cuts.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

void paintPaper(QPainter& painter, const SheetSpec& spec, const QRectF& sheet, const View& view, bool current)
{
    const auto& c = theme::colours();
    const QRectF paper = view.toScreen(sheet);
    painter.setPen(Qt::NoPen);
    painter.setBrush(QColor(0, 0, 0, 26));
    painter.drawRect(paper.translated(0, 2).adjusted(-1, 0, 1, 2));
    painter.fillRect(paper, Qt::white);
    const auto inset = [&](const Rect& r) { return view.toScreen(QRectF(QPointF(r.x0, r.y0) + sheet.topLeft(), QPointF(r.x1, r.y1) + sheet.topLeft())); };
    // What the printer leaves blank, and what the machine does not reach.
    const double blank = spec.printMargin.mm();
    painter.setBrush(QBrush(QColor(0x8a, 0x83, 0x75, 70), Qt::BDiagPattern));
    const QRectF printed = inset({blank, blank, sheet.width() - blank, sheet.height() - blank});
    for (const QRectF& side : {QRectF(paper.topLeft(), QPointF(paper.right(), printed.top())), QRectF(QPointF(paper.left(), printed.bottom()), paper.bottomRight()),
                               QRectF(QPointF(paper.left(), printed.top()), QPointF(printed.left(), printed.bottom())),
                               QRectF(QPointF(printed.right(), printed.top()), QPointF(paper.right(), printed.bottom()))})
        painter.drawRect(side);
    painter.setBrush(QBrush(QColor(0x8a, 0x83, 0x75, 120), Qt::DiagCrossPattern));
    if (spec.reachAcross && spec.reachAcross->mm() < sheet.width())
        painter.drawRect(inset({spec.reachAcross->mm(), 0, sheet.width(), sheet.height()}));
    if (spec.reachDown && spec.reachDown->mm() < sheet.height())
        painter.drawRect(inset({0, spec.reachDown->mm(), spec.reachAcross ? std::min(spec.reachAcross->mm(), sheet.width()) : sheet.width(), sheet.height()}));
    painter.setPen(QPen(QColor("#b9b2a4"), 1, Qt::DotLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(inset(layoutArea(spec)));
    if (current) {
        painter.setPen(QPen(c.inkFaint, 1));
        painter.drawRect(paper.adjusted(-0.5, -0.5, 0.5, 0.5));
    }
}

void paintMarks(QPainter& painter, const Layout& sheet, QPointF at, const View& view)
{
    for (const Mark& m : sheet.marks)
        for (const Path& path : inkOf(m)) {
            QPolygonF drawn;
            constexpr double fine = 0.3; // px
            for (const Point p : flatten(path, fine / view.scale))
                drawn << view.toScreen(q(p) + at);
            painter.setPen(path.closed ? Qt::NoPen : QPen(Qt::black, std::max(1.0, m.weight * view.scale)));
            painter.setBrush(path.closed ? QBrush(Qt::black) : Qt::NoBrush);
            if (path.closed)
                painter.drawPolygon(drawn);
            else
                painter.drawPolyline(drawn);
        }
}

// The sheet's own number, and that it is mirrored: nobody should find that out from the print.
void paintSign(QPainter& painter, const BenchState& state, int sheet, const QRectF& paper)
{
    const SheetSpec& spec = state.shown->job.sheet;
    const auto& c = theme::colours();
    painter.setFont(theme::font(12, QFont::DemiBold));
    const double high = theme::px(22);
    if (state.shown->derived.sheet.sheets > 1) {
        painter.setPen(c.inkSoft);
        painter.drawText(QRectF(paper.left(), paper.bottom() + 4, paper.width(), high), Qt::AlignCenter,
                         QObject::tr("Sheet %1 of %2").arg(sheet + 1).arg(state.shown->derived.sheet.sheets));
    }
    if (spec.mirror == SheetMirror::None)
        return;
    const QString text = spec.mirror == SheetMirror::Both    ? QObject::tr("MIRRORED: print and cut come out left for right")
                         : spec.mirror == SheetMirror::Print ? QObject::tr("PRINT MIRRORED: the cut is not")
                                                             : QObject::tr("CUT MIRRORED: the print is not");
    const QRectF band(paper.left(), paper.top() - high - 4, paper.width(), high);
    painter.fillRect(band, QColor("#c8231a"));
    painter.setPen(Qt::white);
    painter.drawText(band, Qt::AlignCenter, painter.fontMetrics().elidedText(text, Qt::ElideRight, int(band.width()) - 8));
}

bool isSelected(const BenchState& state, const Placement& place)
{
    return std::find(state.copies.begin(), state.copies.end(), CopiesSelected::Copy{place.placing, place.piece, place.copy}) != state.copies.end();
}

QTransform mapOf(const Placement& place, QPointF sheetAt) { return q(place.toSheet) * QTransform::fromTranslate(sheetAt.x(), sheetAt.y()); }

// What is shown: all, or one plate by itself.
bool shows(const BenchState& state, SeparationSelected::Of of) { return !state.separation || state.separation->of == of; }
bool shows(const BenchState& state, LineKind kind) { return !state.separation || *state.separation == SeparationSelected{SeparationSelected::Of::Lines, kind}; }

void paintCopy(QPainter& painter, const BenchState& state, const Placement& place, const QTransform& map)
{
    const PieceResult& result = state.shown->derived.pieces[place.at];
    const PiecePicture& picture = state.shown->pictures[place.at];
    if (state.separation && state.separation->of == SeparationSelected::Of::White && !picture.white.isNull()) {
        painter.save();
        painter.setTransform(map, true);
        painter.drawImage(picture.whiteAt, picture.white);
        painter.restore();
    }
    const bool engraved = !isLayered(state.shown->job.pieces[place.at]) && result.layer().engraving;
    if (engraved && shows(state, SeparationSelected::Of::Engraving))
        paint::engraved(painter, result.layer(), picture, state.shown->job.cut.plan, map);
    const Piece& spec = state.shown->job.pieces[place.at];
    // A thing that is there is seen whole while its features are looked for: what they are drawn with is not kept.
    if (picture.working && isThere(state.shown->job, spec) && (state.hold == Hold::MarkFeature || state.station == Station::Cut)) {
        if (shows(state, SeparationSelected::Of::Picture))
            paint::picture(painter, *picture.working, {result.width, result.height}, map);
    } else if (!engraved && shows(state, SeparationSelected::Of::Picture)) {
        if (picture.bleed)
            paint::picture(painter, *picture.bleed, picture.bleedAt.size(), QTransform::fromTranslate(picture.bleedAt.x(), picture.bleedAt.y()) * map);
        if (isLayered(spec))
            paint::stack(painter, spec, result, map);
        else if (picture.printed)
            paint::picture(painter, *picture.printed, {result.width, result.height}, map);
    }
    // Colour layers are drawn by their lines; over one another those would hide them.
    if (isLayered(state.shown->job.pieces[place.at]) && !state.separation)
        return;
    for (const LayerResult& layer : result.layers)
        for (const CutLine& line : layer.lines)
            if (shows(state, line.kind))
                paint::line(painter, *line.paths, line.kind, map, 1.4);
}

// Those that follow the pointer.
template <class F> void eachMovable(const BenchState& state, F visit)
{
    const Layout& layout = state.shown->derived.sheet;
    for (const Placement& place : layout.placements) {
        const auto own = std::find_if(state.shown->job.placings.begin(), state.shown->job.placings.end(), [&](const Placing& p) { return place.placing && p.id == place.placing; });
        if (isSelected(state, place) && (own == state.shown->job.placings.end() || !own->locked))
            visit(place, mapOf(place, sheetAt(layout, place.sheet, state.sheet)));
    }
}

void paintCopies(QPainter& painter, const BenchState& state, int sheet, QPointF at, const View& view, const QRectF& clip)
{
    const auto& c = theme::colours();
    const Shown& shown = *state.shown;
    for (const Placement& place : shown.derived.sheet.on(sheet)) {
        const PieceResult& result = shown.derived.pieces[place.at];
        const QTransform map = mapOf(place, at) * view.transform();
        if (!map.mapRect(q(result.box)).intersects(clip))
            continue;
        paintCopy(painter, state, place, map);
        const QPolygonF box = map.map(QPolygonF(q(result.box)));
        painter.setBrush(Qt::NoBrush);
        if (isSelected(state, place)) {
            painter.setPen(QPen(c.accent, 1.8));
            painter.drawPolygon(box);
        } else if (!state.separation && int(place.at) == state.piece && state.copies.empty() && shown.job.sheet.layout != LayoutKind::Nest) {
            painter.setPen(QPen(c.accent, 1, Qt::DashLine));
            painter.drawPolygon(box);
        }
        if (place.placing && !state.separation) { // a pin: it stays put
            painter.setPen(QPen(Qt::white, 1));
            painter.setBrush(c.ink);
            painter.drawEllipse(map.map(q(result.box).center()), 3.5, 3.5);
        }
    }
}

void paintExtraCuts(QPainter& painter, const BenchState& state, int sheet, QPointF at, const View& view)
{
    std::vector<Rect> boxes;
    for (const PieceResult& piece : state.shown->derived.pieces)
        boxes.push_back(piece.box);
    for (const ExtraCut& cut : extraCuts(state.shown->job.sheet, state.shown->derived.sheet, sheet, boxes).cuts)
        if (shows(state, cut.kind))
            paint::line(painter, {cut.path}, cut.kind, QTransform::fromTranslate(at.x(), at.y()) * view.transform(), 1.2);
}

} // namespace

QPointF sheetAt(const Layout& layout, int sheet, int current) { return {(sheet - current) * (layout.width + betweenSheets), 0}; }

int sheetUnder(const Layout& layout, double x, int current)
{
    return current + int(std::floor((x + betweenSheets / 2) / (layout.width + betweenSheets)));
}

QRectF CopiesScene::extent(const BenchState& state) const
{
    QRectF all;
    eachMovable(state, [&](const Placement& place, const QTransform& map) { all |= map.mapRect(q(state.shown->derived.pieces[place.at].box)); });
    return all;
}

void CopiesScene::paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const
{
    eachMovable(state, [&](const Placement& place, const QTransform& toBench) {
        const QTransform map = toBench * view.transform();
        if (map.mapRect(q(state.shown->derived.pieces[place.at].box)).intersects(clip))
            paintCopy(painter, state, place, map);
    });
}

namespace {

void paintAlone(QPainter& painter, const BenchState& state, SeparationSelected::Of of, const View& view)
{
    constexpr double everywhere = 1e9;
    BenchState alone = state;
    alone.copies.clear();
    alone.separation = SeparationSelected{of};
    paintCopies(painter, alone, state.sheet, {}, view, {-everywhere, -everywhere, 2 * everywhere, 2 * everywhere});
}

} // namespace

void paintPrinted(QPainter& painter, const BenchState& state, const View& view)
{
    const Layout& layout = state.shown->derived.sheet;
    painter.fillRect(view.toScreen(QRectF(0, 0, layout.width, layout.height)), Qt::white);
    paintMarks(painter, layout, {}, view);
    paintAlone(painter, state, SeparationSelected::Of::Picture, view);
}

void paintEngraved(QPainter& painter, const BenchState& state, const View& view) { paintAlone(painter, state, SeparationSelected::Of::Engraving, view); }

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
    const Layout& layout = shown->derived.sheet;
    for (int sheet = 0; sheet < layout.sheets; ++sheet) {
        const QPointF at = sheetAt(layout, sheet, state.sheet);
        const QRectF own(at, QSizeF(layout.width, layout.height));
        if (!view.toScreen(own).adjusted(-40, -40, 40, 40).intersects(clip))
            continue;
        paintPaper(painter, shown->job.sheet, own, view, sheet == state.sheet && layout.sheets > 1);
        if (shows(state, SeparationSelected::Of::Marks))
            paintMarks(painter, layout, at, view);
        paintCopies(painter, state, sheet, at, view, clip);
        paintExtraCuts(painter, state, sheet, at, view);
        paintSign(painter, state, sheet, view.toScreen(own));
    }
}

} // namespace yokai
