#include "bench/paint.h"
#include "bench/sheet_view.h"
#include "bench/tools.h"
#include "theme/theme.h"
#include "words.h"

#include <QLineF>
#include <QPainter>

namespace yokai {

namespace {

// Registration marks, dragged: every sheet has them in the same places.
class MarkTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::Sheet && desk_.shown(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt; }
    bool press(const Pointer& at) override
    {
        const auto mark = at.left() && desk_.current() ? under(at) : std::nullopt;
        if (!mark)
            return false;
        mark_ = *mark;
        from_ = now_ = at.place();
        moving_ = true;
        return true;
    }
    void move(const Pointer& at) override { now_ = at.place(); }
    void release(const Pointer&) override
    {
        if (std::exchange(moving_, false) && !(now_ == from_))
            desk_.edit(Desk::tr("move a mark"), [&](Job& job) {
                std::vector<MarkPlace>& places = job.sheet.marks.places;
                const std::vector<Mark> marks = marksOf(job.sheet);
                places.clear();
                for (std::size_t k = 0; k < marks.size(); ++k) {
                    const Point at = k == mark_ ? marks[k].centre + (now_ - from_) : marks[k].centre;
                    places.push_back({Length::mm(at.x), Length::mm(at.y)});
                }
            });
    }
    void cancel() override { moving_ = false; }
    void paint(QPainter& painter, const View& view, QPointF) const override
    {
        if (!moving_ || mark_ >= desk_.shown()->derived.sheet.marks.size())
            return;
        const Mark& m = desk_.shown()->derived.sheet.marks[mark_];
        const Point at = m.centre + (now_ - from_);
        painter.setPen(QPen(theme::colours().accent, 1.6));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(view.toScreen(q(at)), m.diameter / 2 * view.scale, m.diameter / 2 * view.scale);
        paint::tag(painter, view.toScreen(q(at)) + QPointF(0, -24), QStringLiteral("%1, %2").arg(exactText(at.x, desk_.unit(), false), exactText(at.y, desk_.unit())));
    }

private:
    std::optional<std::size_t> under(const Pointer& at) const
    {
        const Layout& layout = desk_.shown()->derived.sheet;
        constexpr double reach = 4; // logical pixels beyond its ink
        for (std::size_t k = 0; k < layout.marks.size(); ++k)
            if (distance(layout.marks[k].centre, at.place()) < layout.marks[k].diameter / 2 + reach * at.mmAPixel)
                return k;
        return std::nullopt;
    }
    bool moving_ = false;
    std::size_t mark_ = 0;
    Point from_, now_;
};

} // namespace

std::unique_ptr<Tool> markTool(Desk& desk) { return std::make_unique<MarkTool>(desk); }

} // namespace yokai
