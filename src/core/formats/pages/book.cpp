#include "formats/pages/book.h"

#include "base/error.h"
#include "base/text.h"
#include "formats/page_content.h"
#include "formats/pages/fonts.h"

#include <opencv2/imgproc.hpp>

#include <cairo-pdf.h>
#include <fontconfig/fontconfig.h>
#include <pango/pangocairo.h>
#include <pango/pangofc-fontmap.h>

#include <cmath>
#include <cstdlib>
#include <sys/mman.h>
#include <unistd.h>

namespace yokai::pages {

template <auto End> struct Ends {
    template <class T> void operator()(T* p) const { End(p); }
};
template <class T, auto End> using Owned = std::unique_ptr<T, Ends<End>>;

namespace {

// Fonts are asked for by a file's name; these lie in memory.
class MemoryFile {
public:
    explicit MemoryFile(std::span<const unsigned char> bytes) : fd_(::memfd_create("font", MFD_CLOEXEC))
    {
        std::size_t done = 0;
        while (fd_ >= 0 && done < bytes.size()) {
            const ssize_t n = ::write(fd_, bytes.data() + done, bytes.size() - done);
            if (n <= 0)
                throw std::bad_alloc();
            done += std::size_t(n);
        }
    }
    ~MemoryFile()
    {
        if (fd_ >= 0)
            ::close(fd_);
    }
    MemoryFile(const MemoryFile&) = delete;
    MemoryFile& operator=(const MemoryFile&) = delete;
    std::string name() const { return "/proc/self/fd/" + std::to_string(fd_); }

private:
    int fd_;
};

// The system's fonts, for scripts that Inter lacks, and Inter. Made once: the system's are many.
FcConfig* fonts()
{
    static const MemoryFile regular(interRegular()), semiBold(interSemiBold());
    static FcConfig* const config = [] {
        FcConfig* all = FcInitLoadConfigAndFonts();
        for (const MemoryFile* file : {&regular, &semiBold})
            FcConfigAppFontAddFile(all, reinterpret_cast<const FcChar8*>(file->name().c_str()));
        return all;
    }();
    return config;
}

cairo_status_t append(void* to, const unsigned char* data, unsigned length)
{
    auto& out = *static_cast<Bytes*>(to);
    out.insert(out.end(), data, data + length);
    return CAIRO_STATUS_SUCCESS;
}

// Premultiplied, as cairo has it.
Owned<cairo_surface_t, cairo_surface_destroy> surfaceOf(const Rgba8& px)
{
    Owned<cairo_surface_t, cairo_surface_destroy> surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, px.width(), px.height()));
    if (cairo_surface_status(surface.get()) != CAIRO_STATUS_SUCCESS)
        throw std::bad_alloc();
    unsigned char* data = cairo_image_surface_get_data(surface.get());
    const int stride = cairo_image_surface_get_stride(surface.get());
    for (int y = 0; y < px.height(); ++y) {
        auto* to = reinterpret_cast<std::uint32_t*>(data + std::ptrdiff_t(y) * stride);
        for (int x = 0; x < px.width(); ++x) {
            const Rgba c = px.at(x, y);
            const auto times = [&](std::uint32_t v) { return (v * c.a + 127) / 255; };
            to[x] = std::uint32_t(c.a) << 24 | times(c.r) << 16 | times(c.g) << 8 | times(c.b);
        }
    }
    cairo_surface_mark_dirty(surface.get());
    return surface;
}

// Averaged down to `width` x `height`; colours run on under what is clear, so that they may be averaged by themselves.
Rgba8 smaller(const Rgba8& px, int width, int height)
{
    Rgba8 out(width, height);
    const cv::Mat from(px.height(), px.width(), CV_8UC4, const_cast<Rgba*>(px.row(0)), std::size_t(px.width()) * sizeof(Rgba));
    cv::Mat to(height, width, CV_8UC4, out.row(0), std::size_t(width) * sizeof(Rgba));
    cv::resize(from, to, to.size(), 0, 0, cv::INTER_AREA);
    return out;
}

} // namespace

Path lineFrom(Point a, Point b)
{
    Path path;
    path.start = a;
    path.lineTo(b);
    path.closed = false;
    return path;
}

Colour colourOf(const char* hex)
{
    const auto rgb = unsigned(std::strtoul(hex + 1, nullptr, 16));
    return {double(rgb >> 16 & 255) / 255, double(rgb >> 8 & 255) / 255, double(rgb & 255) / 255};
}

struct Book::Inside {
    Bytes out;
    Owned<cairo_surface_t, cairo_surface_destroy> surface;
    Owned<cairo_t, cairo_destroy> cairo;
    Owned<PangoFontMap, g_object_unref> map;
    Owned<PangoContext, g_object_unref> context;
};

