#include "bench/paint.h"
#include "bench/tool.h"
#include "studio/piece_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

std::optional<Qt::CursorShape> GuideTool::hover(QPointF, const View&, Qt::KeyboardModifiers, bool)
{
    return studio_.hand().hold == Hold::Guide ? std::optional(Qt::CrossCursor) : std::nullopt;
}

bool GuideTool::press(QMouseEvent* event, const View& view, bool)
{
    if (event->button() != Qt::LeftButton || studio_.hand().hold != Hold::Guide || !studio_.currentResult())
        return false;
    from_ = to_ = view.toMm(event->position());
    return true;
}

void GuideTool::move(QMouseEvent* event, View& view) { to_ = view.toMm(event->position()); }

void GuideTool::release(QMouseEvent*)
{
    const auto from = std::exchange(from_, std::nullopt);
    if (!from || std::hypot(to_.x() - from->x(), to_.y() - from->y()) < 0.5)
        return;
    edits::straightenAlong(studio_, *from, to_);
    studio_.hold(Hold::Guide); // done: put down
}

void GuideTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (!from_)
        return;
    const auto& c = theme::colours();
    const QPointF a = view.toScreen(*from_), b = view.toScreen(to_), d = to_ - *from_;
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3.6), QPen(c.accent, 1.6)}) {
        painter.setPen(pen);
        painter.drawLine(a, b);
    }
    painter.setPen(QPen(Qt::white, 1.4));
    painter.setBrush(c.accent);
    painter.drawEllipse(a, 4, 4);
    painter.drawEllipse(b, 4, 4);
    const double angle = std::atan2(d.y(), d.x()) * 180 / M_PI, off = angle - 90 * std::round(angle / 90);
    if (std::hypot(d.x(), d.y()) > 0.5)
        paint::tag(painter, (a + b) / 2 - QPointF(0, 20), QStringLiteral("%1\u00b0").arg(-off, 0, 'f', 2));
}

bool FrameTool::active() const { return studio_.hand().hold == Hold::Frame && studio_.station() == Station::Artwork && studio_.currentPiece(); }

QRectF FrameTool::frame() const
{
    const ArtworkSpec& a = studio_.currentPiece()->artwork;
    const Rect whole = a.whole(), f = a.frame();
    const Point k = a.scale();
    return {QPointF((f.x0 - whole.x0) / k.x, (f.y0 - whole.y0) / k.y), QPointF((f.x1 - whole.x0) / k.x, (f.y1 - whole.y0) / k.y)};
}

std::optional<FrameTool::Grip> FrameTool::gripAt(QPointF screen, const View& view) const
{
    const QRectF f = view.toScreen(frame());
    constexpr double reach = 9;
    if (!f.adjusted(-reach, -reach, reach, reach).contains(screen))
        return std::nullopt;
    const auto side = [&](double v, double first, double second) { return std::abs(v - first) < reach ? -1 : std::abs(v - second) < reach ? 1 : 0; };
    const Grip grip{side(screen.x(), f.left(), f.right()), side(screen.y(), f.top(), f.bottom()), false};
    return grip.x == 0 && grip.y == 0 ? Grip{0, 0, true} : grip;
}

std::optional<Qt::CursorShape> FrameTool::hover(QPointF screen, const View& view, Qt::KeyboardModifiers, bool space)
{
    if (!active() || space)
        return std::nullopt;
    const auto grip = gripAt(screen, view);
    if (!grip)
        return Qt::ArrowCursor;
    if (grip->middle)
        return Qt::SizeAllCursor;
    if (grip->x != 0 && grip->y != 0)
        return grip->x == grip->y ? Qt::SizeFDiagCursor : Qt::SizeBDiagCursor;
    return grip->x != 0 ? Qt::SizeHorCursor : Qt::SizeVerCursor;
}

bool FrameTool::press(QMouseEvent* event, const View& view, bool space)
{
    if (!active() || space || event->button() != Qt::LeftButton)
        return false;
    const auto grip = gripAt(event->position(), view);
    if (!grip)
        return false;
    grip_ = *grip;
    start_ = frame();
    pressed_ = view.toMm(event->position());
    return true;
}

void FrameTool::move(QMouseEvent* event, View& view)
{
    const QPointF d = view.toMm(event->position()) - pressed_;
    QRectF f = start_;
    constexpr double least = 1; // mm
    if (grip_.middle)
        f.translate(d);
    if (grip_.x < 0)
        f.setLeft(std::min(f.left() + d.x(), f.right() - least));
    if (grip_.x > 0)
        f.setRight(std::max(f.right() + d.x(), f.left() + least));
    if (grip_.y < 0)
        f.setTop(std::min(f.top() + d.y(), f.bottom() - least));
    if (grip_.y > 0)
        f.setBottom(std::max(f.bottom() + d.y(), f.top() + least));
    const QString what = QObject::tr("crop");
    studio_.editPiece(
        what,
        [&](Piece& p) {
            ArtworkSpec& a = p.artwork;
            const Rect whole = a.whole();
            const Point k = a.scale();
            if (grip_.middle) { // moved as it is, up to the picture's border
                const double w = whole.width() / k.x, h = whole.height() / k.y;
                f.moveLeft(std::clamp(f.left(), 0.0, std::max(0.0, w - f.width())));
                f.moveTop(std::clamp(f.top(), 0.0, std::max(0.0, h - f.height())));
            }
            a.crop.reset();
            a.cropTo({f.left(), f.top(), f.right(), f.bottom()});
        },
        what);
}

void FrameTool::release(QMouseEvent*) { studio_.settle(); }

void FrameTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (!active())
        return;
    const auto& c = theme::colours();
    const QRectF f = view.toScreen(frame());
    // What is cropped away lies in shade.
    QPainterPath shade;
    shade.addRect(QRectF(painter.viewport()));
    shade.addRect(f);
    painter.fillPath(shade, QColor(30, 28, 40, 110));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(Qt::white, 3));
    painter.drawRect(f);
    painter.setPen(QPen(c.accent, 1.4));
    painter.drawRect(f);
    painter.setPen(QPen(c.accent, 1.4));
    painter.setBrush(Qt::white);
    for (const double x : {f.left(), f.center().x(), f.right()})
        for (const double y : {f.top(), f.center().y(), f.bottom()})
            if (x != f.center().x() || y != f.center().y())
                painter.drawRoundedRect(QRectF(x - 4.5, y - 4.5, 9, 9), 2, 2);
    const QRectF mm = frame();
    paint::tag(painter, QPointF(f.center().x(), f.bottom() + 22),
               QStringLiteral("%1 \u00d7 %2")
                   .arg(QString::fromStdString(formatMm(mm.width(), studio_.unit(), false)), QString::fromStdString(formatMm(mm.height(), studio_.unit()))));
}

} // namespace yokai
