#include "bench/paint.h"
#include "bench/snapping.h"
#include "bench/tools.h"
#include "desk/areas.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double atTheStart = 9; // logical pixels round it: a press closes the outline

// Touch-up: an outline drawn place by place, by straight lines or by curves whose handles are dragged. It closes at
// its start, or by Enter; Backspace takes the last place back, Shift holds 15 degrees.
class SketchTool : public HeldTool {
public:
    explicit SketchTool(Desk& desk) : HeldTool(desk, {Hold::AddArea, Hold::TakeArea, Hold::BesideArea, Hold::KeepArea}) {}
    bool works() const override { return HeldTool::works() && (desk_.hand().drawnAs == DrawnAs::Lines || curves()); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override
    {
        where_ = closes(at) ? Snapped{sketch().at.front(), SnapTo::Node} : place(at);
        return closes(at) ? Qt::PointingHandCursor : Qt::CrossCursor;
    }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { pressed_ = false; }
    bool key(int key) override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    bool curves() const { return desk_.hand().drawnAs == DrawnAs::Curves; }
    const Sketch& sketch() const { return desk_.hand().sketch; }
    bool closes(const Pointer& at) const
    {
        const std::size_t least = curves() ? 2 : 3;
        return sketch().at.size() >= least && distance(at.place(), sketch().at.front()) < atTheStart * at.mmAPixel;
    }
    Snapped place(const Pointer& at) const;
    void close();
    bool pressed_ = false, closing_ = false;
    mutable Snapped where_; // the next place, as it is pointed at
};

Snapped SketchTool::place(const Pointer& at) const
{
    const auto& points = sketch().at;
    if (points.empty())
        return snapping::at(desk_, at, at.place());
    if (at.modifiers & Qt::ShiftModifier)
        return {snapping::bySteps(points.back(), at.place()), SnapTo::RightAngle};
    return snapping::at(desk_, at, at.place(), {points.back(), points.size() > 1 ? std::optional(points[points.size() - 2]) : std::nullopt});
}

bool SketchTool::press(const Pointer& at)
{
    if (!at.left() || !desk_.current())
        return false;
    pressed_ = true;
    closing_ = closes(at);
    if (closing_)
        return true;
    where_ = place(at);
    Hand hand = desk_.hand();
    if (hand.sketch.at.empty() || distance(hand.sketch.at.back(), where_.at) > at.mmAPixel) { // a double-click is one place
        hand.sketch.at.push_back(where_.at);
        hand.sketch.out.push_back(where_.at);
        desk_.setHand(hand);
    }
    return true;
}

void SketchTool::move(const Pointer& at)
{
    if (!pressed_ || closing_ || !curves() || sketch().at.empty())
        return;
    constexpr double aCorner = 4; // logical pixels: as short a drag
    Hand hand = desk_.hand();
    const Point node = hand.sketch.at.back();
    const Point to = (at.modifiers & Qt::ShiftModifier) ? snapping::bySteps(node, at.place()) : at.place();
    hand.sketch.out.back() = distance(to, node) > aCorner * at.mmAPixel ? to : node;
    desk_.setHand(hand);
}

void SketchTool::release(const Pointer&)
{
    pressed_ = false;
    if (std::exchange(closing_, false))
        close();
}

void SketchTool::close()
{
    const Path path = edits::drawn(sketch());
    Hand hand = desk_.hand();
    hand.sketch = {};
    desk_.setHand(hand);
    constexpr double least = 0.01; // mm2
    if (std::abs(signedArea(path)) < least)
        return desk_.say(QObject::tr("This outline encloses nothing; draw at least three places."));
    edits::addArea(desk_, {path});
}

bool SketchTool::key(int key)
{
    if (sketch().at.empty())
        return false;
    Hand hand = desk_.hand();
    if (key == Qt::Key_Backspace || key == Qt::Key_Delete) {
        hand.sketch.at.pop_back();
        hand.sketch.out.pop_back();
    } else if (key == Qt::Key_Escape) {
        hand.sketch = {};
    } else if (key == Qt::Key_Return || key == Qt::Key_Enter) {
        close();
        return true;
    } else {
        return false;
    }
    desk_.setHand(hand);
    return true;
}

void SketchTool::paint(QPainter& painter, const View& view, QPointF pointer) const
{
    const Sketch& drawn = sketch();
    if (!drawn.at.empty()) {
        // What is there, and the leg to where the pointer is.
        Path path;
        path.closed = false;
        path.start = drawn.at.front();
        const auto leg = [&](std::size_t from, Point to, Point out) {
            if (drawn.out[from] == drawn.at[from] && out == to)
                path.lineTo(to);
            else
                path.curveTo(drawn.out[from], to - (out - to), to);
        };
        for (std::size_t k = 1; k < drawn.at.size(); ++k)
            leg(k - 1, drawn.at[k], drawn.out[k]);
        if (!path.segments.empty())
            paint::draft(painter, Paths{path}, view);
        if (!pointer.isNull() && !pressed_) {
            path.start = drawn.at.back();
            path.segments.clear();
            leg(drawn.at.size() - 1, where_.at, where_.at);
            paint::draft(painter, Paths{path}, view, true);
            Sketch next = drawn;
            next.at.push_back(where_.at);
            next.out.push_back(where_.at);
            if (const auto last = edits::lastLeg(next))
                paint::tag(painter, pointer - QPointF(0, 24), exactText(last->length, desk_.unit()) + QStringLiteral(" \u00b7 ") + number(last->angle, 1) + QStringLiteral("\u00b0"));
        }
        painter.setPen(QPen(theme::colours().accent, 1.6));
        painter.setBrush(Qt::white);
        for (std::size_t k = 0; k < drawn.at.size(); ++k) {
            const QPointF at = view.toScreen(q(drawn.at[k]));
            if (drawn.out[k] != drawn.at[k]) {
                const QPointF out = view.toScreen(q(drawn.out[k]));
                painter.drawLine(2 * at - out, out);
                painter.drawEllipse(out, 2.6, 2.6);
            }
            painter.drawEllipse(at, k == 0 ? 4.4 : 3.2, k == 0 ? 4.4 : 3.2);
        }
    }
    if (!pointer.isNull() && !pressed_)
        snapping::paint(painter, view, where_);
}

} // namespace

std::unique_ptr<Tool> sketchTool(Desk& desk) { return std::make_unique<SketchTool>(desk); }

} // namespace yokai
