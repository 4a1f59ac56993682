#include "bench/tool.h"

namespace yokai {

namespace {

double distanceToEdge(const PieceResult& r, QPointF mm) { return signedDistance(r.parts->contours, {mm.x() * r.pxPerMm, mm.y() * r.pxPerMm}) / r.pxPerMm; }

// To a line itself, mm; positive outside it.
double distanceToLine(const CutLine& line, QPointF mm)
{
    Contours shape;
    for (const Path& path : *line.paths) {
        shape.emplace_back();
        shape.back().points = flatten(path, 0.05);
    }
    return shape.empty() ? 1e9 : signedDistance(shape, {mm.x(), mm.y()});
}

} // namespace

int OffsetTool::lineAt(QPointF screen, const View& view) const
{
    const PieceResult* r = studio_.currentResult();
    if (studio_.station() != Station::CutLines || !r || !r->parts || r->lines.empty())
        return -1;
    const double reach = 7 / view.scale;
    int best = -1;
    double nearest = reach;
    for (std::size_t i = 0; i < r->lines.size(); ++i)
        if (const double off = std::abs(distanceToLine(r->lines[i], view.toMm(screen))); off < nearest) {
            nearest = off;
            best = int(i);
        }
    return best;
}

// The distance of an outline is measured from the edge, so that it is exact however the
// line ran; that of a figure goes on from where it is.
double OffsetTool::offsetAt(QPointF mm) const
{
    const PieceResult& r = taken_->derived.pieces[std::size_t(studio_.piece())];
    const CutLine& line = r.lines[std::size_t(line_)];
    return line.shape == LineShape::Outline ? distanceToEdge(r, mm) : line.offset.mm() + distanceToLine(line, mm);
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
    taken_ = studio_.sharedShown();
    grab_ = studio_.currentResult()->lines[std::size_t(line_)].offset.mm() - offsetAt(view.toMm(event->position()));
    studio_.setLine(line_);
    return true;
}

void OffsetTool::move(QMouseEvent* event, View& view)
{
    if (line_ < 0 || !studio_.currentPiece())
        return;
    const double raw = offsetAt(view.toMm(event->position())) + grab_;
    // Steps that fit the unit and the zoom; Shift for a tenth of them.
    const double coarse = studio_.unit() == Unit::Inch ? 25.4 / 64 : 0.05;
    const double step = (event->modifiers() & Qt::ShiftModifier) ? coarse / 10 : coarse;
    const Length offset = Length::mm(std::clamp(std::round(raw / step) * step, -500.0, 500.0));
    const Rect kept = taken_->derived.pieces[std::size_t(studio_.piece())].kept;
    const double longer = std::max(kept.width(), kept.height());
    const QString what = QObject::tr("drag the offset");
    studio_.editPiece(
        what,
        [&](Piece& p) {
            if (line_ >= int(p.cutLines.lines.size()))
                return;
            LineSpec& line = p.cutLines.lines[std::size_t(line_)];
            line.offset = offset;
            if (line.percent && longer > 0) // stays a percentage, to a tenth
                line.percent = std::round(offset.mm() / longer * 1000) / 10;
        },
        what);
}

void OffsetTool::release(QMouseEvent*)
{
    studio_.settle();
    line_ = -1;
    taken_.reset();
}

} // namespace yokai
