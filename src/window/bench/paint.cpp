#include "bench/paint.h"

#include "job/colour_layers.h"
#include "theme/theme.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai::paint {

void outlines(QPainter& painter, const std::vector<Polyline>& lines, std::initializer_list<QPen> pens, const QTransform& map)
{
    const QRectF seen = QRectF(painter.viewport()).adjusted(-8, -8, 8, 8);
    std::vector<QPolygonF> shapes;
    for (const Polyline& line : lines) {
        QPolygonF shape;
        shape.reserve(qsizetype(line.size()));
        for (const Point p : line) {
            const QPointF at = map.map(q(p));
            // Points nearer than a third of a pixel add nothing to see.
            if (shape.isEmpty() || (at - shape.last()).manhattanLength() > 0.34)
                shape << at;
        }
        if (shape.size() > 1 && shape.boundingRect().adjusted(-1, -1, 1, 1).intersects(seen))
            shapes.push_back(std::move(shape));
    }
    painter.save();
    painter.setBrush(Qt::NoBrush);
    for (const QPen& pen : pens) {
        painter.setPen(pen);
        for (const QPolygonF& shape : shapes)
            painter.drawPolyline(shape);
    }
    painter.restore();
}

void line(QPainter& painter, const Paths& paths, LineKind kind, const QTransform& map, double width)
{
    const double scale = std::hypot(map.m11(), map.m12()) * painter.device()->devicePixelRatioF();
    std::vector<Polyline> lines;
    lines.reserve(paths.size());
    for (const Path& path : paths) {
        lines.push_back(flatten(path, 0.15 / scale));
        if (path.closed && !lines.back().empty())
            lines.back().push_back(lines.back().front());
    }
    QPen halo(QColor(255, 255, 255, 190), width + 2.4);
    halo.setJoinStyle(Qt::BevelJoin);
    outlines(painter, lines, {halo, theme::linePen(kind, width)}, map);
}

namespace {

// What will be cut of a layer, or what is kept of it where no line is.
QPainterPath shapeOf(const PieceResult& result, const LayerResult& layer, const QTransform& map)
{
    QPainterPath out;
    out.setFillRule(Qt::OddEvenFill);
    const double scale = std::hypot(map.m11(), map.m12());
    const auto add = [&](const Polyline& line, double k) {
        QPolygonF shape;
        for (const Point p : line)
            if (const QPointF at = map.map(q(p * k)); shape.isEmpty() || (at - shape.last()).manhattanLength() > 0.2)
                shape << at;
        out.addPolygon(shape);
        out.closeSubpath();
    };
    if (!layer.lines.empty())
        for (const Path& path : *layer.lines.front().paths)
            add(flatten(path, 0.1 / scale), 1);
    else if (layer.parts)
        for (const Contour& c : layer.parts->contours)
            add(c.points, 1 / result.pxPerMm);
    return out;
}

} // namespace

void stack(QPainter& painter, const Piece& piece, const PieceResult& result, const QTransform& map, LayerId lifted)
{
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const auto fill = [&](const Layer& layer, const QPainterPath& shape) {
        const Rgba c = stockOf(layer).value_or(Rgba{});
        const QColor stock(c.r, c.g, c.b);
        painter.setBrush(stock);
        painter.setPen(QPen(stock.lightness() > 128 ? stock.darker(112) : stock.lighter(135), 0.8)); // layers of one colour are seen apart
        painter.drawPath(shape);
    };
    const Layer* up = nullptr;
    for (const Layer& layer : piece.layers) {
        if (layer.id == lifted)
            up = &layer;
        else
            fill(layer, shapeOf(result, result.layer(layer.id), map));
    }
    if (up) {
        const double by = std::clamp(0.09 * map.mapRect(q(result.kept)).height(), 10.0, 60.0); // px: far enough to see beneath, near enough to know whence
        const QPainterPath shape = shapeOf(result, result.layer(up->id), map);
        painter.setPen(Qt::NoPen);
        painter.setBrush(QColor(20, 20, 40, 46));
        painter.drawPath(shape.translated(0.35 * by, -0.55 * by));
        fill(*up, shape.translated(0.6 * by, -by));
    }
    painter.restore();
}

void engraved(QPainter& painter, const LayerResult& layer, const PiecePicture& picture, const PlanSpec& plan, const QTransform& map)
{
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    const double scale = std::hypot(map.m11(), map.m12());
    QPainterPath stock, burnt;
    const auto add = [&](QPainterPath& to, const Polyline& line) {
        QPolygonF shape;
        for (const Point p : line)
            if (const QPointF at = map.map(q(p)); shape.isEmpty() || (at - shape.last()).manhattanLength() > 0.2)
                shape << at;
        to.addPolygon(shape);
        to.closeSubpath();
    };
    for (const CutLine& line : layer.lines)
        if (line.kind == LineKind::Through)
            for (const Path& path : *line.paths)
                add(stock, flatten(path, 0.1 / scale));
    painter.setPen(Qt::NoPen);
    painter.setBrush(stockColour(plan));
    painter.drawPath(stock);
    if (layer.engraving->spec.as == EngraveAs::Fill) {
        for (const Polyline& ring : layer.engraving->outline)
            add(burnt, ring);
        painter.setBrush(QColor(lookOf(plan).burnt));
        painter.drawPath(burnt);
    } else if (!picture.burnt.empty()) {
        // One of its pixels covers no less than one of the screen's: dots that are too small to see are their grey.
        std::size_t level = 0;
        const double device = scale * painter.device()->devicePixelRatioF() * picture.burntAt.width();
        while (level + 1 < picture.burnt.size() && device < 0.75 * picture.burnt[level].width())
            ++level;
        painter.setTransform(map, true);
        painter.drawImage(picture.burntAt, picture.burnt[level]);
    }
    painter.restore();
}

