#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/machining.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

// The bed's corners in a photo of it, dragged under a loupe.
class CornerTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return desk_.station() == Station::Cut && desk_.machining().onBed().corners; }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt; }
    bool press(const Pointer& at) override
    {
        corner_ = at.left() ? under(at) : std::nullopt;
        if (corner_) {
            before_ = now_ = corners()[*corner_];
            last_ = at.place();
        }
        return corner_.has_value();
    }
    void move(const Pointer& at) override
    {
        if (!corner_)
            return;
        now_ = now_ + (at.place() - last_) * at.pace();
        last_ = at.place();
        desk_.machining().setCorner(*corner_, now_);
    }
    void release(const Pointer&) override { corner_.reset(); }
    void cancel() override
    {
        if (corner_ && works())
            desk_.machining().setCorner(*corner_, before_);
        corner_.reset();
    }
    void paint(QPainter& painter, const View& view, QPointF) const override
    {
        const QString names[] = {Desk::tr("near left"), Desk::tr("near right"), Desk::tr("far right"), Desk::tr("far left")};
        for (std::size_t k = 0; k < 4; ++k) {
            const QPointF at = view.toScreen(q(corners()[k]));
            painter.setPen(QPen(Qt::white, 2));
            painter.setBrush(theme::colours().accent);
            painter.drawEllipse(at, 7, 7);
            paint::tag(painter, at + QPointF(0, k < 2 ? 24 : -24), names[k]);
        }
        if (!corner_)
            return;
        constexpr double across = 60; // pixels of the photo
        const QPointF at = view.toScreen(q(corners()[*corner_]));
        paint::loupe(painter, desk_.machining().onBed().photo->image, corners()[*corner_], across, at + QPointF(0, *corner_ < 2 ? -130 : 130));
    }

private:
    const BedCorners& corners() const { return *desk_.machining().onBed().corners; }
    std::optional<std::size_t> under(const Pointer& at) const
    {
        constexpr double reach = 12; // logical pixels
        for (std::size_t k = 0; k < 4; ++k)
            if (distance(corners()[k], at.place()) < reach * at.mmAPixel)
                return k;
        return std::nullopt;
    }
    std::optional<std::size_t> corner_;
    Point last_, before_, now_;
};

} // namespace

std::unique_ptr<Tool> cornerTool(Desk& desk) { return std::make_unique<CornerTool>(desk); }

} // namespace yokai
