#include "bench/paint.h"
#include "bench/snapping.h"
#include "bench/tools.h"
#include "desk/guides.h"
#include "desk/line_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double onAGuide = 5; // logical pixels

// Touch-up: guides are dragged out of the rulers, moved, and put back on them; or drawn between two places.
class GuideLineTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::TouchUp && desk_.currentResult(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override;
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { line_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    bool between() const { return desk_.hand().hold == Hold::GuideLine; }
    std::optional<edits::GuideOn> under(const Pointer& at) const
    {
        const double reach = onAGuide * at.mmAPixel;
        return desk_.hand().hold == Hold::Nothing && !edits::nodeNear(desk_, at.place(), reach) ? edits::guideNear(desk_, at.place(), reach) : std::nullopt;
    }
    std::optional<StraightGuide> line_; // as it is dragged
    GuideId moved_;                     // none: a new one
    Point pressed_;
    StraightGuide was_;
    Snapped snapped_;
};

std::optional<Qt::CursorShape> GuideLineTool::hover(const Pointer& at) const
{
    if (at.ruler != Pointer::Ruler::None)
        return at.ruler == Pointer::Ruler::Across ? Qt::SplitVCursor : Qt::SplitHCursor;
    if (between())
        return Qt::CrossCursor;
    return under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt;
}

bool GuideLineTool::press(const Pointer& at)
{
    if (!at.left())
        return false;
    moved_ = {};
    pressed_ = at.place();
    if (at.ruler != Pointer::Ruler::None) {
        const Point along = at.ruler == Pointer::Ruler::Across ? Point{1, 0} : Point{0, 1};
        line_ = was_ = {at.place(), at.place() + along};
        return true;
    }
    if (between()) {
        snapped_ = snapping::at(desk_, at, at.place());
        line_ = was_ = {snapped_.at, snapped_.at};
        return true;
    }
    if (const auto guide = under(at)) {
        moved_ = guide->id;
        line_ = was_ = guide->line;
        desk_.select(GuideSelected{guide->id});
        return true;
    }
    return false;
}

void GuideLineTool::move(const Pointer& at)
{
    if (!line_)
        return;
    if (between()) {
        snapped_ = (at.modifiers & Qt::ShiftModifier) ? Snapped{snapping::bySteps(line_->a, at.place()), SnapTo::RightAngle} : snapping::at(desk_, at, at.place(), {line_->a});
        line_->b = snapped_.at;
        return;
    }
    snapped_ = snapping::at(desk_, at, at.place());
    if (snapped_.to == SnapTo::Guide || snapped_.to == SnapTo::Crossing)
        snapped_ = {at.place()}; // not to itself
    const Point by = snapped_.at - pressed_;
    line_ = StraightGuide{was_.a + by, was_.b + by};
}

void GuideLineTool::release(const Pointer& at)
{
    move(at);
    const auto line = std::exchange(line_, std::nullopt);
    if (!line)
        return;
    if (at.ruler != Pointer::Ruler::None) {
        if (moved_)
            edits::removeGuide(desk_, moved_);
        return;
    }
    constexpr double least = 0.2; // mm: less was no drag
    if (between() && distance(line->a, line->b) < least)
        return;
    if (moved_ && distance(line->a, was_.a) > 0)
        return edits::moveGuide(desk_, moved_, *line);
    if (!moved_)
        edits::addGuide(desk_, *line);
    if (between())
        desk_.hold(Hold::GuideLine); // put down
}

void GuideLineTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (!line_ || distance(line_->a, line_->b) <= 0)
        return;
    const Point along = unit(line_->b - line_->a);
    constexpr double far = 1e4; // mm
    paint::draft(painter, Polyline{line_->a - along * far, line_->a + along * far}, view, true);
    snapping::paint(painter, view, snapped_);
}

} // namespace

std::unique_ptr<Tool> guideLineTool(Desk& desk) { return std::make_unique<GuideLineTool>(desk); }

} // namespace yokai
