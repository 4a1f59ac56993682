// What readers share that draw through cairo, and those whose library cannot be stopped. Private to the artwork room.
#pragma once

#include "artwork/readers/readers.h"

#include <cairo.h>

#include <chrono>
#include <functional>
#include <future>
#include <memory>
#include <thread>

namespace yokai {

struct EndsCairo {
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
    void operator()(cairo_t* cairo) const { cairo_destroy(cairo); }
};
using CairoSurface = std::unique_ptr<cairo_surface_t, EndsCairo>;
using Cairo = std::unique_ptr<cairo_t, EndsCairo>;

// Its pixels, no longer multiplied by their opacity.
RawPicture pixelsOf(cairo_surface_t* argb);

// What is no longer wanted is read to its end by a thread of its own, and thrown away. `read` must hold all it needs.
inline RawPicture readApart(std::function<RawPicture()> read, const Work& work)
{
    std::packaged_task<RawPicture()> task(std::move(read));
    std::future<RawPicture> made = task.get_future();
    std::thread(std::move(task)).detach();
    constexpr auto look = std::chrono::milliseconds(5);
    while (made.wait_for(look) != std::future_status::ready)
        work.check();
    return made.get();
}

} // namespace yokai
