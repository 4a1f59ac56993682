#include "bench/tools.h"

namespace yokai {

namespace {

constexpr double reach = 7; // logical pixels to either side of a line

// At Cut lines: a cut line is dragged to the distance it should have.
class OffsetTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override;
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override;

private:
    double offsetAt(QPointF mm) const;   // of the line in hand, if it ran through there
    std::optional<std::size_t> line_;    // of those taken
    double grab_ = 0;                    // between the pointer and the line when it was taken, mm
    std::shared_ptr<const Shown> taken_; // what was on the bench then
    std::size_t at_ = 0;                 // the piece's place in it
};

bool OffsetTool::works() const { return desk_.station() == Station::CutLines && desk_.layerResult(); }

std::optional<Qt::CursorShape> OffsetTool::hover(const Pointer& at) const
{
    return at.hit && at.hit->lineAt(at.place(), reach * at.mmAPixel) ? std::optional(Qt::SizeAllCursor) : std::nullopt;
}

// The distance of an outline is measured from the edge, so that it is exact however the
// line ran; that of a figure goes on from where it is.
double OffsetTool::offsetAt(QPointF mm) const
{
    const PieceResult& r = taken_->derived.pieces[at_];
    const CutLine& line = r.layer(desk_.layerId()).lines[*line_];
    if (line.shape != LineShape::Outline)
        return line.offset.mm() + taken_->hit(at_, desk_.layerId())->distanceTo(*line_, {mm.x(), mm.y()});
    return signedDistance(r.layer(desk_.layerId()).parts->contours, {mm.x() * r.pxPerMm, mm.y() * r.pxPerMm}) / r.pxPerMm;
}

bool OffsetTool::press(const Pointer& at)
{
    const auto on = at.left() && at.hit ? at.hit->lineAt(at.place(), reach * at.mmAPixel) : std::nullopt;
    if (!on)
        return false;
    taken_ = desk_.sharedShown();
    at_ = std::size_t(desk_.currentResult() - taken_->derived.pieces.data());
    line_ = on->line;
    grab_ = desk_.layerResult()->lines[*line_].offset.mm() - offsetAt(at.mm);
    desk_.setLine(int(*line_));
    return true;
}

void OffsetTool::move(const Pointer& at)
{
    if (!line_ || !desk_.currentPiece())
        return;
    const double raw = offsetAt(at.mm) + grab_;
    // Steps that fit the unit; Shift for a tenth of them.
    const double coarse = desk_.unit() == Unit::Inch ? 25.4 / 64 : 0.05;
    const double step = (at.modifiers & Qt::ShiftModifier) ? coarse / 10 : coarse;
    const Limits limits = limitsOf(&LineSpec::offset);
    const Length offset = Length::mm(std::clamp(std::round(raw / step) * step, limits.least, limits.most));
    const Rect kept = taken_->derived.pieces[at_].layer(desk_.layerId()).kept;
    const double longer = std::max(kept.width(), kept.height());
    desk_.tryOut([&, id = desk_.currentPiece()->id](Job& job) {
        auto& lines = find(job, id)->lines();
        if (*line_ >= lines.size())
            return;
        lines[*line_].offset = offset;
        if (lines[*line_].percent && longer > 0) // stays a percentage, to a tenth
            lines[*line_].percent = std::round(offset.mm() / longer * 1000) / 10;
    });
}

void OffsetTool::release(const Pointer&)
{
    desk_.keep(QObject::tr("drag the offset"));
    line_.reset();
    taken_.reset();
}

void OffsetTool::cancel()
{
    desk_.drop();
    line_.reset();
    taken_.reset();
}

} // namespace

std::unique_ptr<Tool> offsetTool(Desk& desk) { return std::make_unique<OffsetTool>(desk); }

} // namespace yokai