void picture(QPainter& painter, const ScreenPicture& picture, QSizeF size, const QTransform& map)
{
    const QSize px = picture.size();
    const double scale = std::hypot(map.m11(), map.m12()) * size.width() * painter.device()->devicePixelRatioF() / px.width();
    // Only what is seen, in whole pixels of the picture.
    const double kx = px.width() / size.width(), ky = px.height() / size.height();
    const QTransform toDevice = map * painter.worldTransform(); // a scene may lie askew on another
    const QRectF seen = toDevice.inverted().mapRect(QRectF(painter.viewport()));
    const QRect from = QRectF(seen.x() * kx, seen.y() * ky, seen.width() * kx, seen.height() * ky).toAlignedRect().adjusted(-2, -2, 2, 2) & QRect({}, px);
    if (from.isEmpty())
        return;
    painter.save();
    painter.setTransform(map, true);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, scale < 4);
    picture.draw(painter, QRectF(from.x() / kx, from.y() / ky, from.width() / kx, from.height() / ky), from, scale);
    painter.restore();
}

QRectF tag(QPainter& painter, QPointF at, const QString& text)
{
    const auto& c = theme::colours();
    painter.setFont(theme::font(12, QFont::Medium));
    const QFontMetricsF metrics(painter.font());
    const QSizeF size(metrics.horizontalAdvance(text) + 14, theme::px(20));
    QRectF box(QPointF(std::round(at.x() - size.width() / 2), std::round(at.y() - size.height() / 2)), size);
    // What it says is read whole, though what it is about lies at the edge of what is seen.
    QRectF seen = painter.worldTransform().inverted().mapRect(QRectF(painter.window()));
    if (painter.hasClipping())
        seen &= painter.clipBoundingRect();
    seen.adjust(4, 4, -4, -4);
    if (seen.contains(at) && box.right() > seen.right())
        box.moveRight(seen.right());
    if (seen.contains(at) && box.left() < seen.left())
        box.moveLeft(seen.left());
    if (seen.contains(at) && box.bottom() > seen.bottom())
        box.moveBottom(seen.bottom());
    if (seen.contains(at) && box.top() < seen.top())
        box.moveTop(seen.top());
    painter.setPen(Qt::NoPen);
    painter.setBrush(c.tag);
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(c.onTag);
    painter.drawText(box, Qt::AlignCenter, text);
    return box;
}

void loupe(QPainter& painter, const QImage& picture, Point px, double across, QPointF at)
{
    constexpr double radius = 70; // logical pixels
    const QRectF box(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius);
    painter.save();
    QPainterPath round;
    round.addEllipse(box);
    painter.setClipPath(round);
    painter.fillRect(box, Qt::black);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.drawImage(box, picture, QRectF(px.x - across / 2, px.y - across / 2, across, across));
    painter.setPen(QPen(theme::colours().accent, 1));
    painter.drawLine(QPointF(box.left(), at.y()), QPointF(box.right(), at.y()));
    painter.drawLine(QPointF(at.x(), box.top()), QPointF(at.x(), box.bottom()));
    painter.restore();
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(Qt::white, 3));
    painter.drawEllipse(box);
    painter.setPen(QPen(theme::colours().ink, 1));
    painter.drawEllipse(box);
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

namespace {

void strokeDraft(QPainter& painter, const QPainterPath& way, bool dashed)
{
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 200), 4));
    painter.drawPath(way);
    painter.setPen(QPen(theme::colours().accent, 2, dashed ? Qt::DashLine : Qt::SolidLine));
    painter.drawPath(way);
}

} // namespace

void draft(QPainter& painter, const Paths& paths, const View& view, bool dashed)
{
    QPainterPath way;
    for (const Path& path : paths) {
        way.moveTo(view.toScreen(q(path.start)));
        for (const Segment& s : path.segments)
            way.cubicTo(view.toScreen(q(s.c1)), view.toScreen(q(s.c2)), view.toScreen(q(s.end)));
    }
    strokeDraft(painter, way, dashed);
}

void draft(QPainter& painter, const Polyline& line, const View& view, bool dashed)
{
    QPolygonF way;
    for (const Point p : line)
        way << view.toScreen(q(p));
    QPainterPath path;
    path.addPolygon(way);
    strokeDraft(painter, path, dashed);
}

} // namespace yokai::paint
