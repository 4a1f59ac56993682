#include "bench/tools.h"
#include "desk/piece_edits.h"
#include "theme/theme.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai {

namespace {

// Keep: rubbing out and bringing back, and what is subject and what is not.
class BrushTool : public HeldTool {
public:
    explicit BrushTool(Desk& desk) : HeldTool(desk, {Hold::RubOut, Hold::BringBack, Hold::SubjectIs, Hold::SubjectIsNot}) {}
    bool press(const Pointer& at) override
    {
        if (at.left())
            way_ = {at.mm};
        return at.left();
    }
    void move(const Pointer& at) override
    {
        if (way_.empty())
            return;
        // Places closer than this change nothing of the stroke's outline that could be seen.
        constexpr double ofBrush = 0.08;
        const QPointF step = at.mm - way_.back();
        if (std::hypot(step.x(), step.y()) > std::max(ofBrush * desk_.hand().brush.mm(), at.mmAPixel))
            way_.push_back(at.mm);
    }
    void release(const Pointer&) override
    {
        const std::vector<QPointF> way = std::exchange(way_, {});
        if (way.empty())
            return;
        if (marks())
            edits::markSubject(desk_, way);
        else
            edits::brush(desk_, way);
    }
    void cancel() override { way_.clear(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    bool marks() const { return desk_.hand().hold == Hold::SubjectIs || desk_.hand().hold == Hold::SubjectIsNot; }
    std::vector<QPointF> way_; // mm
};

void BrushTool::paint(QPainter& painter, const View& view, QPointF pointer) const
{
    const auto& c = theme::colours();
    const double across = std::max(1.0, desk_.hand().brush.mm() * view.scale);
    const bool square = desk_.hand().square && !marks(), out = desk_.hand().hold == Hold::RubOut || desk_.hand().hold == Hold::SubjectIsNot;
    if (!way_.empty()) {
        QColor colour = out ? c.accent : c.fine;
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.save();
        painter.setOpacity(0.45);
        if (square) {
            QPainterPath swept;
            swept.setFillRule(Qt::WindingFill);
            for (std::size_t i = 0; i < way_.size(); ++i) {
                const QPointF a = view.toScreen(way_[i]), b = view.toScreen(way_[std::min(i + 1, way_.size() - 1)]);
                const QPointF l = a.x() <= b.x() ? a : b, r = a.x() <= b.x() ? b : a;
                const double s = across / 2, up = l.y() <= r.y() ? 1 : -1;
                QPolygonF hull{l + QPointF(-s, -s * up), l + QPointF(s, -s * up), r + QPointF(s, -s * up),
                               r + QPointF(s, s * up),   r + QPointF(-s, s * up), l + QPointF(-s, s * up)};
                if (up < 0)
                    std::reverse(hull.begin(), hull.end());
                swept.addPolygon(hull);
                swept.closeSubpath();
            }
            painter.drawPath(swept);
        } else {
            QPainterPath path(view.toScreen(way_[0]));
            for (const QPointF p : way_)
                path.lineTo(view.toScreen(p) + QPointF(0.01, 0));
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, across, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
            painter.drawPath(path);
        }
        painter.restore();
    }
    if (pointer.isNull())
        return;
    painter.setBrush(Qt::NoBrush);
    const QRectF tip(pointer - QPointF(across, across) / 2, QSizeF(across, across));
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3), QPen(c.tag, 1.2)}) {
        painter.setPen(pen);
        if (square)
            painter.drawRect(tip);
        else
            painter.drawEllipse(tip);
    }
}

} // namespace

std::unique_ptr<Tool> brushTool(Desk& desk) { return std::make_unique<BrushTool>(desk); }

} // namespace yokai
