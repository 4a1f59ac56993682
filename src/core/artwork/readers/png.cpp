#include "artwork/readers/readers.h"

#include <csetjmp>
#include <cstring>

#include <png.h>

namespace yokai {

namespace {

struct From {
    const Bytes* bytes;
    std::size_t at = 0;
};

void giveBytes(png_structp png, png_bytep to, png_size_t n)
{
    auto* from = static_cast<From*>(png_get_io_ptr(png));
    if (from->bytes->size() - from->at < n)
        png_error(png, "cut short");
    std::memcpy(to, from->bytes->data() + from->at, n);
    from->at += n;
}
[[noreturn]] void fails(png_structp png, png_const_charp) { png_longjmp(png, 1); }
void keepsQuiet(png_structp, png_const_charp) {}

// Each call sets its own way back and holds nothing that would have to be destroyed on it.
class Png {
public:
    explicit Png(const Bytes& bytes) : from_{&bytes}, png_(png_create_read_struct(PNG_LIBPNG_VER_STRING, nullptr, fails, keepsQuiet))
    {
        if (png_)
            info_ = png_create_info_struct(png_);
    }
    ~Png() { png_destroy_read_struct(&png_, &info_, nullptr); }
    Png(const Png&) = delete;
    Png& operator=(const Png&) = delete;

    // Reads what comes before the pixels and settles how they come: eight or sixteen bits, no
    // palette, transparency as alpha. `asRgba`: eight-bit ones always as red, green, blue, alpha.
    bool begin(bool asRgba)
    {
        if (!info_ || setjmp(png_jmpbuf(png_)))
            return false;
        png_set_read_fn(png_, &from_, giveBytes);
        png_set_user_limits(png_, unsigned(mostPixelsAcross), unsigned(mostPixelsAcross));
        png_read_info(png_, info_);
        png_set_expand(png_); // palettes, few bits, and tRNS, of grey too
        if (png_get_bit_depth(png_, info_) == 16)
            png_set_swap(png_); // the file has the high byte first
        else if (asRgba) {
            png_set_gray_to_rgb(png_);
            png_set_add_alpha(png_, 0xff, PNG_FILLER_AFTER);
        }
        passes_ = png_set_interlace_handling(png_);
        png_read_update_info(png_, info_);
        return true;
    }
    bool row(unsigned char* to)
    {
        if (setjmp(png_jmpbuf(png_)))
            return false;
        png_read_row(png_, to, nullptr);
        return true;
    }
    int passes() const { return passes_; }
    int width() const { return int(png_get_image_width(png_, info_)); }
    int height() const { return int(png_get_image_height(png_, info_)); }
    int depth() const { return png_get_bit_depth(png_, info_); }
    int channels() const { return png_get_channels(png_, info_); }

private:
    From from_;
    png_structp png_;
    png_infop info_ = nullptr;
    int passes_ = 1;
};

} // namespace

RawPicture readPng(const Picture& picture, const Work& work)
{
    RawPicture raw;
    raw.profile = embeddedProfile(*picture.bytes, PictureFormat::Png);
    Png png(*picture.bytes);
    if (!png.begin(raw.profile.empty()))
        return raw;
    if (png.depth() == 8 && png.channels() == 4)
        decodeInPlace(raw, png.width(), png.height());
    else {
        raw.samples.create(png.height(), png.width(), CV_MAKETYPE(png.depth() == 16 ? CV_16U : CV_8U, png.channels()));
        raw.space = png.channels() < 3 ? RawPicture::Space::Grey : RawPicture::Space::Rgb;
        raw.alpha = png.channels() % 2 == 0;
    }
    for (int pass = 0; pass < png.passes(); ++pass)
        for (int y = 0; y < raw.samples.rows; ++y) {
            if ((y & 15) == 0)
                work.check();
            if (!png.row(raw.samples.ptr(y))) {
                raw.samples.release();
                return raw;
            }
        }
    return raw;
}

namespace {

struct To {
    Bytes bytes;
};
void takeBytes(png_structp png, png_bytep from, png_size_t n)
{
    Bytes& to = static_cast<To*>(png_get_io_ptr(png))->bytes;
    to.insert(to.end(), from, from + n);
}
void flushNothing(png_structp) {}

class PngWriter {
public:
    PngWriter() : png_(png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, fails, keepsQuiet))
    {
        if (png_)
            info_ = png_create_info_struct(png_);
    }
    ~PngWriter() { png_destroy_write_struct(&png_, &info_); }
    PngWriter(const PngWriter&) = delete;
    PngWriter& operator=(const PngWriter&) = delete;
    bool begin(int width, int height, double ppi)
    {
        if (!info_ || setjmp(png_jmpbuf(png_)))
            return false;
        constexpr int quick = 4; // of zlib's nine: twice as fast as its default, a few percent larger
        png_set_write_fn(png_, &to_, takeBytes, flushNothing);
        png_set_compression_level(png_, quick);
        png_set_IHDR(png_, info_, unsigned(width), unsigned(height), 8, PNG_COLOR_TYPE_RGBA, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT,
                     PNG_FILTER_TYPE_DEFAULT);
        if (const auto perMetre = unsigned(ppi / 0.0254 + 0.5); ppi > 0)
            png_set_pHYs(png_, info_, perMetre, perMetre, PNG_RESOLUTION_METER);
        png_write_info(png_, info_);
        return true;
    }
    bool row(const Rgba* pixels)
    {
        if (setjmp(png_jmpbuf(png_)))
            return false;
        png_write_row(png_, reinterpret_cast<const unsigned char*>(pixels));
        return true;
    }
    bool end()
    {
        if (setjmp(png_jmpbuf(png_)))
            return false;
        png_write_end(png_, nullptr);
        return true;
    }
    Bytes bytes() { return std::move(to_.bytes); }

private:
    To to_;
    png_structp png_;
    png_infop info_ = nullptr;
};

} // namespace

Bytes encodePng(const Rgba8& pixels, const Work& work, double ppi)
{
    if (pixels.empty())
        throw Error(ErrorKind::Input, "there is no picture to keep; copy one first");
    PngWriter png;
    bool good = png.begin(pixels.width(), pixels.height(), ppi);
    for (int y = 0; good && y < pixels.height(); ++y) {
        if ((y & 15) == 0)
            work.check();
        good = png.row(pixels.row(y));
    }
    if (!good || !png.end())
        throw Error(ErrorKind::Output, "there is not enough memory to pack a picture; close other programs");
    return png.bytes();
}

} // namespace yokai
