#include "bench/paint.h"
#include "bench/scene.h"
#include "bench/sheet_view.h"
#include "bench/tools.h"
#include "desk/placings.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>

#include <numbers>

namespace yokai {

namespace {

constexpr double snapReach = 7;    // logical pixels
constexpr double knobAway = 26;    // logical pixels above the selection
constexpr double dragBegins = 3;   // logical pixels
constexpr double turnStep = 15;    // degrees, with Shift

// What is pulled to what: a line across the sheet to show it.
struct Pulled {
    double by = 0;
    std::optional<double> at;
};

// Copies on the sheets: a press selects, dragging moves, the knob turns, a box on the empty sheet selects many.
class PlacingTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return onSheet(desk_.station()) && desk_.station() != Station::Cut && desk_.shown(); }
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override;
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { doing_ = Doing::Nothing; }
    std::optional<Carried> carried() const override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    enum class Doing { Nothing, Pressing, Moving, Turning, Boxing };
    const Layout& layout() const { return desk_.shown()->derived.sheet; }
    const Placement* under(const Pointer& at, int& sheet) const;
    Point onSheetMm(const Pointer& at, int sheet) const { return at.place() - Point{sheetAt(layout(), sheet, desk_.sheet()).x(), 0}; }
    Rect selectionBox() const; // on the bench, mm
    Affine change() const; // of what is moved or turned, on the bench
    std::optional<QPointF> knob(double mmAPixel) const;
    Point snapped(Point by, const Pointer& at);
    Pulled pulled(double Rect::*from, double Rect::*to, const Rect& box, double pull) const;
    void selectBoxed();

    CopiesScene copies_;
    Doing doing_ = Doing::Nothing;
    Point pressed_, now_; // on the bench, mm
    QPointF pressedAt_;   // on the screen
    Point by_;
    double turned_ = 0;
    bool added_ = false; // Shift: what was selected stays so
    Pulled across_, down_;
    std::vector<Placement> moving_;
    std::optional<CopiesSelected::Copy> pressedOn_; // it was selected before
};

const Placement* PlacingTool::under(const Pointer& at, int& sheet) const
{
    sheet = sheetUnder(layout(), at.mm.x(), desk_.sheet());
    if (sheet < 0 || sheet >= layout().sheets)
        return nullptr;
    const Point mm = onSheetMm(at, sheet);
    const auto on = layout().on(sheet);
    // What lies on top was placed last.
    for (auto place = on.rbegin(); place != on.rend(); ++place)
        if (desk_.shown()->covers(place->at, place->toSheet.inverse()(mm)))
            return &*place;
    return nullptr;
}

Rect PlacingTool::selectionBox() const
{
    Rect all = Rect::nothing();
    for (const Placement& p : edits::selectedCopies(desk_)) {
        const QPointF at = sheetAt(layout(), p.sheet, desk_.sheet());
        all.add(edits::boxOf(desk_, p).moved({at.x(), at.y()}));
    }
    return all;
}

std::optional<QPointF> PlacingTool::knob(double mmAPixel) const
{
    const Rect box = selectionBox();
    if (box.empty())
        return std::nullopt;
    return QPointF(box.centre().x, box.y0 - knobAway * mmAPixel);
}

std::optional<Qt::CursorShape> PlacingTool::hover(const Pointer& at) const
{
    if (const auto k = knob(at.mmAPixel); k && QLineF(*k, at.mm).length() < snapReach * at.mmAPixel)
        return Qt::SizeHorCursor;
    int sheet = 0;
    if (under(at, sheet))
        return Qt::SizeAllCursor;
    return std::nullopt;
}

