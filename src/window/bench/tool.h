// A tool works with the pointer on the bench. Each is asked in turn whether it
// wants a press; the one that does has the pointer until the release.
#pragma once

#include "bench/view.h"
#include "studio/studio.h"

#include <QMouseEvent>

#include <optional>

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
    int line_ = -1;
    double grab_ = 0; // between the pointer and the line when it was taken, mm
    bool moved_ = false;
};

} // namespace yokai
