#include "bench/tools.h"
#include "desk/line_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double onTheMark = 12; // logical pixels round its middle

// Touch-up, with nothing in hand: the selected edit is dragged along the line by its mark; a hole anywhere.
class EditTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::TouchUp && desk_.hand().hold == Hold::Nothing && chosen(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return onMark(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt; }
    bool press(const Pointer& at) override
    {
        dragging_ = at.left() && desk_.current() && onMark(at);
        to_.reset();
        return dragging_;
    }
    void move(const Pointer& at) override
    {
        if (dragging_)
            to_ = edits::lineNear(desk_, at.place(), std::numeric_limits<double>::infinity());
        place_ = at.place();
    }
    void release(const Pointer&) override
    {
        if (std::exchange(dragging_, false) && to_)
            edits::placeEdit(desk_, *to_, isHole() ? std::optional(place_) : std::nullopt);
    }
    void cancel() override { dragging_ = false; }
    void paint(QPainter& painter, const View& view, QPointF) const override
    {
        if (!dragging_ || !to_)
            return;
        const QPointF at = view.toScreen(q(isHole() ? place_ : to_->place.at));
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(QColor(255, 255, 255, 200), 4.4));
        painter.drawEllipse(at, onTheMark, onTheMark);
        painter.setPen(QPen(theme::colours().accent, 2));
        painter.drawEllipse(at, onTheMark, onTheMark);
    }

private:
    // Whose place can be moved: a region lies where it was drawn.
    std::optional<edits::EditOf> chosen() const
    {
        const Edit* edit = edits::selectedEdit(desk_);
        if (edit && !isArea(edit->kind) && edit->kind != EditKind::RoundInside)
            for (const edits::EditOf& of : edits::allEdits(desk_))
                if (of.edit == edit && of.outcome)
                    return of;
        return std::nullopt;
    }
    bool onMark(const Pointer& at) const
    {
        const auto of = chosen();
        return of && distance(of->outcome->at, at.place()) < onTheMark * at.mmAPixel;
    }
    bool isHole() const
    {
        const Edit* edit = edits::selectedEdit(desk_);
        return edit && edit->kind == EditKind::Hole;
    }
    bool dragging_ = false;
    std::optional<edits::OnLine> to_;
    Point place_;
};

} // namespace

std::unique_ptr<Tool> editTool(Desk& desk) { return std::make_unique<EditTool>(desk); }

} // namespace yokai
