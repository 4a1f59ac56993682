#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/machining.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai {

namespace {

// What is done on the bed: a measured mark is dragged to where the eye sees it, under a loupe. It also shows the head, with what the
// camera sees under it.
class BedTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::Cut && !desk_.testCut(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt; }
    bool press(const Pointer& at) override
    {
        const auto mark = at.left() && !desk_.machining().busy() ? under(at) : std::nullopt;
        if (!mark)
            return false;
        mark_ = *mark;
        from_ = at.place();
        now_ = before_ = *onBed().marks[*mark].measured;
        moving_ = true;
        desk_.select(MarkSelected{int(*mark)});
        return true;
    }
    void move(const Pointer& at) override { now_ = before_ + Point{at.place().x - from_.x, from_.y - at.place().y}; }
    void release(const Pointer&) override
    {
        if (std::exchange(moving_, false) && !(now_ == before_))
            desk_.machining().take(int(mark_), now_);
    }
    void cancel() override { moving_ = false; }
    void paint(QPainter& painter, const View& view, QPointF) const override
    {
        if (moving_) {
            loupe(painter, view, now_, view.toScreen(down(now_)) + QPointF(0, -130), 8);
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
            loupe(painter, view, seenFrom(at), p + QPointF(110, -90), 6);
    }
    // Where a camera beside the tool looks.
    Point seenFrom(Point head) const
    {
        const auto& machine = desk_.job().cut.plan.machine;
        return machine && machine->eye.kind == Eye::Camera ? head + Point{machine->eye.x.mm(), machine->eye.y.mm()} : head;
    }
    // So many mm across of the bed, large.
    void loupe(QPainter& painter, const View&, Point at, QPointF middle, double across) const
    {
        const auto& picture = onBed().picture;
        if (!picture)
            return;
        constexpr double radius = 70; // logical pixels
        const QRectF box(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius);
        const QPointF px((at.x - picture->corner.x) * picture->pxPerMm, (picture->corner.y - at.y) * picture->pxPerMm);
        const double half = across / 2 * picture->pxPerMm;
        painter.save();
        QPainterPath round;
        round.addEllipse(box);
        painter.setClipPath(round);
        painter.fillRect(box, Qt::black);
        painter.setRenderHint(QPainter::SmoothPixmapTransform);
        painter.drawImage(box, picture->image, QRectF(px.x() - half, px.y() - half, 2 * half, 2 * half));
        painter.setPen(QPen(theme::colours().accent, 1));
        painter.drawLine(QPointF(box.left(), middle.y()), QPointF(box.right(), middle.y()));
        painter.drawLine(QPointF(middle.x(), box.top()), QPointF(middle.x(), box.bottom()));
        painter.restore();
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(Qt::white, 3));
        painter.drawEllipse(box);
        painter.setPen(QPen(theme::colours().ink, 1));
        painter.drawEllipse(box);
    }
    bool moving_ = false;
    std::size_t mark_ = 0;
    Point from_, now_, before_;
};

} // namespace

std::unique_ptr<Tool> bedTool(Desk& desk) { return std::make_unique<BedTool>(desk); }

} // namespace yokai
