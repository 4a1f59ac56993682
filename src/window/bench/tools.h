// The tools of the stations as they stand today.
#pragma once

#include "bench/tool.h"

namespace yokai {

// Artwork: a line drawn along what should be level or upright; the picture turns to it.
class GuideTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return Qt::CrossCursor; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override { to_ = at.mm; }
    void release(const Pointer& at) override;
    void cancel() override { from_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::optional<QPointF> from_; // mm
    QPointF to_;
};

// Artwork: the frame the picture is cropped to, by its corners, sides and middle.
class FrameTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override;
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { desk_.drop(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    struct Grip {
        int x = 0, y = 0; // -1 the first side, 1 the second, 0 neither
        bool middle = false;
    };
    QRectF frame() const; // mm, in the whole picture
    std::optional<Grip> gripAt(const Pointer& at) const;
    Grip grip_;
    QRectF start_;
    QPointF pressed_; // mm
};

// Keep: boxes and lassos in which the rule works.
class InsideTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return Qt::CrossCursor; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { outline_.clear(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::vector<QPointF> outline_; // mm
};

// Keep: rubbing out and bringing back.
class BrushTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return Qt::CrossCursor; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override;
    void release(const Pointer& at) override;
    void cancel() override { way_.clear(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::vector<QPointF> way_; // mm
};

// Keep: a colour picked, or an area of like colour rubbed out, by one press.
class PickTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return Qt::CrossCursor; }
    bool press(const Pointer& at) override;
    void move(const Pointer&) override {}
    void release(const Pointer& at) override;
    void cancel() override { pressed_ = false; }

private:
    bool pressed_ = false;
};

// Keep, with nothing in hand: touching selects a part, dragging selects what is enclosed.
class SelectTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override;
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return std::nullopt; }
    bool press(const Pointer& at) override;
    void move(const Pointer& at) override { to_ = at.mm; }
    void release(const Pointer& at) override;
    void cancel() override { pressed_.reset(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    QPointF from_, to_; // mm
    bool adding_ = false;
    std::optional<QPointF> pressed_; // on the screen
};

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

// On the sheet: a press chooses the piece whose copy lies there.
class PlacingTool : public Tool {
public:
    using Tool::Tool;
    bool works() const override { return onSheet(desk_.station()); }
    std::optional<Qt::CursorShape> hover(const Pointer&) const override { return std::nullopt; }
    bool press(const Pointer& at) override;
    void move(const Pointer&) override {}
    void release(const Pointer&) override {}
    void cancel() override {}
};

} // namespace yokai
