#include "artwork/pdf_page.h"

#include "artwork/readers/drawn.h"

#include <poppler/glib/poppler.h>

#include <string_view>

namespace yokai {

namespace {

struct LetGo {
    void operator()(PopplerDocument* d) const { g_object_unref(d); }
    void operator()(PopplerPage* p) const { g_object_unref(p); }
    void operator()(GBytes* b) const { g_bytes_unref(b); }
};

// The document keeps no copy: `bytes` must outlive it.
std::unique_ptr<PopplerDocument, LetGo> documentOf(const Bytes& bytes)
{
    const std::unique_ptr<GBytes, LetGo> held(g_bytes_new_static(bytes.data(), bytes.size()));
    GError* error = nullptr;
    std::unique_ptr<PopplerDocument, LetGo> out(poppler_document_new_from_bytes(held.get(), nullptr, &error));
    g_clear_error(&error);
    return out;
}

RawPicture drawnPage(const Bytes& bytes, int number, int w, int h)
{
    const auto document = documentOf(bytes);
    const std::unique_ptr<PopplerPage, LetGo> page(document ? poppler_document_get_page(document.get(), number) : nullptr);
    if (!page)
        return {};
    double width = 0, height = 0;
    poppler_page_get_size(page.get(), &width, &height);
    const CairoSurface surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, w, h));
    const Cairo cairo(cairo_create(surface.get()));
    cairo_scale(cairo.get(), w / width, h / height);
    poppler_page_render(page.get(), cairo.get());
    return cairo_status(cairo.get()) == CAIRO_STATUS_SUCCESS ? pixelsOf(surface.get()) : RawPicture{};
}

} // namespace

bool looksLikePdf(const Bytes& bytes)
{
    // Some begin with a few bytes of something else; readers look that far (ISO 32000-1, annex H).
    constexpr std::size_t far = 1024;
    return std::string_view(reinterpret_cast<const char*>(bytes.data()), std::min(bytes.size(), far)).find("%PDF-") != std::string_view::npos;
}

std::optional<PdfPageFacts> pdfPageFacts(const Bytes& bytes, int number)
{
    const auto document = documentOf(bytes);
    if (!document)
        return std::nullopt;
    PdfPageFacts out;
    out.pages = poppler_document_get_n_pages(document.get());
    const std::unique_ptr<PopplerPage, LetGo> page(number < out.pages ? poppler_document_get_page(document.get(), number) : nullptr);
    if (page) {
        poppler_page_get_size(page.get(), &out.width, &out.height);
        constexpr double mmAPoint = 25.4 / 72;
        out.width *= mmAPoint;
        out.height *= mmAPoint;
    }
    return out;
}

// The page drawn as large as its header was found to be, on nothing.
RawPicture readPdfPage(const Picture& picture, const Work& work)
{
    return readApart([bytes = picture.bytes, page = picture.info.page, w = picture.info.width, h = picture.info.height] { return drawnPage(*bytes, page, w, h); }, work);
}

} // namespace yokai
