#include "bench/tools.h"
#include "desk/node_edits.h"

#include <limits>

namespace yokai {

namespace {

constexpr double nearALine = 12; // logical pixels to either side of a line

// Touch-up: what is done to a line by a press on it.
class LineTool : public HeldTool {
public:
    explicit LineTool(Desk& desk) : HeldTool(desk, {Hold::RoundCorner, Hold::Tab, Hold::Hole, Hold::DropPath, Hold::AddNode, Hold::PlaceEdit}) {}
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override
    {
        return desk_.hand().hold == Hold::Hole || under(at) ? std::optional(Qt::CrossCursor) : std::nullopt;
    }
    bool press(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { from_.reset(); }

private:
    std::optional<edits::OnLine> under(const Pointer& at) const
    {
        const double mm = nearALine * at.mmAPixel;
        return desk_.hand().hold == Hold::RoundCorner ? edits::cornerNear(desk_, at.place(), mm) : edits::lineNear(desk_, at.place(), mm);
    }
    void done(const Pointer& at, const edits::OnLine& from);
    std::optional<edits::OnLine> from_; // where it was pressed
};

bool LineTool::press(const Pointer& at)
{
    if (!at.left() || !desk_.current())
        return false;
    from_ = under(at);
    // A hole may stand off the line, and belongs to the nearest.
    if (!from_ && desk_.hand().hold == Hold::Hole)
        from_ = edits::lineNear(desk_, at.place(), std::numeric_limits<double>::infinity());
    if (!from_)
        desk_.say(desk_.hand().hold == Hold::RoundCorner ? QObject::tr("There is no corner here; press one of the pointed nodes.")
                                                         : QObject::tr("There is no line here; press on one."));
    return true;
}

void LineTool::release(const Pointer& at)
{
    if (const auto from = std::exchange(from_, std::nullopt))
        done(at, *from);
}

void LineTool::done(const Pointer& at, const edits::OnLine& from)
{
    const Hand& hand = desk_.hand();
    Edit edit;
    switch (hand.hold) {
    case Hold::RoundCorner:
        edit.kind = EditKind::Round;
        edit.size = hand.radius;
        return edits::addEdit(desk_, QObject::tr("round a corner"), from.line, edit, from.place.at);
    case Hold::Tab:
        edit.kind = EditKind::Tab;
        edit.size = hand.tab;
        edit.hole = hand.tabHole;
        edit.upright = hand.upright;
        return edits::addEdit(desk_, QObject::tr("add a tab"), from.line, edit, from.place.at);
    case Hold::Hole:
        edit.kind = EditKind::Hole;
        edit.size = hand.hole;
        return edits::addEdit(desk_, QObject::tr("add a hole"), from.line, edit, at.place());
    case Hold::DropPath:
        edit.kind = EditKind::Drop;
        return edits::addEdit(desk_, QObject::tr("drop an outline"), from.line, edit, from.place.at);
    case Hold::AddNode:
        return edits::addNode(desk_, from);
    case Hold::PlaceEdit:
        edits::placeEdit(desk_, from);
        return desk_.hold(Hold::PlaceEdit); // put down
    default:
        return;
    }
}

} // namespace

std::unique_ptr<Tool> lineTool(Desk& desk) { return std::make_unique<LineTool>(desk); }

} // namespace yokai