bool PlacingTool::press(const Pointer& at)
{
    if (!at.left() || desk_.station() != Station::Sheet) {
        int sheet = 0;
        if (const Placement* copy = at.left() ? under(at, sheet) : nullptr)
            for (std::size_t i = 0; i < desk_.job().pieces.size(); ++i)
                if (desk_.job().pieces[i].id == copy->piece)
                    desk_.setPiece(int(i));
        return false;
    }
    pressed_ = now_ = at.place();
    pressedAt_ = at.screen;
    by_ = {};
    turned_ = 0;
    across_ = down_ = {};
    added_ = at.modifiers & Qt::ShiftModifier;
    if (const auto k = knob(at.mmAPixel); k && QLineF(*k, at.mm).length() < snapReach * at.mmAPixel && desk_.current()) {
        moving_ = edits::selectedCopies(desk_);
        doing_ = Doing::Turning;
        return true;
    }
    int sheet = 0;
    const Placement* copy = under(at, sheet);
    if (sheet >= 0 && sheet < layout().sheets && !copy)
        desk_.setSheet(sheet); // what was pressed comes to be the one that is looked at
    if (!copy) {
        if (!added_)
            desk_.select({});
        doing_ = Doing::Boxing;
        return true;
    }
    const CopiesSelected::Copy name = edits::nameOf(*copy);
    const PieceId piece = copy->piece;
    std::vector<CopiesSelected::Copy> copies;
    if (const auto* selected = std::get_if<CopiesSelected>(&desk_.selection()))
        copies = selected->copies;
    const auto there = std::find(copies.begin(), copies.end(), name);
    const bool stays = there != copies.end();
    if (!added_ && !stays)
        copies.clear();
    if (!stays)
        copies.push_back(name);
    else
        std::rotate(there, there + 1, copies.end()); // picked last
    // One that is selected already may be dragged with the others; a mere press chooses it alone, or with Shift leaves it out.
    pressedOn_ = stays ? std::optional(name) : std::nullopt;
    for (std::size_t i = 0; i < desk_.job().pieces.size(); ++i)
        if (desk_.job().pieces[i].id == piece)
            desk_.setPiece(int(i));
    edits::selectCopies(desk_, copies);
    doing_ = Doing::Pressing;
    return true;
}

// To the margin, the sheet's middle, and to the sides and middles of what else lies there, with and without the gap.
Pulled PlacingTool::pulled(double Rect::*from, double Rect::*to, const Rect& box, double pull) const
{
    const double gap = desk_.job().sheet.gap.mm();
    std::vector<std::pair<double, double>> pairs; // of the box, and of the sheet
    const Rect area = layoutArea(desk_.job().sheet), sheet{0, 0, layout().width, layout().height};
    const double middle = (box.*from + box.*to) / 2;
    pairs.push_back({box.*from, area.*from});
    pairs.push_back({box.*to, area.*to});
    pairs.push_back({middle, (sheet.*from + sheet.*to) / 2});
    const int on = moving_.empty() ? 0 : moving_.back().sheet;
    for (const Placement& p : layout().on(on)) {
        if (std::any_of(moving_.begin(), moving_.end(), [&](const Placement& m) { return m.at == p.at && m.copy == p.copy; }))
            continue;
        const Rect other = edits::boxOf(desk_, p);
        pairs.insert(pairs.end(), {{box.*from, other.*from}, {box.*to, other.*to}, {middle, (other.*from + other.*to) / 2}, {box.*from, other.*to + gap}, {box.*to, other.*from - gap}});
    }
    Pulled best;
    double nearest = pull;
    for (const auto& [own, wanted] : pairs)
        if (std::abs(wanted - own) < nearest) {
            nearest = std::abs(wanted - own);
            best = {wanted - own, wanted};
        }
    return best;
}

Point PlacingTool::snapped(Point by, const Pointer& at)
{
    across_ = down_ = {};
    if (at.modifiers & Qt::ShiftModifier) // along one axis
        by = std::abs(by.x) > std::abs(by.y) ? Point{by.x, 0} : Point{0, by.y};
    if ((at.modifiers & Qt::ControlModifier) || moving_.empty())
        return by;
    Rect box = Rect::nothing();
    for (const Placement& p : moving_)
        box.add(edits::boxOf(desk_, p));
    box = box.moved(by);
    const double pull = snapReach * at.mmAPixel;
    across_ = pulled(&Rect::x0, &Rect::x1, box, pull);
    down_ = pulled(&Rect::y0, &Rect::y1, box, pull);
    return by + Point{across_.by, down_.by};
}

void PlacingTool::move(const Pointer& at)
{
    now_ = at.place();
    if (doing_ == Doing::Pressing && QLineF(pressedAt_, at.screen).length() > dragBegins && desk_.current()) {
        moving_ = edits::selectedCopies(desk_);
        std::erase_if(moving_, [&](const Placement& p) {
            const Placing* own = edits::placingOf(desk_, p);
            return p.lies || (own && own->locked);
        });
        if (moving_.empty())
            desk_.say(Desk::tr("These copies are locked, or lie on the sheet already; unlock those that are locked to move them."), Severity::Warning);
        doing_ = moving_.empty() ? Doing::Nothing : Doing::Moving;
    }
    if (doing_ == Doing::Moving)
        by_ = snapped(now_ - pressed_, at);
    if (doing_ == Doing::Turning) {
        const Point middle = selectionBox().centre(), from = pressed_ - middle, to = now_ - middle;
        turned_ = std::remainder((std::atan2(to.y, to.x) - std::atan2(from.y, from.x)) * 180 / std::numbers::pi, 360);
        if (at.modifiers & Qt::ShiftModifier)
            turned_ = std::round(turned_ / turnStep) * turnStep;
    }
}

