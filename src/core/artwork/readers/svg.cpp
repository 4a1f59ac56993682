#include "artwork/readers/readers.h"

#include <librsvg/rsvg.h>

#include <memory>

namespace yokai {

namespace {
struct Unref {
    void operator()(RsvgHandle* handle) const { g_object_unref(handle); }
    void operator()(GInputStream* stream) const { g_object_unref(stream); }
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
    void operator()(cairo_t* cairo) const { cairo_destroy(cairo); }
};
} // namespace

// Drawn as large as its header was found to be, on nothing. Without a place of its own it can reach for no other file. A stop is obeyed before
// and after: the renderer knows none.
RawPicture readSvgDrawing(const Picture& picture, const Work& work)
{
    RawPicture raw;
    const int w = picture.info.width, h = picture.info.height;
    work.check();
    const std::unique_ptr<GInputStream, Unref> stream(g_memory_input_stream_new_from_data(picture.bytes->data(), gssize(picture.bytes->size()), nullptr));
    GError* error = nullptr;
    const std::unique_ptr<RsvgHandle, Unref> handle(rsvg_handle_new_from_stream_sync(stream.get(), nullptr, RSVG_HANDLE_FLAGS_NONE, nullptr, &error));
    g_clear_error(&error);
    if (!handle)
        return raw;
    const std::unique_ptr<cairo_surface_t, Unref> surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, w, h));
    const std::unique_ptr<cairo_t, Unref> cairo(cairo_create(surface.get()));
    const RsvgRectangle whole{0, 0, double(w), double(h)};
    if (cairo_status(cairo.get()) != CAIRO_STATUS_SUCCESS || !rsvg_handle_render_document(handle.get(), cairo.get(), &whole, &error)) {
        g_clear_error(&error);
        return raw;
    }
    work.check();
    cairo_surface_flush(surface.get());
    unsigned char* to = decodeInPlace(raw, w, h);
    const unsigned char* from = cairo_image_surface_get_data(surface.get());
    const int stride = cairo_image_surface_get_stride(surface.get());
    for (int y = 0; y < h; ++y) {
        if (y % 64 == 0)
            work.check();
        for (int x = 0; x < w; ++x, to += 4) {
            std::uint32_t c = 0;
            std::memcpy(&c, from + std::size_t(y) * std::size_t(stride) + 4 * std::size_t(x), 4);
            const unsigned a = c >> 24;
            const auto plain = [a](unsigned v) { return static_cast<unsigned char>(a == 0 ? 0 : std::min(255U, (v * 255 + a / 2) / a)); };
            to[0] = plain(c >> 16 & 255);
            to[1] = plain(c >> 8 & 255);
            to[2] = plain(c & 255);
            to[3] = static_cast<unsigned char>(a);
        }
    }
    return raw;
}

} // namespace yokai
