#include "artwork/readers/drawn.h"

#include <cairo-pdf.h>

#include <cstring>

namespace yokai {

namespace {

// No longer multiplied by their opacity.
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

cairo_status_t append(void* to, const unsigned char* data, unsigned length)
{
    auto& out = *static_cast<Bytes*>(to);
    out.insert(out.end(), data, data + length);
    return CAIRO_STATUS_SUCCESS;
}

DrawsOn drawsPicture(const Picture& picture) { return picture.info.format == PictureFormat::Svg ? drawsSvg(picture.bytes) : drawsPdfPage(picture.bytes, picture.info.page); }

} // namespace

RawPicture asPixels(const DrawsOn& draw, int w, int h)
{
    const CairoSurface surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, w, h));
    const Cairo cairo(cairo_create(surface.get()));
    const bool drawn = cairo_status(cairo.get()) == CAIRO_STATUS_SUCCESS && draw(cairo.get(), w, h) && cairo_status(cairo.get()) == CAIRO_STATUS_SUCCESS;
    return drawn ? pixelsOf(surface.get()) : RawPicture{};
}

std::optional<Bytes> asPdf(const DrawsOn& draw, int w, int h)
{
    Bytes out;
    const CairoSurface surface(cairo_pdf_surface_create_for_stream(append, &out, w, h));
    constexpr double pixelsAPoint = 72; // an inch: what has to be in pixels has the picture's
    cairo_surface_set_fallback_resolution(surface.get(), pixelsAPoint, pixelsAPoint);
    const Cairo cairo(cairo_create(surface.get()));
    const bool drawn = draw(cairo.get(), w, h);
    cairo_show_page(cairo.get());
    cairo_surface_finish(surface.get());
    const bool good = drawn && cairo_status(cairo.get()) == CAIRO_STATUS_SUCCESS && cairo_surface_status(surface.get()) == CAIRO_STATUS_SUCCESS;
    return good ? std::optional(std::move(out)) : std::nullopt;
}

// As large as its header was found to be, on nothing.
RawPicture readDrawing(const Picture& picture, const Work& work)
{
    return readApart([draw = drawsPicture(picture), w = picture.info.width, h = picture.info.height] { return asPixels(draw, w, h); }, work);
}

// Only of an SVG, whose letters are the system's: with a damaged font that came in a PDF, cairo ends the program.
std::optional<Bytes> svgAsPdf(const Picture& picture, const Work& work)
{
    if (picture.info.format != PictureFormat::Svg)
        return std::nullopt;
    return readApart([draw = drawsSvg(picture.bytes), w = picture.info.width, h = picture.info.height] { return asPdf(draw, w, h); }, work);
}

} // namespace yokai
