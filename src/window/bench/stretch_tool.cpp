#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/node_edits.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

constexpr double besideALine = 12; // logical pixels
constexpr double aPress = 6;       // a shorter drag is one

// Touch-up: from one place of an outline to another. What lies between gets another shape, goes, or is made
// simpler; two open ends are joined.
class StretchTool : public HeldTool {
public:
    explicit StretchTool(Desk& desk) : HeldTool(desk, {Hold::Stretch, Hold::Join, Hold::Simplify}) {}
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return under(at) ? std::optional(Qt::CrossCursor) : std::nullopt; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { from_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF) const override;

private:
    std::optional<edits::OnLine> under(const Pointer& at) const
    {
        const double mm = besideALine * at.mmAPixel;
        return desk_.hand().hold == Hold::Join ? edits::endNear(desk_, at.place(), mm) : edits::lineNear(desk_, at.place(), mm);
    }
    bool drawn() const { return desk_.hand().hold == Hold::Stretch && desk_.hand().stretchAs == StretchAs::Drawn; }
    std::optional<edits::OnLine> from_; // where it was pressed
    QPointF pressed_;                   // on the screen
    Polyline way_;
};

bool StretchTool::press(const Pointer& at)
{
    if (!at.left() || !desk_.current())
        return false;
    from_ = under(at);
    pressed_ = at.screen;
    way_ = {at.place()};
    if (!from_)
        desk_.say(desk_.hand().hold == Hold::Join ? QObject::tr("There is no open end here.") : QObject::tr("There is no line here; press on one."));
    return true;
}

void StretchTool::move(const Pointer& at)
{
    if (!drawn())
        way_.resize(1);
    way_.push_back(at.place());
}

void StretchTool::release(const Pointer& at)
{
    const auto from = std::exchange(from_, std::nullopt);
    if (!from)
        return;
    const bool pressedOnly = (at.screen - pressed_).manhattanLength() < aPress;
    const auto to = under(at);
    if (desk_.hand().hold == Hold::Simplify) {
        // A press is about what is selected there, or all of the outline; a drag about what it went along.
        const auto selected = pressedOnly ? edits::selectedStretch(desk_, *from) : std::nullopt;
        const auto edit = selected ? edits::stretchEdit(desk_, EditKind::Simplify, selected->first, selected->second)
                                   : edits::stretchEdit(desk_, EditKind::Simplify, *from, pressedOnly || !to ? *from : *to);
        if (!edit)
            return;
        edits::NewEdit made = *edit;
        made.edit.size = desk_.hand().simplify;
        return edits::addEdits(desk_, QObject::tr("simplify an outline"), from->line, {made});
    }
    if (pressedOnly)
        return desk_.say(QObject::tr("Drag along the line, from one place to another."));
    if (!to || to->line != from->line || to->place.path != from->place.path)
        if (desk_.hand().hold != Hold::Join || !to)
            return desk_.say(QObject::tr("Let go on the same outline."));
    if (desk_.hand().hold == Hold::Join)
        return edits::joinEnds(desk_, *from, *to);
    // Of what was drawn the ends lie on the line, whatever the hand did there.
    Polyline drawnWay(way_.begin() + std::ptrdiff_t(std::min<std::size_t>(1, way_.size())), way_.end());
    std::erase_if(drawnWay, [&](Point p) { return distance(p, from->place.at) < at.mmAPixel || distance(p, to->place.at) < at.mmAPixel; });
    edits::redrawStretch(desk_, *from, *to, desk_.hand().stretchAs, drawnWay);
}

void StretchTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (!from_ || way_.size() < 2)
        return;
    Polyline line = way_;
    line.front() = from_->place.at;
    paint::draft(painter, line, view, desk_.hand().stretchAs == StretchAs::Nothing || desk_.hand().hold == Hold::Simplify);
}

} // namespace

std::unique_ptr<Tool> stretchTool(Desk& desk) { return std::make_unique<StretchTool>(desk); }

} // namespace yokai
