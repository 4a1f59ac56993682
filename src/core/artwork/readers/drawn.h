// What readers share that draw through cairo, and those whose library cannot be stopped. Private to the artwork room.
#pragma once

#include "artwork/drawn_page.h"
#include "artwork/readers/readers.h"

#include <cairo.h>

#include <chrono>
#include <functional>
#include <future>
#include <memory>
#include <optional>
#include <thread>
#include <type_traits>

namespace yokai {

struct EndsCairo {
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
    void operator()(cairo_t* cairo) const { cairo_destroy(cairo); }
};
using CairoSurface = std::unique_ptr<cairo_surface_t, EndsCairo>;
using Cairo = std::unique_ptr<cairo_t, EndsCairo>;

// Draws what a renderer knows how to draw onto a surface, as large as said. Whether it could.
using DrawsOn = std::function<bool(cairo_t*, int width, int height)>;
RawPicture asPixels(const DrawsOn& draw, int width, int height);
std::optional<Bytes> asPdf(const DrawsOn& draw, int width, int height);

// They hold all they need.
DrawsOn drawsSvg(SharedBytes bytes);
DrawsOn drawsPdfPage(SharedBytes bytes, int page);

// What is no longer wanted is read to its end by a thread of its own, and thrown away. `read` must hold all it needs.
template <class Read> auto readApart(Read read, const Work& work)
{
    std::packaged_task<std::invoke_result_t<Read>()> task(std::move(read));
    auto made = task.get_future();
    std::thread(std::move(task)).detach();
    constexpr auto look = std::chrono::milliseconds(5);
    while (made.wait_for(look) != std::future_status::ready)
        work.check();
    return made.get();
}

} // namespace yokai
