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

DrawsOn drawsPdfPage(SharedBytes bytes, int number)
{
    return [bytes = std::move(bytes), number](cairo_t* cairo, int width, int height) {
        const auto document = documentOf(*bytes);
        const std::unique_ptr<PopplerPage, LetGo> page(document ? poppler_document_get_page(document.get(), number) : nullptr);
        if (!page)
            return false;
        double w = 0, h = 0;
        poppler_page_get_size(page.get(), &w, &h);
        cairo_scale(cairo, width / w, height / h);
        poppler_page_render(page.get(), cairo);
        return true;
    };
}

} // namespace yokai
