#include "bench/carried_image.h"

#include <QPainter>

namespace yokai {

CarriedImage::CarriedImage(QObject* parent) : QObject(parent)
{
    connect(&renderer_, &Renderer::drawn, this, [this](const QImage& image, const View& view) {
        if (!asked_) // let go already
            return;
        image_ = image;
        view_ = view;
        emit arrived();
    });
}

void CarriedImage::carry(const Carried& carried, const BenchState& state, const View& view, qreal ratio, const QRectF& area)
{
    by_ = carried.by;
    if (std::exchange(asked_, true))
        return;
    image_ = {};
    // What lies beyond the bench now may come into it, but never from farther than the bench is wide.
    constexpr double halo = 4; // logical pixels
    const QRectF near = area.adjusted(-area.width(), -area.height(), area.width(), area.height());
    const QRect drawn = (view.toScreen(carried.scene->extent(state)).adjusted(-halo, -halo, halo, halo) & near).toAlignedRect();
    if (drawn.isEmpty())
        return;
    const View own{view.scale, view.origin - drawn.topLeft()};
    renderer_.draw({carried.scene, state, own, drawn.size(), ratio, QRectF(QPointF(), QSizeF(drawn.size())), Qt::transparent});
}

void CarriedImage::drop()
{
    asked_ = false;
    image_ = {};
}

void CarriedImage::paint(QPainter& painter, const View& view) const
{
    if (image_.isNull())
        return;
    constexpr double seenThrough = 0.75;
    painter.save();
    painter.setOpacity(seenThrough);
    painter.setTransform(view_.transform().inverted() * q(by_) * view.transform(), true);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, by_.b != 0);
    painter.drawImage(QPointF(), image_);
    painter.restore();
}

} // namespace yokai
