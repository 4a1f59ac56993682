#include "bench/tool.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double dragged = 4; // logical pixels

QRectF between(QPointF a, QPointF b) { return QRectF(a, b).normalized(); }

// The smallest thing at a place, with a little reach for crumbs.
int partAt(const Parts& parts, QPointF mm, double reach)
{
    int best = -1;
    for (std::size_t i = 0; i < parts.all.size(); ++i) {
        const Part& part = parts.all[i];
        if (part.box.grown(reach).contains({mm.x(), mm.y()}) && (best < 0 || part.area < parts.all[std::size_t(best)].area))
            best = int(i);
    }
    return best;
}

} // namespace

bool SelectTool::press(QMouseEvent* event, const View& view, bool)
{
    if (event->button() != Qt::LeftButton || studio_.station() != Station::Keep || studio_.hand().hold != Hold::Nothing || !studio_.currentResult())
        return false;
    pressed_ = event->position();
    from_ = to_ = view.toMm(event->position());
    scale_ = view.scale;
    adding_ = event->modifiers() & Qt::ShiftModifier;
    return true;
}

void SelectTool::move(QMouseEvent* event, View& view) { to_ = view.toMm(event->position()); }

void SelectTool::release(QMouseEvent* event)
{
    const PieceResult* r = studio_.currentResult();
    if (!pressed_ || !r || !r->parts)
        return;
    std::vector<int> chosen = adding_ ? studio_.selectedParts() : std::vector<int>{};
    const auto take = [&](int i) {
        if (std::find(chosen.begin(), chosen.end(), i) == chosen.end())
            chosen.push_back(i);
    };
    if ((event->position() - *pressed_).manhattanLength() < dragged) {
        if (const int at = partAt(*r->parts, from_, 6 / scale_); at >= 0)
            take(at);
    } else {
        const QRectF box = between(from_, to_);
        std::vector<unsigned char> in(r->parts->all.size(), 0);
        for (const int i : chosen)
            if (i < int(in.size()))
                in[std::size_t(i)] = 1;
        chosen.clear();
        for (std::size_t i = 0; i < in.size(); ++i) {
            const Rect& b = r->parts->all[i].box;
            if (in[i] || box.contains(QRectF(b.x0, b.y0, b.width(), b.height())))
                chosen.push_back(int(i));
        }
    }
    pressed_.reset();
    studio_.selectParts(std::move(chosen));
}

void SelectTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (!pressed_ || (view.toScreen(to_) - *pressed_).manhattanLength() < dragged)
        return;
    const auto& c = theme::colours();
    QColor fill = c.accent;
    fill.setAlpha(28);
    painter.setBrush(fill);
    painter.setPen(QPen(c.accent, 1.4, Qt::DashLine));
    painter.drawRect(view.toScreen(between(from_, to_)));
}

} // namespace yokai
