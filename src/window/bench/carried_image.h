// What a tool carries, as an image that is drawn once, beside the window's thread: 200 copies follow
// the pointer as lightly as one.
#pragma once

#include "bench/renderer.h"
#include "bench/tool.h"

namespace yokai {

class CarriedImage : public QObject {
    Q_OBJECT
public:
    explicit CarriedImage(QObject* parent = nullptr);
    // As long as something is carried; what it is does not change in between.
    void carry(const Carried& carried, const BenchState& state, const View& view, qreal ratio, const QRectF& area);
    void drop();
    void paint(QPainter& painter, const View& view) const; // nothing, until it is there

signals:
    void arrived();

private:
    bool asked_ = false;
    Affine by_;
    QImage image_;
    View view_; // it was drawn for
    Renderer renderer_; // last: it uses all of the above
};

} // namespace yokai
