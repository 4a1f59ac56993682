#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/piece_edits.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

namespace yokai {

namespace {
constexpr double shortest = 0.5; // mm: a guide shorter than this was no drag
}

bool GuideTool::works() const { return desk_.hand().hold == Hold::Guide && desk_.currentResult(); }

bool GuideTool::press(const Pointer& at)
{
    if (at.left())
        from_ = to_ = at.mm;
    return at.left();
}

void GuideTool::release(const Pointer& at)
{
    const auto from = std::exchange(from_, std::nullopt);
    if (!from || std::hypot(at.mm.x() - from->x(), at.mm.y() - from->y()) < shortest)
        return;
    edits::straightenAlong(desk_, *from, at.mm);
    desk_.hold(Hold::Guide); // done: put down
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
        paint::tag(painter, (a + b) / 2 - QPointF(0, 20), number(-off, 2) + QStringLiteral("\u00b0"));
}

} // namespace yokai
