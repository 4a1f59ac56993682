#include "bench/paint.h"
#include "bench/sheet_view.h"
#include "bench/tools.h"
#include "desk/mark_edits.h"
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
        if (!at.left() || !desk_.current())
            return false;
        const auto mark = under(at);
        reach_ = featureReach * at.mmAPixel;
        if (!mark && desk_.hand().hold == Hold::MarkFeature) {
            if (!edits::markFeature(desk_, at.place(), reach_))
                nothingThere();
            return true;
        }
        if (!mark)
            return false;
        desk_.select(MarkSelected{int(*mark)});
        mark_ = *mark;
        from_ = now_ = at.place();
        moving_ = true;
        return true;
    }
    void move(const Pointer& at) override { now_ = at.place(); }
    void release(const Pointer&) override
    {
        if (!std::exchange(moving_, false) || now_ == from_)
            return;
        if (edits::isFeature(desk_, int(mark_))) {
            if (!edits::moveFeature(desk_, int(mark_), now_, reach_))
                nothingThere();
        } else
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
        ownMarks(painter, view);
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
    static constexpr double featureReach = 24; // logical pixels about where it is pressed
    void nothingThere() { desk_.say(Desk::tr("Nothing stands out there; press nearer to the cross, or zoom in."), Severity::Warning); }
    // Those that are not printed.
    void ownMarks(QPainter& painter, const View& view) const
    {
        const auto* selected = std::get_if<MarkSelected>(&desk_.selection());
        const auto& marks = desk_.shown()->derived.sheet.marks;
        for (std::size_t k = 0; k < marks.size(); ++k) {
            if (isPrinted(marks[k]))
                continue;
            const QPointF at = view.toScreen(q(marks[k].centre));
            painter.setBrush(Qt::NoBrush);
            for (const auto& pen : {QPen(QColor(255, 255, 255, 220), 4), QPen(theme::colours().accent, selected && selected->mark == int(k) ? 3 : 1.6)}) {
                painter.setPen(pen);
                painter.drawEllipse(at, 12, 12);
            }
            paint::tag(painter, at + QPointF(0, 26), QString::number(k + 1));
        }
    }
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
    double reach_ = 0; // mm
    Point from_, now_;
};

} // namespace

std::unique_ptr<Tool> markTool(Desk& desk) { return std::make_unique<MarkTool>(desk); }

} // namespace yokai
