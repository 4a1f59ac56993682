// A tool works with the pointer on the bench. Each is asked in turn whether it
// wants a press; the one that does has the pointer until the release.
#pragma once

#include "bench/view.h"
#include "studio/studio.h"

#include <QMouseEvent>

#include <optional>
#include <vector>

class QPainter;

namespace yokai {

class Tool {
public:
    explicit Tool(Studio& studio) : studio_(studio) {}
    virtual ~Tool() = default;
    // The cursor to show over a place where a press would be taken.
    virtual std::optional<Qt::CursorShape> hover(QPointF screen, const View& view, Qt::KeyboardModifiers modifiers, bool space) = 0;
    virtual bool press(QMouseEvent* event, const View& view, bool space) = 0;
    virtual void move(QMouseEvent* event, View& view) = 0;
    virtual void release(QMouseEvent* event) = 0;
    // What it shows over the scene; `pointer` is null while it is elsewhere.
    virtual void paint(QPainter&, const View&, QPointF) const {}

protected:
    Studio& studio_;
};

// Middle button, or space and the left button.
class PanTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF, const View&, Qt::KeyboardModifiers, bool space) override;
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override {}

private:
    QPointF last_;
};

// Artwork: a line drawn along what should be level or upright; the picture turns to it.
class GuideTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF, const View&, Qt::KeyboardModifiers, bool) override;
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::optional<QPointF> from_; // mm
    QPointF to_;
};

// Artwork: the frame the picture is cropped to, by its corners, sides and middle.
class FrameTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF screen, const View& view, Qt::KeyboardModifiers, bool) override;
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    struct Grip {
        int x = 0, y = 0; // -1 the first side, 1 the second, 0 neither
        bool middle = false;
    };
    bool active() const;
    QRectF frame() const; // mm, in the whole picture
    std::optional<Grip> gripAt(QPointF screen, const View& view) const;
    Grip grip_;
    QRectF start_;
    QPointF pressed_; // mm
};

// Keep: boxes and lassos in which the rule works.
class InsideTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF, const View&, Qt::KeyboardModifiers, bool) override;
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    std::vector<QPointF> outline_; // mm
};

// Keep: rubbing out and bringing back, an area of like colour, a colour picked.
class BrushTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF, const View&, Qt::KeyboardModifiers, bool) override;
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    bool brushing() const;
    std::vector<QPointF> way_; // mm
};

// Keep, with nothing in hand: touching selects a part, dragging selects what is enclosed.
class SelectTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF, const View&, Qt::KeyboardModifiers, bool) override { return std::nullopt; }
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override;
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

private:
    QPointF from_, to_; // mm
    double scale_ = 1;
    bool adding_ = false;
    std::optional<QPointF> pressed_; // on the screen
};

// At Cut lines: a cut line is dragged to the distance it should have.
class OffsetTool : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(QPointF screen, const View& view, Qt::KeyboardModifiers, bool) override;
    bool press(QMouseEvent* event, const View& view, bool space) override;
    void move(QMouseEvent* event, View& view) override;
    void release(QMouseEvent*) override;

private:
    int lineAt(QPointF screen, const View& view) const;
    double offsetAt(QPointF mm) const; // of the line in hand, if it ran through there
    int line_ = -1;
    double grab_ = 0;                    // between the pointer and the line when it was taken, mm
    std::shared_ptr<const Shown> taken_; // what was on the bench then
    bool moved_ = false;
};

} // namespace yokai
