// A tool works with the pointer on the bench: one class a tool, one file a class, and its
// line in the table of tools.cpp. The first that wants a press has the pointer until that
// button is let go.
//
// A tool draws its own draft. The job changes at the release; Esc, or anything that takes
// the pointer away, leaves it as it was.
#pragma once

#include "bench/view.h"
#include "desk/desk.h"

#include <algorithm>
#include <initializer_list>
#include <memory>
#include <optional>
#include <vector>

class QPainter;

namespace yokai {

class Scene;

// Where the pointer is, and what with.
struct Pointer {
    QPointF screen; // on the bench
    QPointF mm;     // in the piece or on the sheet
    Qt::MouseButton button = Qt::NoButton;
    Qt::KeyboardModifiers modifiers;
    double mmAPixel = 1;            // how much a logical pixel is at this zoom
    const HitIndex* hit = nullptr;  // what lies under it; null: nothing is known yet
    enum class Ruler { None, Across, Down };
    Ruler ruler = Ruler::None;      // on which it is
    Point place() const { return {mm.x(), mm.y()}; }
    // What is placed under a loupe follows a tenth as far with Shift.
    double pace() const { return modifiers & Qt::ShiftModifier ? 0.1 : 1; }
    bool left() const { return button == Qt::LeftButton; }
};

// What follows the pointer: drawn once, as it lies, beside the window's thread, and shown moved.
struct Carried {
    const Scene* scene; // outlives the gesture
    Affine by;          // mm
};

class Tool {
public:
    explicit Tool(Desk& desk) : desk_(desk) {}
    virtual ~Tool() = default;
    virtual bool works() const = 0; // at this station, with what is in hand
    // The cursor to show over a place where a press would be taken.
    virtual std::optional<Qt::CursorShape> hover(const Pointer&) const { return Qt::CrossCursor; }
    virtual bool press(const Pointer& at) = 0;
    virtual void move(const Pointer&) {}
    virtual void release(const Pointer&) {}
    virtual void cancel() {} // gives the gesture up
    // While it has the pointer. For what is too much to be drawn anew for each of its moves.
    virtual std::optional<Carried> carried() const { return {}; }
    // A key, before the bench has it. For what is drawn by several presses; nothing else needs any.
    virtual bool key(int) { return false; }
    // What it shows over the scene; `pointer` is null while it is elsewhere.
    virtual void paint(QPainter&, const View&, QPointF) const {}

protected:
    Desk& desk_;
};

// A tool that works while one of some things is in hand, over a piece that is shown.
class HeldTool : public Tool {
public:
    HeldTool(Desk& desk, std::initializer_list<Hold> holds) : Tool(desk), holds_(holds) {}
    bool works() const override { return desk_.currentResult() && std::find(holds_.begin(), holds_.end(), desk_.hand().hold) != holds_.end(); }

private:
    std::vector<Hold> holds_;
};

using Tools = std::vector<std::unique_ptr<Tool>>;
Tools makeTools(Desk& desk);

} // namespace yokai
