#include "bench/tool.h"

namespace yokai {

std::optional<Qt::CursorShape> PanTool::hover(QPointF, const View&, Qt::KeyboardModifiers, bool space)
{
    return space ? std::optional(Qt::OpenHandCursor) : std::nullopt;
}

bool PanTool::press(QMouseEvent* event, const View&, bool space)
{
    if (event->button() != Qt::MiddleButton && !(space && event->button() == Qt::LeftButton))
        return false;
    last_ = event->position();
    return true;
}

void PanTool::move(QMouseEvent* event, View& view)
{
    view.origin += event->position() - last_;
    last_ = event->position();
}

} // namespace yokai
