#include "bench/paint.h"
#include "bench/tools.h"
#include "theme/theme.h"
#include "words.h"

#include <QPainter>
#include <QPainterPath>

namespace yokai {

namespace {

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

bool FrameTool::works() const { return desk_.hand().hold == Hold::Frame && desk_.station() == Station::Artwork && desk_.currentPiece() && desk_.currentPiece()->artwork.hasScale(); }

QRectF FrameTool::frame() const
{
    const ArtworkSpec& a = desk_.currentPiece()->artwork;
    const Rect whole = a.whole(), f = a.frame();
    const Point k = a.scale();
    return {QPointF((f.x0 - whole.x0) / k.x, (f.y0 - whole.y0) / k.y), QPointF((f.x1 - whole.x0) / k.x, (f.y1 - whole.y0) / k.y)};
}

std::optional<FrameTool::Grip> FrameTool::gripAt(const Pointer& at) const
{
    constexpr double reachPx = 9; // logical pixels round a handle
    const double reach = reachPx * at.mmAPixel;
    const QRectF f = frame();
    if (!f.adjusted(-reach, -reach, reach, reach).contains(at.mm))
        return std::nullopt;
    const auto side = [&](double v, double first, double second) { return std::abs(v - first) < reach ? -1 : std::abs(v - second) < reach ? 1 : 0; };
    const Grip grip{side(at.mm.x(), f.left(), f.right()), side(at.mm.y(), f.top(), f.bottom()), false};
    return grip.x == 0 && grip.y == 0 ? Grip{0, 0, true} : grip;
}

std::optional<Qt::CursorShape> FrameTool::hover(const Pointer& at) const
{
    const auto grip = gripAt(at);
    if (!grip)
        return Qt::ArrowCursor;
    if (grip->middle)
        return Qt::SizeAllCursor;
    if (grip->x != 0 && grip->y != 0)
        return grip->x == grip->y ? Qt::SizeFDiagCursor : Qt::SizeBDiagCursor;
    return grip->x != 0 ? Qt::SizeHorCursor : Qt::SizeVerCursor;
}

bool FrameTool::press(const Pointer& at)
{
    const auto grip = at.left() ? gripAt(at) : std::nullopt;
    if (!grip)
        return false;
    grip_ = *grip;
    start_ = frame();
    pressed_ = at.mm;
    return true;
}

void FrameTool::move(const Pointer& at)
{
    const QPointF d = at.mm - pressed_;
    QRectF f = start_;
    constexpr double least = 1; // mm
    if (grip_.middle)
        f.translate(d);
    if (grip_.x < 0)
        f.setLeft(std::min(f.left() + d.x(), f.right() - least));
    if (grip_.x > 0)
        f.setRight(std::max(f.right() + d.x(), f.left() + least));
    if (grip_.y < 0)
        f.setTop(std::min(f.top() + d.y(), f.bottom() - least));
    if (grip_.y > 0)
        f.setBottom(std::max(f.bottom() + d.y(), f.top() + least));
    desk_.tryOut([&, id = desk_.currentPiece()->id](Job& job) {
        ArtworkSpec& a = find(job, id)->artwork;
        const Rect whole = a.whole();
        const Point k = a.scale();
        if (grip_.middle) { // moved as it is, up to the picture's border
            const double w = whole.width() / k.x, h = whole.height() / k.y;
            f.moveLeft(std::clamp(f.left(), 0.0, std::max(0.0, w - f.width())));
            f.moveTop(std::clamp(f.top(), 0.0, std::max(0.0, h - f.height())));
        }
        a.crop.reset();
        a.cropTo({f.left(), f.top(), f.right(), f.bottom()});
    });
}

void FrameTool::release(const Pointer&) { desk_.keep(QObject::tr("crop")); }

void FrameTool::paint(QPainter& painter, const View& view, QPointF) const
{
    const auto& c = theme::colours();
    const QRectF f = view.toScreen(frame());
    // What is cropped away lies in shade.
    QPainterPath shade;
    shade.addRect(QRectF(painter.viewport()));
    shade.addRect(f);
    painter.fillPath(shade, QColor(30, 28, 40, 110));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(Qt::white, 3));
    painter.drawRect(f);
    painter.setPen(QPen(c.accent, 1.4));
    painter.drawRect(f);
    painter.setPen(QPen(c.accent, 1.4));
    painter.setBrush(Qt::white);
    for (const double x : {f.left(), f.center().x(), f.right()})
        for (const double y : {f.top(), f.center().y(), f.bottom()})
            if (x != f.center().x() || y != f.center().y())
                painter.drawRoundedRect(QRectF(x - 4.5, y - 4.5, 9, 9), 2, 2);
    const QRectF mm = frame();
    paint::tag(painter, QPointF(f.center().x(), f.bottom() + 22), sizeText(mm.width(), mm.height(), desk_.unit()));
}

} // namespace

std::unique_ptr<Tool> frameTool(Desk& desk) { return std::make_unique<FrameTool>(desk); }

} // namespace yokai
