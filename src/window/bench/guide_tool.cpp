#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/piece_edits.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double shortest = 0.5; // mm: a guide shorter than this was no drag

// Artwork: a line drawn along what should be level or upright, to which the picture turns; or along what is of a known length, by which it is sized.
class GuideTool : public HeldTool {
public:
    explicit GuideTool(Desk& desk) : HeldTool(desk, {Hold::Guide, Hold::Measure}) {}
    bool press(const Pointer& at) override
    {
        if (at.left())
            from_ = to_ = at.mm;
        return at.left();
    }
    void move(const Pointer& at) override { to_ = at.mm; }
    void release(const Pointer& at) override;
    void cancel() override { from_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::optional<QPointF> from_; // mm
    QPointF to_;
};

void GuideTool::release(const Pointer& at)
{
    const auto from = std::exchange(from_, std::nullopt);
    if (!from || std::hypot(at.mm.x() - from->x(), at.mm.y() - from->y()) < shortest)
        return;
    if (desk_.hand().hold == Hold::Measure) {
        const PieceResult* r = desk_.currentResult();
        if (!r)
            return;
        Hand hand = desk_.hand();
        hand.measured = Measured{edits::toSource(*r, *from), edits::toSource(*r, at.mm)};
        desk_.setHand(hand);
        return;
    }
    edits::straightenAlong(desk_, *from, at.mm);
    desk_.hold(Hold::Guide); // done: put down
}

void GuideTool::paint(QPainter& painter, const View& view, QPointF) const
{
    const bool measures = desk_.hand().hold == Hold::Measure;
    std::optional<QPointF> from = from_;
    QPointF to = to_;
    if (const auto& measured = desk_.hand().measured; !from && measured && desk_.currentPiece()) {
        const Affine toMm = desk_.currentPiece()->artwork.sourceToMm();
        from = q(toMm(measured->from));
        to = q(toMm(measured->to));
    }
    if (!from)
        return;
    const auto& c = theme::colours();
    const QPointF a = view.toScreen(*from), b = view.toScreen(to), d = to - *from;
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3.6), QPen(c.accent, 1.6)}) {
        painter.setPen(pen);
        painter.drawLine(a, b);
    }
    painter.setPen(QPen(Qt::white, 1.4));
    painter.setBrush(c.accent);
    painter.drawEllipse(a, 4, 4);
    painter.drawEllipse(b, 4, 4);
    const double angle = std::atan2(d.y(), d.x()) * 180 / M_PI, off = angle - 90 * std::round(angle / 90);
    if (const double length = std::hypot(d.x(), d.y()); length > 0.5)
        paint::tag(painter, (a + b) / 2 - QPointF(0, 20), measures ? exactText(length, desk_.unit()) : number(-off, 2) + QStringLiteral("\u00b0"));
}

} // namespace

std::unique_ptr<Tool> guideTool(Desk& desk) { return std::make_unique<GuideTool>(desk); }

} // namespace yokai