void PlacingTool::release(const Pointer& at)
{
    const Doing did = std::exchange(doing_, Doing::Nothing);
    if (did == Doing::Turning && turned_ != 0)
        edits::turnCopies(desk_, turned_);
    if (did == Doing::Boxing)
        selectBoxed();
    if (did == Doing::Pressing && pressedOn_) {
        std::vector<CopiesSelected::Copy> copies{*pressedOn_};
        if (const auto* selected = std::get_if<CopiesSelected>(&desk_.selection()); selected && added_) {
            copies = selected->copies;
            std::erase(copies, *pressedOn_);
        }
        edits::selectCopies(desk_, copies);
    }
    if (did != Doing::Moving || by_ == Point{} || moving_.empty())
        return;
    // Let go over another sheet it goes there; past the last, onto a new one.
    const int from = moving_.back().sheet, to = std::clamp(sheetUnder(layout(), at.mm.x(), desk_.sheet()), 0, layout().sheets);
    const Point by = by_ - Point{sheetAt(layout(), to, from).x(), 0};
    edits::moveCopies(desk_, by, to - from);
}

void PlacingTool::selectBoxed()
{
    Rect box = Rect::nothing();
    box.add(pressed_);
    box.add(now_);
    std::vector<CopiesSelected::Copy> copies;
    if (const auto* selected = std::get_if<CopiesSelected>(&desk_.selection()); selected && added_)
        copies = selected->copies;
    for (const Placement& p : layout().placements) {
        const QPointF at = sheetAt(layout(), p.sheet, desk_.sheet());
        const Rect own = edits::boxOf(desk_, p).moved({at.x(), at.y()});
        if (box.contains({own.x0, own.y0}) && box.contains({own.x1, own.y1}))
            copies.push_back(edits::nameOf(p));
    }
    if (!copies.empty())
        edits::selectCopies(desk_, copies);
}

Affine PlacingTool::change() const
{
    if (doing_ != Doing::Turning)
        return Affine::move(by_.x, by_.y);
    const Point middle = selectionBox().centre();
    return Affine::move(middle.x, middle.y) * Affine::turn(turned_ * std::numbers::pi / 180) * Affine::move(-middle.x, -middle.y);
}

std::optional<Carried> PlacingTool::carried() const
{
    return doing_ == Doing::Moving || doing_ == Doing::Turning ? std::optional<Carried>({&copies_, change()}) : std::nullopt;
}

void PlacingTool::paint(QPainter& painter, const View& view, QPointF) const
{
    if (desk_.station() != Station::Sheet)
        return;
    const auto& c = theme::colours();
    if (doing_ == Doing::Boxing) {
        painter.setPen(QPen(c.accent, 1, Qt::DashLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(view.toScreen(q(pressed_)), view.toScreen(q(now_))).normalized());
        return;
    }
    if (doing_ == Doing::Moving || doing_ == Doing::Turning) {
        painter.setPen(QPen(c.accent, 1, Qt::DashLine));
        painter.drawPolygon((q(change()) * view.transform()).map(QPolygonF(q(selectionBox()))));
        const QPointF own = moving_.empty() ? QPointF() : sheetAt(layout(), moving_.back().sheet, desk_.sheet());
        painter.setPen(QPen(c.accent, 1));
        if (doing_ == Doing::Moving && across_.at)
            painter.drawLine(view.toScreen(own + QPointF(*across_.at, 0)), view.toScreen(own + QPointF(*across_.at, layout().height)));
        if (doing_ == Doing::Moving && down_.at)
            painter.drawLine(view.toScreen(own + QPointF(0, *down_.at)), view.toScreen(own + QPointF(layout().width, *down_.at)));
        const QString text = doing_ == Doing::Turning ? QStringLiteral("%1\u00b0").arg(number(turned_, 1))
                                                      : QStringLiteral("%1, %2").arg(exactText(by_.x, desk_.unit(), false), exactText(by_.y, desk_.unit()));
        paint::tag(painter, view.toScreen(q(now_)) + QPointF(0, -22), text);
        return;
    }
    if (const auto k = knob(1 / view.scale)) {
        const Rect box = selectionBox();
        painter.setPen(QPen(c.accent, 1.4));
        painter.drawLine(view.toScreen(*k), view.toScreen(QPointF(box.centre().x, box.y0)));
        painter.setBrush(Qt::white);
        painter.drawEllipse(view.toScreen(*k), 5, 5);
    }
}

} // namespace

std::unique_ptr<Tool> placingTool(Desk& desk) { return std::make_unique<PlacingTool>(desk); }

} // namespace yokai
