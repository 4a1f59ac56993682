#include "bench/tools.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double dragged = 4;    // logical pixels: less is a touch
constexpr double nearACrumb = 6; // logical pixels round it

QRectF between(QPointF a, QPointF b) { return QRectF(a, b).normalized(); }

// Keep, with nothing in hand: touching selects a part, dragging selects what is enclosed.
class SelectTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return std::nullopt; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override { to_ = at.mm; }
    void release(const Pointer& at) override;
    void cancel() override { pressed_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    QPointF from_, to_; // mm
    bool adding_ = false;
    std::optional<QPointF> pressed_; // on the screen
};

bool SelectTool::works() const { return desk_.station() == Station::Keep && desk_.hand().hold == Hold::Nothing && desk_.layerResult(); }

bool SelectTool::press(const Pointer& at)
{
    if (!at.left())
        return false;
    pressed_ = at.screen;
    from_ = to_ = at.mm;
    adding_ = at.modifiers & Qt::ShiftModifier;
    return true;
}

void SelectTool::release(const Pointer& at)
{
    const auto pressed = std::exchange(pressed_, std::nullopt);
    const LayerResult* r = desk_.layerResult();
    if (!pressed || !r || !r->parts)
        return;
    std::vector<int> chosen = adding_ ? desk_.selectedParts() : std::vector<int>{};
    std::vector<unsigned char> in(r->parts->all.size(), 0);
    for (const int i : chosen)
        if (i < int(in.size()))
            in[std::size_t(i)] = 1;
    if ((at.screen - *pressed).manhattanLength() < dragged) {
        if (const int i = at.hit ? at.hit->partAt({from_.x(), from_.y()}, nearACrumb * at.mmAPixel) : -1; i >= 0)
            in[std::size_t(i)] = 1;
    } else {
        const QRectF box = between(from_, at.mm);
        for (std::size_t i = 0; i < in.size(); ++i)
            if (const Rect& b = r->parts->all[i].box; box.contains(QRectF(b.x0, b.y0, b.width(), b.height())))
                in[i] = 1;
    }
    PartsSelected selected;
    for (std::size_t i = 0; i < in.size(); ++i)
        if (in[i])
            selected.parts.push_back(int(i));
    desk_.select(std::move(selected));
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

} // namespace

std::unique_ptr<Tool> selectTool(Desk& desk) { return std::make_unique<SelectTool>(desk); }

} // namespace yokai
