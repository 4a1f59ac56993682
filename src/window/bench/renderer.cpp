#include "bench/renderer.h"

#include <QPainter>

namespace yokai {

Renderer::Renderer(QObject* parent) : QObject(parent), thread_([this] { run(); }) {}

Renderer::~Renderer()
{
    const std::scoped_lock lock(mutex_);
    quit_ = true;
    wake_.notify_all();
}

void Renderer::draw(RenderWish wish)
{
    const std::scoped_lock lock(mutex_);
    waiting_ = std::move(wish);
    wake_.notify_all();
}

void Renderer::run()
{
    for (;;) {
        RenderWish wish;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [&] { return quit_ || waiting_; });
            if (quit_)
                return;
            // Locked again: the thread sanitizer sees none of what a condition variable does for itself.
            lock.unlock();
            lock.lock();
            if (!waiting_)
                continue;
            wish = std::move(*waiting_);
            waiting_.reset();
        }
        QImage image(wish.size * wish.ratio, QImage::Format_ARGB32_Premultiplied);
        image.setDevicePixelRatio(wish.ratio);
        image.fill(wish.ground);
        QPainter painter(&image);
        painter.setRenderHint(QPainter::Antialiasing);
        wish.scene->paint(painter, wish.state, wish.view, wish.clip);
        painter.end();
        emit drawn(image, wish.view, wish.scene);
    }
}

} // namespace yokai
