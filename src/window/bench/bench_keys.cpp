// The bench's keys.

#include "bench/bench.h"

#include "desk/guides.h"
#include "job/colour_layers.h"
#include "desk/jogging.h"
#include "desk/machining.h"
#include "desk/mark_edits.h"
#include "desk/line_edits.h"
#include "desk/node_edits.h"
#include "desk/piece_edits.h"
#include "desk/placings.h"
#include "desk/tilt_edits.h"

#include <QKeyEvent>

namespace yokai {

// Single letters take a tool in hand, at the station where it works.
bool Bench::toolKey(QKeyEvent* event)
{
    if (event->modifiers() != Qt::NoModifier || desk_.job().pieces.empty())
        return false;
    static constexpr struct {
        int key;
        Station station;
        Hold hold;
    } keys[] = {{Qt::Key_G, Station::Artwork, Hold::Guide}, {Qt::Key_M, Station::Artwork, Hold::Measure},  {Qt::Key_C, Station::Artwork, Hold::Frame},   {Qt::Key_R, Station::Keep, Hold::RubOut},
                {Qt::Key_A, Station::Keep, Hold::BringBack}, {Qt::Key_L, Station::Keep, Hold::RubOutLike}, {Qt::Key_P, Station::Keep, Hold::Pick},
                {Qt::Key_X, Station::Keep, Hold::InsideBox}, {Qt::Key_C, Station::Bleed, Hold::ShowCut}, {Qt::Key_P, Station::Bleed, Hold::PickBleed}, {Qt::Key_O, Station::Keep, Hold::InsideLasso},
                {Qt::Key_U, Station::Keep, Hold::SubjectBox}, {Qt::Key_S, Station::Keep, Hold::SubjectIs}, {Qt::Key_N, Station::Keep, Hold::SubjectIsNot},
                {Qt::Key_L, Station::TouchUp, Hold::NodeLasso}, {Qt::Key_N, Station::TouchUp, Hold::AddNode},   {Qt::Key_S, Station::TouchUp, Hold::Stretch},
                {Qt::Key_J, Station::TouchUp, Hold::Join},      {Qt::Key_U, Station::TouchUp, Hold::Smooth},    {Qt::Key_M, Station::TouchUp, Hold::Simplify},
                {Qt::Key_R, Station::TouchUp, Hold::RoundCorner}, {Qt::Key_E, Station::TouchUp, Hold::Tab},     {Qt::Key_H, Station::TouchUp, Hold::Hole},
                {Qt::Key_D, Station::TouchUp, Hold::DropPath},  {Qt::Key_A, Station::TouchUp, Hold::AddArea},   {Qt::Key_X, Station::TouchUp, Hold::TakeArea},
                {Qt::Key_W, Station::TouchUp, Hold::BesideArea}, {Qt::Key_Q, Station::TouchUp, Hold::KeepArea}, {Qt::Key_G, Station::TouchUp, Hold::GuideLine}};
    if (event->key() == Qt::Key_Q && desk_.station() == Station::Artwork) {
        edits::holdCorners(desk_);
        return true;
    }
    for (const auto& k : keys)
        if (event->key() == k.key && desk_.station() == k.station) {
            const bool ofSubject = k.hold == Hold::SubjectBox || k.hold == Hold::SubjectIs || k.hold == Hold::SubjectIsNot;
            if (ofSubject && isLayered(*desk_.currentPiece())) // colours are told apart, and no subject is looked for
                return false;
            // A colour that is picked is of what is kept, or a layer.
            desk_.hold(k.hold == Hold::Pick && isLayered(*desk_.currentPiece()) ? Hold::PickLayer : k.hold);
            return true;
        }
    if (event->key() == Qt::Key_BracketLeft || event->key() == Qt::Key_BracketRight) {
        constexpr double factor = 1.25;
        Hand hand = desk_.hand();
        hand.brush = Length::mm(std::clamp(hand.brush.mm() * (event->key() == Qt::Key_BracketRight ? factor : 1 / factor), 0.05, 500.0));
        desk_.setHand(hand);
        return true;
    }
    return false;
}

// What is done to the copies selected on the sheet, and turning over to another sheet.
bool Bench::copyKey(QKeyEvent* event)
{
    const int key = event->key();
    if (key == Qt::Key_PageUp || key == Qt::Key_PageDown) {
        const int sheets = desk_.shown() ? desk_.shown()->derived.sheet.sheets : 1;
        desk_.setSheet(std::clamp(desk_.sheet() + (key == Qt::Key_PageUp ? -1 : 1), 0, sheets - 1));
        return true;
    }
    if (event->matches(QKeySequence::SelectAll)) {
        edits::selectAllCopies(desk_);
        return true;
    }
    if (!std::holds_alternative<CopiesSelected>(desk_.selection()))
        return false;
    constexpr double coarse = 1, fine = 0.1; // mm
    const double by = (event->modifiers() & Qt::ShiftModifier) ? fine : coarse;
    const auto nudge = [&](Point way) { edits::moveCopies(desk_, way, 0, QStringLiteral("nudge")); };
    switch (key) {
    case Qt::Key_Left:
        nudge({-by, 0});
        return true;
    case Qt::Key_Right:
        nudge({by, 0});
        return true;
    case Qt::Key_Up:
        nudge({0, -by});
        return true;
    case Qt::Key_Down:
        nudge({0, by});
        return true;
    case Qt::Key_R:
        edits::turnCopies(desk_, (event->modifiers() & Qt::ShiftModifier) ? -90 : 90);
        return true;
    case Qt::Key_M:
        edits::mirrorCopies(desk_);
        return true;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        edits::removeCopies(desk_);
        return true;
    default:
        return false;
    }
}

// The machine's head, where marks are taken by hand.
bool Bench::jogKey(QKeyEvent* event)
{
    if (desk_.station() != Station::Cut || desk_.job().cut.marksBy != MarksBy::Hand || !desk_.machining().usesFit())
        return false;
    switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
        if (!event->isAutoRepeat() || desk_.hand().jog > Length())
            edits::jogPressed(desk_, {event->key() == Qt::Key_Left ? -1.0 : 1.0, 0});
        return true;
    case Qt::Key_Up:
    case Qt::Key_Down:
        if (!event->isAutoRepeat() || desk_.hand().jog > Length())
            edits::jogPressed(desk_, {0, event->key() == Qt::Key_Down ? -1.0 : 1.0});
        return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        edits::takeMark(desk_);
        return true;
    default:
        return false;
    }
}

