// Draws scenes on a thread of its own, always the newest wish first, so that a
// heavy sheet never holds the window up.
#pragma once

#include "bench/scene.h"

#include <QColor>
#include <QImage>
#include <QObject>

#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace yokai {

struct RenderWish {
    const Scene* scene = nullptr; // outlives the renderer
    BenchState state;
    View view;
    QSize size; // logical pixels
    qreal ratio = 1;
    QRectF clip;
    QColor ground; // under it
};

class Renderer : public QObject {
    Q_OBJECT
public:
    explicit Renderer(QObject* parent = nullptr);
    ~Renderer() override;
    void draw(RenderWish wish);

signals:
    void drawn(QImage image, yokai::View view, const yokai::Scene* scene);

private:
    void run();
    std::mutex mutex_;
    std::condition_variable wake_;
    std::optional<RenderWish> waiting_;
    bool quit_ = false;
    std::jthread thread_; // last: it uses all of the above
};

} // namespace yokai
