#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/machining.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

namespace yokai {

namespace {

// What is done on the bed: a measured mark is dragged to where the eye sees it, under a loupe. It also shows the head, with what the
// camera sees under it.
class BedTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::Cut && (!desk_.testCut() || onBed().patch) && !onBed().corners; }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override 
    {
        return patchUnder(at) ? std::optional(Qt::PointingHandCursor) : under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt;
    }
    bool press(const Pointer& at) override
    {
        if (!at.left() || desk_.machining().busy())
            return false;
        if (const auto square = patchUnder(at)) {
            desk_.machining().choosePatch(*square);
            return true;
        }
        const auto mark = under(at);
        if (!mark) {
            // A feature near the press is the next mark.
            constexpr double reach = 18; // logical pixels
            if (desk_.job().cut.marksBy == MarksBy::Picture && !desk_.machining().takeNear({at.place().x, -at.place().y}, reach * at.mmAPixel) && onBed().picture)
                desk_.say(Desk::tr("Nothing stands out there; press nearer to the mark, or zoom in."), Severity::Warning);
            return false;
        }
        mark_ = *mark;
        last_ = at.place();
        now_ = before_ = *onBed().marks[*mark].measured;
        moving_ = true;
        desk_.select(MarkSelected{int(*mark)});
        return true;
    }
    void move(const Pointer& at) override
    {
        now_ = now_ + Point{at.place().x - last_.x, last_.y - at.place().y} * at.pace();
        last_ = at.place();
    }
    void release(const Pointer&) override
    {
        if (std::exchange(moving_, false) && !(now_ == before_))
            desk_.machining().take(int(mark_), now_);
    }
    void cancel() override { moving_ = false; }
    void paint(QPainter& painter, const View& view, QPointF) const override
    {
        if (moving_) {
            // Above the hand, or below where there is no room.
            const QPointF at = view.toScreen(down(now_));
            const auto& picture = onBed().picture;
            if (picture)
                paint::loupe(painter, picture->image, {(now_.x - picture->corner.x) * picture->pxPerMm, (picture->corner.y - now_.y) * picture->pxPerMm}, 8 * picture->pxPerMm,
                             at + QPointF(0, at.y() > 240 ? -130 : 130));
            paint::tag(painter, view.toScreen(down(now_)) + QPointF(0, -34), QStringLiteral("%1, %2").arg(exactText(now_.x, desk_.unit(), false), exactText(now_.y, desk_.unit())));
            return;
        }
        if (onBed().head)
            head(painter, view);
    }

private:
    const OnBed& onBed() const { return desk_.machining().onBed(); }
    std::optional<std::size_t> under(const Pointer& at) const
    {
        constexpr double reach = 14; // logical pixels: its ring
        const auto& marks = onBed().marks;
        for (std::size_t k = 0; k < marks.size(); ++k)
            if (marks[k].measured && distance(Point{marks[k].measured->x, -marks[k].measured->y}, at.place()) < reach * at.mmAPixel)
                return k;
        return std::nullopt;
    }
    std::optional<std::size_t> patchUnder(const Pointer& at) const
    {
        const auto& patch = onBed().patch;
        for (std::size_t k = 0; patch && k < patch->patch.squares.size(); ++k)
            if (patch->square(k).contains({at.place().x, -at.place().y}))
                return k;
        return std::nullopt;
    }
    void head(QPainter& painter, const View& view) const
    {
        const Point at = onBed().head->at;
        const QPointF p = view.toScreen(down(at));
        for (const auto& [colour, width] : {std::pair(QColor(255, 255, 255, 220), 4.0), std::pair(theme::colours().accent, 2.0)}) {
            painter.setPen(QPen(colour, width));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(p, 8, 8);
            for (const QPointF d : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
                painter.drawLine(p + d * 8, p + d * 18);
        }
        paint::tag(painter, p + QPointF(0, 34), QStringLiteral("x %1  y %2").arg(exactText(at.x, desk_.unit(), false), exactText(at.y, desk_.unit())));
        if (!onBed().under && desk_.job().cut.marksBy == MarksBy::Hand)
            if (const auto& picture = onBed().picture) {
                const Point seen = seenFrom(at);
                // In a lower corner, the one the head is farther from.
                const QRectF bench(QPointF(), QSizeF(painter.viewport().size()) / painter.device()->devicePixelRatioF());
                const double x = p.x() > bench.center().x() && p.y() > bench.center().y() ? bench.left() + 120 : bench.right() - 90;
                paint::loupe(painter, picture->image, {(seen.x - picture->corner.x) * picture->pxPerMm, (picture->corner.y - seen.y) * picture->pxPerMm}, 6 * picture->pxPerMm,
                             QPointF(x, bench.bottom() - 90));
            }
    }
    // Where a camera beside the tool looks.
    Point seenFrom(Point head) const
    {
        const auto& machine = desk_.job().cut.plan.machine;
        return machine && machine->eye.kind == Eye::Camera ? head + Point{machine->eye.x.mm(), machine->eye.y.mm()} : head;
    }
    bool moving_ = false;
    std::size_t mark_ = 0;
    Point last_, now_, before_;
};

} // namespace

std::unique_ptr<Tool> bedTool(Desk& desk) { return std::make_unique<BedTool>(desk); }

} // namespace yokai
