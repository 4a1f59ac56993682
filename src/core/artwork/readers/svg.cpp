#include "artwork/readers/drawn.h"

#include <librsvg/rsvg.h>

namespace yokai {

namespace {
struct Unref {
    void operator()(RsvgHandle* handle) const { g_object_unref(handle); }
    void operator()(GInputStream* stream) const { g_object_unref(stream); }
};
} // namespace

// Without a place of its own it can reach for no other file.
DrawsOn drawsSvg(SharedBytes bytes)
{
    return [bytes = std::move(bytes)](cairo_t* cairo, int width, int height) {
        const std::unique_ptr<GInputStream, Unref> stream(g_memory_input_stream_new_from_data(bytes->data(), gssize(bytes->size()), nullptr));
        GError* error = nullptr;
        const std::unique_ptr<RsvgHandle, Unref> handle(rsvg_handle_new_from_stream_sync(stream.get(), nullptr, RSVG_HANDLE_FLAGS_NONE, nullptr, &error));
        const RsvgRectangle whole{0, 0, double(width), double(height)};
        const bool drawn = handle && rsvg_handle_render_document(handle.get(), cairo, &whole, &error);
        g_clear_error(&error);
        return drawn;
    };
}

} // namespace yokai
