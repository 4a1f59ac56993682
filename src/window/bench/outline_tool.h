// Tools that draw an outline: a box by its corners, or a lasso.
#pragma once

#include "bench/tool.h"

namespace yokai {

class OutlineTool : public HeldTool {
public:
    using HeldTool::HeldTool;
    bool press(const Pointer& at) override
    {
        if (at.left())
            outline_ = {at.mm};
        return at.left();
    }
    void move(const Pointer& at) override;
    void release(const Pointer&) override;
    void cancel() override { outline_.clear(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override;

protected:
    virtual bool isBox() const = 0;                             // what is in hand
    virtual void done(const std::vector<QPointF>& outline) = 0; // mm; at least three places

private:
    std::vector<QPointF> outline_; // mm
};

} // namespace yokai
