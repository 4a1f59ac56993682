#include "artwork/readers/drawn.h"

#include <librsvg/rsvg.h>

#include <cstring>

namespace yokai {

namespace {
struct Unref {
    void operator()(RsvgHandle* handle) const { g_object_unref(handle); }
    void operator()(GInputStream* stream) const { g_object_unref(stream); }
};

RawPicture drawnSvg(const Bytes& bytes, int w, int h)
{
    const std::unique_ptr<GInputStream, Unref> stream(g_memory_input_stream_new_from_data(bytes.data(), gssize(bytes.size()), nullptr));
    GError* error = nullptr;
    const std::unique_ptr<RsvgHandle, Unref> handle(rsvg_handle_new_from_stream_sync(stream.get(), nullptr, RSVG_HANDLE_FLAGS_NONE, nullptr, &error));
    g_clear_error(&error);
    if (!handle)
        return {};
    const CairoSurface surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, w, h));
    const Cairo cairo(cairo_create(surface.get()));
    const RsvgRectangle whole{0, 0, double(w), double(h)};
    if (cairo_status(cairo.get()) != CAIRO_STATUS_SUCCESS || !rsvg_handle_render_document(handle.get(), cairo.get(), &whole, &error)) {
        g_clear_error(&error);
        return {};
    }
    return pixelsOf(surface.get());
}
} // namespace

RawPicture pixelsOf(cairo_surface_t* argb)
{
    RawPicture raw;
    cairo_surface_flush(argb);
    const int w = cairo_image_surface_get_width(argb), h = cairo_image_surface_get_height(argb), stride = cairo_image_surface_get_stride(argb);
    const unsigned char* from = cairo_image_surface_get_data(argb);
    if (!from || w <= 0 || h <= 0)
        return raw;
    unsigned char* const to = decodeInPlace(raw, w, h);
    parallelSlices(h, 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            unsigned char* p = to + std::size_t(y) * std::size_t(w) * 4;
            for (int x = 0; x < w; ++x, p += 4) {
                std::uint32_t c = 0;
                std::memcpy(&c, from + std::size_t(y) * std::size_t(stride) + 4 * std::size_t(x), 4);
                const unsigned a = c >> 24;
                const auto plain = [a](unsigned v) { return static_cast<unsigned char>(a == 0 ? 0 : std::min(255U, (v * 255 + a / 2) / a)); };
                p[0] = plain(c >> 16 & 255);
                p[1] = plain(c >> 8 & 255);
                p[2] = plain(c & 255);
                p[3] = static_cast<unsigned char>(a);
            }
        }
    });
    return raw;
}

// Drawn as large as its header was found to be, on nothing. Without a place of its own it can reach for no other file.
RawPicture readSvgDrawing(const Picture& picture, const Work& work)
{
    return readApart([bytes = picture.bytes, w = picture.info.width, h = picture.info.height] { return drawnSvg(*bytes, w, h); }, work);
}

} // namespace yokai