Book::Book(double width, double height, const std::string& title) : in_(std::make_unique<Inside>())
{
    in_->surface.reset(cairo_pdf_surface_create_for_stream(append, &in_->out, width * pointsPerMm, height * pointsPerMm));
    cairo_pdf_surface_set_metadata(in_->surface.get(), CAIRO_PDF_METADATA_TITLE, cleanText(title).c_str());
    cairo_pdf_surface_set_metadata(in_->surface.get(), CAIRO_PDF_METADATA_CREATOR, "Yokai");
    in_->cairo.reset(cairo_create(in_->surface.get()));
    cairo_scale(in_->cairo.get(), pointsPerMm, pointsPerMm);
    in_->map.reset(pango_cairo_font_map_new());
    pango_fc_font_map_set_config(PANGO_FC_FONT_MAP(in_->map.get()), fonts());
    in_->context.reset(pango_font_map_create_context(in_->map.get()));
    pango_cairo_context_set_resolution(in_->context.get(), 72);
}

Book::~Book() = default;

void Book::nextPage() { cairo_show_page(in_->cairo.get()); }

double Book::text(Point at, const std::string& words, const Type& type, double width, bool fromRight)
{
    constexpr double fine = 0.01; // mm: laid out in these, so that letters are not moved to whole dots
    cairo_t* cairo = in_->cairo.get();
    const Owned<PangoLayout, g_object_unref> layout(pango_layout_new(in_->context.get()));
    const Owned<PangoFontDescription, pango_font_description_free> font(pango_font_description_from_string(type.bold ? "Inter Semi-Bold" : "Inter"));
    pango_font_description_set_absolute_size(font.get(), type.size / fine * PANGO_SCALE);
    pango_layout_set_font_description(layout.get(), font.get());
    pango_layout_set_single_paragraph_mode(layout.get(), true);
    pango_layout_set_width(layout.get(), int(width / fine * PANGO_SCALE));
    pango_layout_set_ellipsize(layout.get(), PANGO_ELLIPSIZE_END);
    pango_layout_set_text(layout.get(), cleanText(words).c_str(), -1);
    PangoRectangle ink, all;
    pango_layout_get_extents(layout.get(), &ink, &all);
    const double wide = double(all.width) / PANGO_SCALE * fine;
    cairo_save(cairo);
    cairo_translate(cairo, fromRight ? at.x - wide : at.x, at.y);
    cairo_scale(cairo, fine, fine);
    cairo_set_source_rgb(cairo, type.colour.r, type.colour.g, type.colour.b);
    pango_cairo_show_layout(cairo, layout.get());
    cairo_restore(cairo);
    return wide;
}

void Book::stroke(const Paths& paths, const Pen& pen, const Affine& place)
{
    cairo_t* cairo = in_->cairo.get();
    for (const Path& path : paths) {
        const Point start = place(path.start);
        cairo_move_to(cairo, start.x, start.y);
        for (const Segment& s : path.segments) {
            const Point a = place(s.c1), b = place(s.c2), end = place(s.end);
            s.line ? cairo_line_to(cairo, end.x, end.y) : cairo_curve_to(cairo, a.x, a.y, b.x, b.y, end.x, end.y);
        }
        if (path.closed)
            cairo_close_path(cairo);
    }
    cairo_set_source_rgb(cairo, pen.colour.r, pen.colour.g, pen.colour.b);
    cairo_set_line_width(cairo, pen.width);
    cairo_set_line_join(cairo, CAIRO_LINE_JOIN_ROUND);
    cairo_set_dash(cairo, pen.dashes.data(), int(pen.dashes.size()), 0);
    cairo_stroke(cairo);
}

void Book::fill(const Rect& box, Colour colour)
{
    cairo_t* cairo = in_->cairo.get();
    cairo_rectangle(cairo, box.x0, box.y0, box.width(), box.height());
    cairo_set_source_rgb(cairo, colour.r, colour.g, colour.b);
    cairo_fill(cairo);
}

void Book::image(const Rgba8& pixels, double width, double height, const Affine& place, const Work& work)
{
    constexpr double mostPpi = 300;
    work.check();
    const double wide = width * std::hypot(place.a, place.b) / 25.4 * mostPpi, high = height * std::hypot(place.c, place.d) / 25.4 * mostPpi;
    const int w = std::clamp(int(std::ceil(wide)), 1, pixels.width()), h = std::clamp(int(std::ceil(high)), 1, pixels.height());
    const bool fewer = w < pixels.width() || h < pixels.height();
    const auto surface = fewer ? surfaceOf(smaller(pixels, w, h)) : surfaceOf(pixels);
    cairo_t* cairo = in_->cairo.get();
    cairo_save(cairo);
    const cairo_matrix_t matrix{place.a, place.b, place.c, place.d, place.e, place.f};
    cairo_transform(cairo, &matrix);
    cairo_scale(cairo, width / w, height / h);
    cairo_set_source_surface(cairo, surface.get(), 0, 0);
    cairo_pattern_set_filter(cairo_get_source(cairo), CAIRO_FILTER_GOOD);
    cairo_paint(cairo);
    cairo_restore(cairo);
}

Bytes Book::finish()
{
    cairo_show_page(in_->cairo.get());
    in_->cairo.reset();
    cairo_surface_finish(in_->surface.get());
    if (const cairo_status_t status = cairo_surface_status(in_->surface.get()); status != CAIRO_STATUS_SUCCESS)
        throw Error(ErrorKind::Output, "cannot write the page: {}; make room in memory", cairo_status_to_string(status));
    return std::move(in_->out);
}

} // namespace yokai::pages
