#include "bench/paint.h"
#include "bench/tools.h"
#include "desk/machining.h"
#include "theme/theme.h"

#include <QPainter>

namespace yokai {

namespace {

// Four corners that are dragged onto a picture's, under a loupe.
class FourCorners : public Tool {
public:
    using Tool::Tool;
    std::optional<Qt::CursorShape> hover(const Pointer& at) const override { return under(at) ? std::optional(Qt::SizeAllCursor) : std::nullopt; }
    bool press(const Pointer& at) override
    {
        corner_ = at.left() ? under(at) : std::nullopt;
        if (corner_) {
            before_ = now_ = corners()[*corner_];
            last_ = at.place();
        }
        return corner_.has_value();
    }
    void move(const Pointer& at) override
    {
        if (!corner_)
            return;
        now_ = now_ + (at.place() - last_) * at.pace();
        last_ = at.place();
        put(*corner_, now_);
    }
    void release(const Pointer&) override { corner_.reset(); }
    void cancel() override
    {
        if (corner_ && works())
            put(*corner_, before_);
        corner_.reset();
    }
    void paint(QPainter& painter, const View& view, QPointF) const override;

protected:
    struct Named {
        QString name;
        bool below; // it is written below the corner
    };
    virtual Corners4 corners() const = 0; // as the bench has places
    virtual void put(std::size_t which, Point at) = 0;
    virtual std::array<Named, 4> names() const = 0;
    // What the loupe shows, and where in it a place is, pixels.
    virtual std::pair<QImage, Point> picture(Point at) const = 0;

private:
    std::optional<std::size_t> under(const Pointer& at) const
    {
        constexpr double reach = 12; // logical pixels
        const Corners4 all = corners();
        for (std::size_t k = 0; k < 4; ++k)
            if (distance(all[k], at.place()) < reach * at.mmAPixel)
                return k;
        return std::nullopt;
    }
    std::optional<std::size_t> corner_;
    Point last_, before_, now_;
};

void FourCorners::paint(QPainter& painter, const View& view, QPointF) const
{
    const std::array<Named, 4> named = names();
    const Corners4 all = corners();
    for (std::size_t k = 0; k < 4; ++k) {
        const QPointF at = view.toScreen(q(all[k]));
        painter.setPen(QPen(Qt::white, 2));
        painter.setBrush(theme::colours().accent);
        painter.drawEllipse(at, 7, 7);
        paint::tag(painter, at + QPointF(0, named[k].below ? 24 : -24), named[k].name);
    }
    if (!corner_)
        return;
    constexpr double across = 60; // pixels of the picture
    const auto [image, px] = picture(all[*corner_]);
    paint::loupe(painter, image, px, across, view.toScreen(q(all[*corner_])) + QPointF(0, named[*corner_].below ? -130 : 130));
}

// The bed's, in a photo of it.
class CornerTool : public FourCorners {
public:
    using FourCorners::FourCorners;
    bool works() const override { return desk_.station() == Station::Cut && desk_.machining().onBed().corners; }

private:
    Corners4 corners() const override { return *desk_.machining().onBed().corners; }
    void put(std::size_t which, Point at) override { desk_.machining().setCorner(which, at); }
    std::array<Named, 4> names() const override { return {{{Desk::tr("near left"), true}, {Desk::tr("near right"), true}, {Desk::tr("far right"), false}, {Desk::tr("far left"), false}}}; }
    std::pair<QImage, Point> picture(Point at) const override { return {desk_.machining().onBed().photo->image, at}; }
};

// Artwork: of a rectangle whose sides are known, in a picture taken at an angle.
class RectangleTool : public FourCorners {
public:
    using FourCorners::FourCorners;
    bool works() const override { return desk_.station() == Station::Artwork && desk_.hand().hold == Hold::Tilt && desk_.hand().corners && desk_.currentResult(); }
    void paint(QPainter& painter, const View& view, QPointF pointer) const override
    {
        QPolygonF sides;
        for (const Point p : corners())
            sides << view.toScreen(q(p));
        painter.setBrush(Qt::NoBrush);
        for (const auto& pen : {QPen(QColor(255, 255, 255, 200), 4), QPen(theme::colours().accent, 1.8)}) {
            painter.setPen(pen);
            painter.drawPolygon(sides);
        }
        FourCorners::paint(painter, view, pointer);
    }

private:
    Corners4 corners() const override
    {
        Corners4 out = *desk_.hand().corners;
        for (Point& p : out)
            p = desk_.currentResult()->sourceToMm(p);
        return out;
    }
    void put(std::size_t which, Point at) override
    {
        Hand hand = desk_.hand();
        (*hand.corners)[which] = desk_.currentResult()->sourceToMm.inverse()(at);
        desk_.setHand(hand);
    }
    std::array<Named, 4> names() const override { return {{{Desk::tr("top left"), false}, {Desk::tr("top right"), false}, {Desk::tr("bottom right"), true}, {Desk::tr("bottom left"), true}}}; }
    std::pair<QImage, Point> picture(Point at) const override
    {
        const PieceResult& r = *desk_.currentResult();
        const Point px = at * r.pxPerMm;
        if (!r.pixels)
            return {};
        return {QImage(reinterpret_cast<const uchar*>(r.pixels->all().data()), r.pixels->width(), r.pixels->height(), r.pixels->width() * 4, QImage::Format_RGBA8888), px};
    }
};

} // namespace

std::unique_ptr<Tool> cornerTool(Desk& desk) { return std::make_unique<CornerTool>(desk); }
std::unique_ptr<Tool> rectangleTool(Desk& desk) { return std::make_unique<RectangleTool>(desk); }

} // namespace yokai
