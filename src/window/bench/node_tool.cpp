#include "bench/tools.h"
#include "desk/line_edits.h"
#include "theme/theme.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai {

namespace {

constexpr double onANode = 9;  // logical pixels
constexpr double clicked = 3; // less is no drag

// Touch-up, with nothing in hand: a node is selected by a press and moved by a drag, with its handles.
class NodeTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::TouchUp && desk_.hand().hold == Hold::Nothing && desk_.layerResult(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override
    {
        return edits::nodeNear(desk_, at.place(), onANode * at.mmAPixel) ? std::optional(Qt::SizeAllCursor) : std::nullopt;
    }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { node_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF) const override;

private:
    std::optional<Redrawn> moved() const;
    std::optional<edits::OnLine> node_; // in hand
    std::shared_ptr<const Paths> paths_; // as they were then
    LineId line_;
    QPointF pressed_; // on the screen
    Point from_, by_;
    bool dragged_ = false;
};

bool NodeTool::press(const Pointer& at)
{
    if (!at.left())
        return false;
    node_ = edits::nodeNear(desk_, at.place(), onANode * at.mmAPixel);
    if (!node_) {
        desk_.select({});
        return false; // the bench may be panned from here
    }
    const CutLine& line = desk_.layerResult()->lines[node_->line];
    paths_ = line.paths;
    line_ = line.id;
    pressed_ = at.screen;
    from_ = at.place();
    by_ = {};
    dragged_ = false;
    desk_.select(NodeSelected{line_, node_->place.at});
    return true;
}

void NodeTool::move(const Pointer& at)
{
    dragged_ = dragged_ || (at.screen - pressed_).manhattanLength() > clicked;
    if (!dragged_)
        return;
    by_ = at.place() - from_;
    if (at.modifiers & Qt::ShiftModifier) // along one direction
        (std::abs(by_.x) > std::abs(by_.y) ? by_.y : by_.x) = 0;
}

std::optional<Redrawn> NodeTool::moved() const { return node_ && dragged_ ? nodeMoved((*paths_)[node_->place.path], node_->place.segment, by_) : std::nullopt; }

void NodeTool::release(const Pointer&)
{
    const auto redrawn = moved();
    const auto node = std::exchange(node_, std::nullopt);
    if (!redrawn || !desk_.current())
        return;
    edits::redraw(desk_, QObject::tr("move a node"), node->line, *redrawn);
    desk_.select(NodeSelected{line_, node->place.at + by_});
}

void NodeTool::paint(QPainter& painter, const View& view, QPointF) const
{
    const auto redrawn = moved();
    if (!redrawn)
        return;
    QPainterPath way(view.toScreen(q(redrawn->stretch.start)));
    for (const Segment& s : redrawn->stretch.segments)
        way.cubicTo(view.toScreen(q(s.c1)), view.toScreen(q(s.c2)), view.toScreen(q(s.end)));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(255, 255, 255, 200), 4));
    painter.drawPath(way);
    painter.setPen(QPen(theme::colours().accent, 2));
    painter.drawPath(way);
}

} // namespace

std::unique_ptr<Tool> nodeTool(Desk& desk) { return std::make_unique<NodeTool>(desk); }

} // namespace yokai
