#include "bench/paint.h"
#include "bench/snapping.h"
#include "bench/tools.h"
#include "desk/node_edits.h"
#include "theme/theme.h"

#include <QPainter>
#include <QPolygonF>

namespace yokai {

namespace {

constexpr double onANode = 9;  // logical pixels
constexpr double clicked = 3; // less is no drag

// Touch-up, with nothing in hand: nodes are selected by a press or a box (Shift: too), and moved by a drag; the
// handles of a single one are dragged, too (Alt: without the other). With the lasso in hand they are drawn round.
class NodeTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::TouchUp && (desk_.hand().hold == Hold::Nothing || lasso()) && desk_.layerResult(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override
    {
        if (lasso())
            return Qt::CrossCursor;
        const double reach = onANode * at.mmAPixel;
        return edits::nodeNear(desk_, at.place(), reach) || edits::handleNear(desk_, at.place(), reach) ? std::optional(Qt::SizeAllCursor) : std::nullopt;
    }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { gesture_ = Gesture::None; }
    void paint(QPainter& painter, const View& view, QPointF) const override;

private:
    bool lasso() const { return desk_.hand().hold == Hold::NodeLasso; }
    std::vector<std::pair<std::size_t, Redrawn>> moved() const; // with their line
    Polyline outline() const;

    enum class Gesture { None, Nodes, Handle, Outline };
    Gesture gesture_ = Gesture::None;
    std::vector<edits::NodesOn> nodes_;  // in hand
    std::optional<edits::HandleOn> handle_;
    std::shared_ptr<const Paths> paths_; // as they were then
    QPointF pressed_;                    // on the screen
    Point from_, grabbed_, by_;          // where it was pressed; the node there; how far it went
    Point to_;
    Polyline way_;
    Snapped snapped_;
    bool dragged_ = false, toTheRest_ = false, alone_ = false;
};

bool NodeTool::press(const Pointer& at)
{
    if (!at.left())
        return false;
    pressed_ = at.screen;
    from_ = to_ = at.place();
    by_ = {};
    dragged_ = false;
    snapped_ = {at.place()};
    way_ = {at.place()};
    toTheRest_ = at.modifiers & Qt::ShiftModifier;
    const double reach = onANode * at.mmAPixel;
    const auto node = lasso() ? std::nullopt : edits::nodeNear(desk_, at.place(), reach);
    handle_ = lasso() || node ? std::nullopt : edits::handleNear(desk_, at.place(), reach);
    if (handle_) {
        gesture_ = Gesture::Handle;
        paths_ = desk_.layerResult()->lines[handle_->on.line].paths;
        return true;
    }
    if (!node) {
        gesture_ = Gesture::Outline;
        return true;
    }
    gesture_ = Gesture::Nodes;
    const CutLine& line = desk_.layerResult()->lines[node->line];
    paths_ = line.paths;
    grabbed_ = node->place.at;
    const auto* selected = std::get_if<NodesSelected>(&desk_.selection());
    const bool among = selected && selected->line == line.id && std::find(selected->at.begin(), selected->at.end(), grabbed_) != selected->at.end();
    if (!among)
        edits::selectNodes(desk_, line.id, {grabbed_}, toTheRest_);
    nodes_ = edits::selectedNodes(desk_);
    return true;
}

void NodeTool::move(const Pointer& at)
{
    dragged_ = dragged_ || (at.screen - pressed_).manhattanLength() > clicked;
    to_ = at.place();
    if (!dragged_ || gesture_ == Gesture::None)
        return;
    if (gesture_ == Gesture::Outline) {
        constexpr double apart = 2; // logical pixels
        if (distance(at.place(), way_.back()) > apart * at.mmAPixel)
            way_.push_back(at.place());
        return;
    }
    alone_ = at.modifiers & Qt::AltModifier;
    if (gesture_ == Gesture::Handle) {
        const Path& path = (*paths_)[handle_->on.path];
        const Point node = path.segments[handle_->on.nodes[0]].end;
        snapped_ = (at.modifiers & Qt::ShiftModifier) ? Snapped{snapping::bySteps(node, at.place()), SnapTo::RightAngle} : snapping::at(desk_, at, at.place(), {node, std::nullopt, {node}});
        to_ = snapped_.at;
        return;
    }
    by_ = at.place() - from_;
    if (at.modifiers & Qt::ShiftModifier) { // along one direction
        (std::abs(by_.x) > std::abs(by_.y) ? by_.y : by_.x) = 0;
        return;
    }
    snapping::From but{grabbed_};
    for (const edits::NodesOn& on : nodes_)
        for (const std::size_t node : on.nodes)
            but.but.push_back((*paths_)[on.path].segments[node].end);
    snapped_ = snapping::at(desk_, at, grabbed_ + by_, but);
    by_ = snapped_.at - grabbed_;
}

Polyline NodeTool::outline() const
{
    if (lasso())
        return way_;
    return {from_, {to_.x, from_.y}, to_, {from_.x, to_.y}};
}

std::vector<std::pair<std::size_t, Redrawn>> NodeTool::moved() const
{
    std::vector<std::pair<std::size_t, Redrawn>> out;
    if (!dragged_)
        return out;
    if (gesture_ == Gesture::Handle) {
        const Path& path = (*paths_)[handle_->on.path];
        const std::size_t node = handle_->on.nodes[0];
        if (const auto redrawn = handleMoved(path, node, handle_->which, to_, !alone_ && !path.corners[node]))
            out.emplace_back(handle_->on.line, *redrawn);
    }
    if (gesture_ == Gesture::Nodes)
        for (const edits::NodesOn& on : nodes_)
            for (Redrawn& redrawn : nodesMoved((*paths_)[on.path], on.nodes, by_))
                out.emplace_back(on.line, std::move(redrawn));
    return out;
}

void NodeTool::release(const Pointer& at)
{
    const auto redrawn = moved();
    const Gesture gesture = std::exchange(gesture_, Gesture::None);
    if (gesture == Gesture::Outline) {
        if (!dragged_) {
            if (!toTheRest_)
                desk_.select({});
            return;
        }
        to_ = lasso() ? to_ : at.place();
        if (const CutLine* line = desk_.lineResult())
            edits::selectNodes(desk_, line->id, edits::nodesIn(desk_, outline(), desk_.hand().takes), toTheRest_);
        return;
    }
    if (!dragged_ || !desk_.current())
        return;
    if (gesture == Gesture::Nodes)
        return edits::moveNodes(desk_, by_);
    if (redrawn.empty())
        return;
    const Selection selected = desk_.selection();
    edits::redraw(desk_, QObject::tr("move a handle"), redrawn.front().first, {redrawn.front().second});
    desk_.select(selected);
}

void NodeTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (gesture_ == Gesture::Outline && dragged_) {
        QPolygonF shape;
        for (const Point p : outline())
            shape << view.toScreen(q(p));
        QColor fill = theme::colours().accent;
        fill.setAlpha(28);
        painter.setBrush(fill);
        painter.setPen(QPen(theme::colours().accent, 1.4, Qt::DashLine));
        painter.drawPolygon(shape);
        return;
    }
    const auto redrawn = moved();
    if (redrawn.empty())
        return;
    Paths drafts;
    for (const auto& one : redrawn)
        drafts.push_back(one.second.stretch);
    paint::draft(painter, drafts, view);
    if (gesture_ == Gesture::Handle) {
        const QPointF node = view.toScreen(q((*paths_)[handle_->on.path].segments[handle_->on.nodes[0]].end)), at = view.toScreen(q(to_));
        painter.drawLine(node, at);
        painter.setBrush(Qt::white);
        painter.drawEllipse(at, 3.4, 3.4);
    }
    snapping::paint(painter, view, snapped_);
}

} // namespace

std::unique_ptr<Tool> nodeTool(Desk& desk) { return std::make_unique<NodeTool>(desk); }

} // namespace yokai
