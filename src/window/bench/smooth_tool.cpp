#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/line_edits.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

namespace yokai {

namespace {

// Touch-up: a brush along a line. What it has gone over is smoothed while it goes on, and how far that
// comes away from where it was is said.
class SmoothTool : public HeldTool {
public:
    explicit SmoothTool(Desk& desk) : HeldTool(desk, {Hold::Smooth}) {}
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return Qt::BlankCursor; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override
    {
        if (std::exchange(from_, std::nullopt))
            desk_.drop();
    }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    double reach(const Pointer& at) const { return std::max(desk_.hand().smooth.mm() / 2, 8 * at.mmAPixel); }
    std::optional<edits::OnLine> onPath(const Pointer& at) const; // the place of the outline begun on, as it was
    void tryIt();
    std::optional<edits::OnLine> from_;
    std::shared_ptr<const Paths> paths_; // as they were
    double back_ = 0, ahead_ = 0;        // how far it has gone, along the path
};

bool SmoothTool::press(const Pointer& at)
{
    if (!at.left() || !desk_.current())
        return false;
    from_ = edits::lineNear(desk_, at.place(), reach(at));
    if (!from_) {
        desk_.say(QObject::tr("There is no line here; press on one."));
        return true;
    }
    paths_ = desk_.layerResult()->lines[from_->line].paths;
    back_ = ahead_ = 0;
    return true;
}

std::optional<edits::OnLine> SmoothTool::onPath(const Pointer& at) const
{
    auto near = nearestPlace({(*paths_)[from_->place.path]}, at.place());
    if (!near || near->away > reach(at))
        return std::nullopt;
    near->path = from_->place.path;
    return edits::OnLine{from_->line, *near};
}

void SmoothTool::move(const Pointer& at)
{
    const auto to = from_ ? onPath(at) : std::nullopt;
    if (!to)
        return;
    const Path& path = (*paths_)[from_->place.path];
    const double whole = length(path);
    double gone = wayTo(path, to->place) - wayTo(path, from_->place);
    if (path.closed) // the nearer way round to where it is
        while (gone - (back_ + ahead_) / 2 > whole / 2)
            gone -= whole;
    if (path.closed)
        while (gone - (back_ + ahead_) / 2 < -whole / 2)
            gone += whole;
    back_ = std::min(back_, gone);
    ahead_ = std::max(ahead_, gone);
    tryIt();
}

void SmoothTool::tryIt()
{
    const Path& path = (*paths_)[from_->place.path];
    Edit edit;
    edit.kind = EditKind::Smooth;
    edit.size = desk_.hand().smooth;
    const double margin = desk_.hand().smooth.mm() / 2; // the brush's own width
    std::optional<Edit> made;
    if (path.closed && ahead_ - back_ + 2 * margin >= length(path)) {
        made = edits::anchored(desk_, from_->line, edit, from_->place.at);
    } else {
        const bool mirror = desk_.currentResult()->sourceToMm.det() < 0;
        const double whole = length(path), begin = wayTo(path, from_->place);
        const double low = path.closed ? back_ - margin : std::max(-begin, back_ - margin), high = path.closed ? ahead_ + margin : std::min(whole - begin, ahead_ + margin);
        const Point a = along(path, from_->place, low).at, b = along(path, from_->place, high).at;
        made = edits::anchored(desk_, from_->line, edit, mirror ? b : a, mirror ? a : b);
    }
    if (!made)
        return;
    const LineId id = desk_.layerResult()->lines[from_->line].id;
    const PieceId piece = desk_.currentPiece()->id;
    desk_.tryOut([&](Job& job) {
        if (Piece* p = find(job, piece))
            for (LineSpec& line : p->lines())
                if (line.id == id)
                    line.edits.push_back(*made);
    });
}

void SmoothTool::release(const Pointer& at)
{
    if (!from_)
        return;
    if (!desk_.trying()) // a press: as wide as the brush
        tryIt();
    move(at);
    from_.reset();
    desk_.keep(QObject::tr("smooth a stretch"));
}

void SmoothTool::paint(QPainter& painter, const View& view, QPointF pointer) const
{
    if (pointer.isNull())
        return;
    const double across = std::max(6.0, desk_.hand().smooth.mm() * view.scale);
    painter.setBrush(Qt::NoBrush);
    for (const QPen& pen : {QPen(QColor(255, 255, 255, 220), 3), QPen(theme::colours().tag, 1.2)}) {
        painter.setPen(pen);
        painter.drawEllipse(pointer, across / 2, across / 2);
    }
    if (!from_ || !desk_.trying() || !desk_.layerResult() || from_->line >= desk_.layerResult()->lines.size())
        return;
    const CutLine& line = desk_.layerResult()->lines[from_->line];
    if (!line.edits.empty())
        paint::tag(painter, pointer - QPointF(0, across / 2 + 18),
                   QObject::tr("%1 off").arg(exactText(line.edits.back().strayed, desk_.unit())));
}

} // namespace

std::unique_ptr<Tool> smoothTool(Desk& desk) { return std::make_unique<SmoothTool>(desk); }

} // namespace yokai
