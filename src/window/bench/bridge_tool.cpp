#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/line_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double onABridge = 10; // logical pixels

// Touch-up, with nothing in hand: a bridge is dragged along its line. One that had spread by itself is from then
// on where it was put.
class BridgeTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::TouchUp && desk_.hand().hold == Hold::Nothing && desk_.layerResult(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt; }
    bool press(const Pointer& at) override
    {
        bridge_ = at.left() && desk_.current() ? under(at) : std::nullopt;
        to_.reset();
        return bridge_.has_value();
    }
    void move(const Pointer& at) override
    {
        if (!bridge_)
            return;
        const Paths own{(*desk_.layerResult()->lines[bridge_->line].paths)[bridge_->path]};
        to_ = nearestPlace(own, at.place());
    }
    void release(const Pointer&) override;
    void cancel() override { bridge_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF) const override
    {
        if (!bridge_ || !to_)
            return;
        constexpr double round = 9; // px
        const QPointF at = view.toScreen(q(to_->at));
        painter.setBrush(Qt::NoBrush);
        for (const QPen& pen : {QPen(QColor(255, 255, 255, 200), 4.4), QPen(theme::colours().accent, 2)}) {
            painter.setPen(pen);
            painter.drawEllipse(at, round, round);
        }
    }

private:
    struct Bridge {
        std::size_t line = 0, path = 0;
        Point at;
        EditId edit = {}; // none: it has spread by itself
    };
    std::optional<Bridge> under(const Pointer& at) const;
    std::optional<Bridge> bridge_;
    std::optional<NearestPlace> to_;
};

std::optional<BridgeTool::Bridge> BridgeTool::under(const Pointer& at) const
{
    std::optional<Bridge> best;
    double least = onABridge * at.mmAPixel;
    const LayerResult* layer = desk_.layerResult();
    for (std::size_t l = 0; layer && l < layer->lines.size(); ++l) {
        const CutLine& line = layer->lines[l];
        for (std::size_t p = 0; p < line.paths->size(); ++p)
            for (const Point bridge : bridgesOn(line, (*line.paths)[p]))
                if (const double away = distance(bridge, at.place()); away < least) {
                    least = away;
                    best = Bridge{l, p, bridge};
                    constexpr double same = 0.01; // mm
                    for (const EditOutcome& edit : line.edits)
                        if (edit.fate == EditFate::Held && distance(edit.at, bridge) < same)
                            for (const edits::EditOf& of : edits::allEdits(desk_))
                                if (of.edit->id == edit.id && of.edit->kind == EditKind::Bridge)
                                    best->edit = edit.id;
                }
    }
    return best;
}

void BridgeTool::release(const Pointer&)
{
    const auto bridge = std::exchange(bridge_, std::nullopt);
    if (!bridge || !to_)
        return;
    to_->path = bridge->path;
    if (bridge->edit) {
        desk_.select(EditSelected{bridge->edit});
        return edits::placeEdit(desk_, {bridge->line, *to_});
    }
    Edit edit;
    edit.kind = EditKind::Bridge;
    edits::addEdit(desk_, QObject::tr("move a bridge"), bridge->line, edit, to_->at);
}

} // namespace

std::unique_ptr<Tool> bridgeTool(Desk& desk) { return std::make_unique<BridgeTool>(desk); }

} // namespace yokai