void Bench::keyPressEvent(QKeyEvent* event)
{
    constexpr double step = 40; // logical pixels an arrow key moves the bench by
    const int key = event->key();
    for (const auto& tool : tools_)
        if (showsWork() && tool->works() && tool->key(key))
            return;
    if (key == Qt::Key_Space && !event->isAutoRepeat()) {
        space_ = true;
        setCursor(Qt::OpenHandCursor);
    } else if (key == Qt::Key_F) {
        fit();
    } else if (key == Qt::Key_T) {
        trueSize();
    } else if ((key == Qt::Key_B || key == Qt::Key_K) && event->modifiers() == Qt::NoModifier) {
        desk_.setPeek(key == Qt::Key_B ? Peek::Bare : Peek::KeptAlone);
    } else if (key == Qt::Key_Escape && held_ != Qt::NoButton) {
        giveUp();
    } else if (key == Qt::Key_Escape && desk_.hand().hold != Hold::Nothing) {
        desk_.hold(desk_.hand().hold);
    } else if (key == Qt::Key_Escape) {
        desk_.select({});
    } else if ((key == Qt::Key_Return || key == Qt::Key_Enter) && desk_.station() == Station::Keep) {
        edits::toggleParts(desk_, desk_.selectedParts());
    } else if ((key == Qt::Key_Delete || key == Qt::Key_Backspace) && desk_.selectedTouch()) {
        edits::removeTouch(desk_);
    } else if ((key == Qt::Key_Delete || key == Qt::Key_Backspace) && !edits::selectedNodes(desk_).empty()) {
        edits::takeNodes(desk_);
    } else if ((key == Qt::Key_Left || key == Qt::Key_Right || key == Qt::Key_Up || key == Qt::Key_Down) && !edits::selectedNodes(desk_).empty()) {
        constexpr double coarse = 0.1, fine = 0.01; // mm
        const double by = (event->modifiers() & Qt::ShiftModifier) ? fine : coarse;
        edits::moveNodes(desk_, {key == Qt::Key_Left ? -by : key == Qt::Key_Right ? by : 0, key == Qt::Key_Up ? -by : key == Qt::Key_Down ? by : 0});
    } else if (const auto* mark = std::get_if<MarkSelected>(&desk_.selection());
               mark && desk_.station() == Station::Sheet && (key == Qt::Key_Delete || key == Qt::Key_Backspace)) {
        edits::removeMark(desk_, mark->mark);
    } else if (desk_.station() == Station::Sheet && copyKey(event)) {
    } else if (jogKey(event)) {
    } else if ((key == Qt::Key_Delete || key == Qt::Key_Backspace) && edits::selectedEdit(desk_)) {
        edits::removeEdit(desk_);
    } else if (const auto* guide = std::get_if<GuideSelected>(&desk_.selection()); guide && (key == Qt::Key_Delete || key == Qt::Key_Backspace)) {
        edits::removeGuide(desk_, guide->guide);
    } else if (key == Qt::Key_Plus || key == Qt::Key_Equal) {
        zoom(1.25);
    } else if (key == Qt::Key_Minus) {
        zoom(0.8);
    } else if (key == Qt::Key_Left || key == Qt::Key_Right) {
        pan({key == Qt::Key_Left ? step : -step, 0});
    } else if (key == Qt::Key_Up || key == Qt::Key_Down) {
        pan({0, key == Qt::Key_Up ? step : -step});
    } else if (!toolKey(event)) {
        QWidget::keyPressEvent(event);
    }
}

void Bench::keyReleaseEvent(QKeyEvent* event)
{
    if (event->key() == Qt::Key_Space && !event->isAutoRepeat()) {
        space_ = false;
        setCursor(Qt::ArrowCursor);
    }
    if (!event->isAutoRepeat())
        desk_.machining().endJog();
    if ((event->key() == Qt::Key_B || event->key() == Qt::Key_K) && !event->isAutoRepeat())
        desk_.setPeek(Peek::Nothing);
    QWidget::keyReleaseEvent(event);
}

} // namespace yokai
