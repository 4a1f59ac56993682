// What lies on the bench: one class for each thing that can be looked at.
#pragma once

#include "bench/view.h"
#include "studio/studio.h"

class QPainter;

namespace yokai {

class Scene {
public:
    explicit Scene(Studio& studio) : studio_(studio) {}
    virtual ~Scene() = default;
    virtual QRectF extent() const = 0; // mm, what fitting shows
    virtual void paint(QPainter& painter, const View& view, const QRectF& clip) = 0;
    // A press that no tool took, in mm: selecting what lies there.
    virtual void press(QPointF, const View&) {}

protected:
    Studio& studio_;
};

class PieceScene : public Scene {
public:
    using Scene::Scene;
    QRectF extent() const override;
    void paint(QPainter& painter, const View& view, const QRectF& clip) override;
    void press(QPointF mm, const View& view) override;

private:
    void paintParts(QPainter& painter, const View& view);
    void paintNodes(QPainter& painter, const View& view);
    void paintDimension(QPainter& painter, const View& view);
};

class SheetScene : public Scene {
public:
    using Scene::Scene;
    QRectF extent() const override;
    void paint(QPainter& painter, const View& view, const QRectF& clip) override;
    void press(QPointF mm, const View& view) override;
};

// The stand-in's bed as its camera saw it, y turned down for the screen.
class BedScene : public Scene {
public:
    using Scene::Scene;
    QRectF extent() const override;
    void paint(QPainter& painter, const View& view, const QRectF& clip) override;
};

} // namespace yokai
