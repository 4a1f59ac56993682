#include "bench/paint.h"
#include "bench/snapping.h"
#include "bench/tools.h"
#include "desk/areas.h"
#include "path/swept.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai {

namespace {

// Touch-up: an area drawn by one drag. A lasso, a brush, a box or an ellipse by two corners (Shift: as wide as
// high), a circle from its middle.
class AreaTool : public HeldTool {
public:
    explicit AreaTool(Desk& desk) : HeldTool(desk, {Hold::AddArea, Hold::TakeArea, Hold::BesideArea, Hold::KeepArea}) {}
    bool works() const override { return HeldTool::works() && as() != DrawnAs::Lines && as() != DrawnAs::Curves; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { way_.clear(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    DrawnAs as() const { return desk_.hand().drawnAs; }
    bool byHand() const { return as() == DrawnAs::Lasso || as() == DrawnAs::Brush; }
    Path figure(Point from, Point to) const;
    Polyline way_; // by hand: where it went; else the first corner and the other
    Snapped snapped_;
};

bool AreaTool::press(const Pointer& at)
{
    if (!at.left() || !desk_.current())
        return false;
    snapped_ = byHand() ? Snapped{at.place()} : snapping::at(desk_, at, at.place());
    way_ = {snapped_.at};
    return true;
}

void AreaTool::move(const Pointer& at)
{
    if (way_.empty())
        return;
    if (byHand()) {
        constexpr double apart = 2; // logical pixels
        if (distance(at.place(), way_.back()) > apart * at.mmAPixel)
            way_.push_back(at.place());
        return;
    }
    snapped_ = snapping::at(desk_, at, at.place(), {way_.front()});
    Point to = snapped_.at;
    if ((at.modifiers & Qt::ShiftModifier) && as() != DrawnAs::Circle) {
        const Point by = at.place() - way_.front();
        const double side = std::max(std::abs(by.x), std::abs(by.y));
        to = way_.front() + Point{std::copysign(side, by.x), std::copysign(side, by.y)};
    }
    way_.resize(1);
    way_.push_back(to);
}

Path AreaTool::figure(Point from, Point to) const
{
    switch (as()) {
    case DrawnAs::Box:
        return edits::boxed(from, to, 0);
    case DrawnAs::RoundedBox:
        return edits::boxed(from, to, desk_.hand().boxRadius.mm());
    case DrawnAs::Ellipse:
        return edits::ellipseIn(from, to);
    default:
        return edits::circleRound(from, distance(from, to));
    }
}

void AreaTool::release(const Pointer& at)
{
    move(at);
    Polyline way = std::exchange(way_, {});
    if (way.empty())
        return;
    if (as() == DrawnAs::Brush)
        return edits::addArea(desk_, swept({&way, 1}, desk_.hand().brush.mm() / 2));
    constexpr double least = 0.2; // mm: anything smaller was no drag
    const Rect box = bounds(way);
    if (as() == DrawnAs::Lasso) {
        if (way.size() >= 3 && box.width() > least && box.height() > least)
            edits::addArea(desk_, {edits::lassoed(way)});
        return;
    }
    const bool flat = as() != DrawnAs::Circle && (box.width() < least || box.height() < least);
    if (way.size() < 2 || distance(way[0], way[1]) < least || flat)
        return;
    edits::addArea(desk_, {figure(way[0], way[1])});
}

void AreaTool::paint(QPainter& painter, const View& view, QPointF pointer) const
{
    if (as() == DrawnAs::Brush) {
        const double across = std::max(1.0, desk_.hand().brush.mm() * view.scale);
        if (!way_.empty()) {
            QPainterPath path(view.toScreen(q(way_[0])));
            for (const Point p : way_)
                path.lineTo(view.toScreen(q(p)) + QPointF(0.01, 0));
            QColor colour = desk_.hand().hold == Hold::TakeArea ? theme::colours().accent : theme::colours().fine;
            colour.setAlpha(115);
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(colour, across, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
            painter.drawPath(path);
        }
        if (pointer.isNull())
            return;
        painter.setBrush(Qt::NoBrush);
        for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3), QPen(theme::colours().tag, 1.2)}) {
            painter.setPen(pen);
            painter.drawEllipse(pointer, across / 2, across / 2);
        }
        return;
    }
    if (way_.size() < 2)
        return;
    if (as() == DrawnAs::Lasso) {
        Polyline closed = way_;
        closed.push_back(way_.front());
        return paint::draft(painter, closed, view, true);
    }
    const Path drawn = figure(way_[0], way_[1]);
    paint::draft(painter, Paths{drawn}, view);
    snapping::paint(painter, view, snapped_);
    const Rect box = bounds(drawn);
    const QString size = as() == DrawnAs::Circle ? QObject::tr("%1 across").arg(exactText(box.width(), desk_.unit())) : sizeText(box.width(), box.height(), desk_.unit());
    paint::tag(painter, view.toScreen(QPointF((box.x0 + box.x1) / 2, box.y0)) - QPointF(0, 20), size);
}

} // namespace

std::unique_ptr<Tool> areaTool(Desk& desk) { return std::make_unique<AreaTool>(desk); }

} // namespace yokai
