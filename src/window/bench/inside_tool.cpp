#include "bench/tools.h"
#include "desk/piece_edits.h"
#include "theme/theme.h"

#include <QPainter>
#include <QPolygonF>

namespace yokai {

namespace {

// Keep: boxes and lassos in which the rule works.
class InsideTool : public HeldTool {
public:
    explicit InsideTool(Desk& desk) : HeldTool(desk, {Hold::InsideBox, Hold::InsideLasso}) {}
    bool press(const Pointer& at) override
    {
        if (at.left())
            outline_ = {at.mm};
        return at.left();
    }
    void move(const Pointer& at) override;
    void release(const Pointer&) override;
    void cancel() override { outline_.clear(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::vector<QPointF> outline_; // mm
};

void InsideTool::move(const Pointer& at)
{
    if (outline_.empty())
        return;
    constexpr double apart = 3; // logical pixels between two places of a lasso
    const QPointF from = outline_.front();
    if (desk_.hand().hold == Hold::InsideBox)
        outline_ = {from, {at.mm.x(), from.y()}, at.mm, {from.x(), at.mm.y()}};
    else if (const QPointF step = at.mm - outline_.back(); std::hypot(step.x(), step.y()) > apart * at.mmAPixel)
        outline_.push_back(at.mm);
}

void InsideTool::release(const Pointer&)
{
    const std::vector<QPointF> outline = std::exchange(outline_, {});
    constexpr double least = 0.2; // mm: anything smaller was no drag
    const QRectF box = QPolygonF(QList<QPointF>(outline.begin(), outline.end())).boundingRect();
    if (outline.size() < 3 || box.width() < least || box.height() < least)
        return;
    edits::addInside(desk_, outline);
    desk_.hold(desk_.hand().hold); // done: put down
}

void InsideTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (outline_.size() < 2)
        return;
    const auto& c = theme::colours();
    QPolygonF shape;
    for (const QPointF p : outline_)
        shape << view.toScreen(p);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 220), 3.4));
    painter.drawPolygon(shape);
    painter.setPen(QPen(c.accent, 1.6, Qt::DashLine));
    painter.drawPolygon(shape);
}

} // namespace

std::unique_ptr<Tool> insideTool(Desk& desk) { return std::make_unique<InsideTool>(desk); }

} // namespace yokai
