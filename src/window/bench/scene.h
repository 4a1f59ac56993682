// What lies on the bench: one class for each thing that can be looked at. A scene
// holds nothing: it draws a BenchState, on whatever thread it is asked to.
#pragma once

#include "bench/bench_state.h"
#include "bench/view.h"

class QPainter;

namespace yokai {

class Scene {
public:
    virtual ~Scene() = default;
    virtual QRectF extent(const BenchState& state) const = 0; // mm, what fitting shows
    virtual bool inPixels() const { return false; }           // and no mm: of a picture whose size is not known
    virtual void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const = 0;
};

class PieceScene : public Scene {
public:
    QRectF extent(const BenchState& state) const override;
    void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const override;
};

// The piece cut off its print: as far as is said, and the worst of many, side by side.
class CutOffScene : public Scene {
public:
    QRectF extent(const BenchState& state) const override;
    void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const override;
};

class SheetScene : public Scene {
public:
    QRectF extent(const BenchState& state) const override;
    void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const override;
};

// Of the sheets, the copies that are selected and may be moved, and nothing under them.
class CopiesScene : public Scene {
public:
    QRectF extent(const BenchState& state) const override;
    void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const override;
};

// The machine's bed, y turned down for the screen: as a camera saw it, or with the sheet drawn where it lies.
class BedScene : public Scene {
public:
    static bool shows(const BenchState& state); // whether anything is known of it
    QRectF extent(const BenchState& state) const override;
    void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const override;
};

// A photo of the bed, a pixel a mm, in which its corners are being set.
class PhotoScene : public Scene {
public:
    QRectF extent(const BenchState& state) const override;
    bool inPixels() const override { return true; }
    void paint(QPainter& painter, const BenchState& state, const View& view, const QRectF& clip) const override;
};

} // namespace yokai
