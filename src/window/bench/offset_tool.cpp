#include "bench/tool.h"

namespace yokai {

namespace {

double distanceToEdge(const PieceResult& r, QPointF mm) { return signedDistance(r.parts->contours, {mm.x() * r.pxPerMm, mm.y() * r.pxPerMm}) / r.pxPerMm; }

} // namespace

int OffsetTool::lineAt(QPointF screen, const View& view) const
{
    const PieceResult* r = studio_.currentResult();
    if (studio_.station() != Station::CutLines || !r || !r->parts || r->lines.empty())
        return -1;
    // On a line is where the edge is as far away as the line's offset.
    const double d = distanceToEdge(*r, view.toMm(screen)), reach = 7 / view.scale;
    int best = -1;
    double nearest = reach;
    for (std::size_t i = 0; i < r->lines.size(); ++i)
        if (const double off = std::abs(d - r->lines[i].offset.mm()); off < nearest) {
            nearest = off;
            best = int(i);
        }
    return best;
}

std::optional<Qt::CursorShape> OffsetTool::hover(QPointF screen, const View& view, Qt::KeyboardModifiers, bool)
{
    return lineAt(screen, view) >= 0 ? std::optional(Qt::SizeAllCursor) : std::nullopt;
}

bool OffsetTool::press(QMouseEvent* event, const View& view, bool)
{
    if (event->button() != Qt::LeftButton)
        return false;
    line_ = lineAt(event->position(), view);
    if (line_ < 0)
        return false;
    const PieceResult* r = studio_.currentResult();
    grab_ = r->lines[std::size_t(line_)].offset.mm() - distanceToEdge(*r, view.toMm(event->position()));
    moved_ = false;
    return true;
}

void OffsetTool::move(QMouseEvent* event, View& view)
{
    const PieceResult* r = studio_.currentResult();
    if (!r || !r->parts)
        return;
    const double raw = distanceToEdge(*r, view.toMm(event->position())) + grab_;
    // Steps that fit the unit and the zoom; Shift for a tenth of them.
    const double coarse = studio_.unit() == Unit::Inch ? 25.4 / 64 : 0.05;
    const double step = (event->modifiers() & Qt::ShiftModifier) ? coarse / 10 : coarse;
    const Length offset = Length::mm(std::clamp(std::round(raw / step) * step, -500.0, 500.0));
    moved_ = true;
    const QString what = QObject::tr("drag the offset");
    studio_.editPiece(
        what,
        [&](Piece& p) {
            if (line_ < int(p.cutLines.lines.size()))
                p.cutLines.lines[std::size_t(line_)].offset = offset;
        },
        what);
}

void OffsetTool::release(QMouseEvent*)
{
    if (moved_)
        studio_.settle();
    line_ = -1;
}

} // namespace yokai
