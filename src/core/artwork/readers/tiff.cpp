#include "artwork/readers/readers.h"

#include <algorithm>
#include <cstring>
#include <memory>

#include <tiffio.h>

namespace yokai {

namespace {

struct TiffBytes {
    const Bytes* bytes;
    std::size_t at = 0;
};

tmsize_t readTiffBytes(thandle_t handle, void* to, tmsize_t n)
{
    auto* from = static_cast<TiffBytes*>(handle);
    const std::size_t left = from->at < from->bytes->size() ? from->bytes->size() - from->at : 0;
    const std::size_t count = std::min(std::size_t(n), left);
    std::memcpy(to, from->bytes->data() + from->at, count);
    from->at += count;
    return tmsize_t(count);
}
tmsize_t writeNoTiff(thandle_t, void*, tmsize_t) { return 0; }
toff_t seekTiff(thandle_t handle, toff_t offset, int whence)
{
    auto* from = static_cast<TiffBytes*>(handle);
    from->at = whence == SEEK_SET ? offset : whence == SEEK_CUR ? from->at + offset : from->bytes->size() + offset;
    return from->at;
}
int closeNoTiff(thandle_t) { return 0; }
toff_t sizeOfTiff(thandle_t handle) { return static_cast<TiffBytes*>(handle)->bytes->size(); }
// The bytes are there as they are. Where libtiff reads them for itself, it refuses uncompressed
// tiles that are no whole kilobytes.
int mapTiff(thandle_t handle, void** base, toff_t* size)
{
    auto* from = static_cast<TiffBytes*>(handle);
    *base = const_cast<std::uint8_t*>(from->bytes->data()); // only read
    *size = from->bytes->size();
    return 1;
}
void unmapNoTiff(thandle_t, void*, toff_t) {}

struct CloseTiff {
    void operator()(TIFF* tiff) const { TIFFClose(tiff); }
};

struct Layout {
    std::uint32_t width = 0, height = 0, rows = 0;
    std::uint16_t photometric = 0, bits = 8, samples = 1, planar = PLANARCONFIG_CONTIG, format = SAMPLEFORMAT_UINT, extraCount = 0;
    std::uint16_t* extra = nullptr;
    bool tiled = false;

    explicit Layout(TIFF* tiff)
    {
        TIFFGetField(tiff, TIFFTAG_IMAGEWIDTH, &width);
        TIFFGetField(tiff, TIFFTAG_IMAGELENGTH, &height);
        TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &photometric);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &samples);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_PLANARCONFIG, &planar);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLEFORMAT, &format);
        TIFFGetFieldDefaulted(tiff, TIFFTAG_EXTRASAMPLES, &extraCount, &extra);
        tiled = TIFFIsTiled(tiff);
        TIFFGetFieldDefaulted(tiff, tiled ? TIFFTAG_TILELENGTH : TIFFTAG_ROWSPERSTRIP, &rows);
    }
    int colours() const
    {
        switch (photometric) {
        case PHOTOMETRIC_MINISBLACK:
        case PHOTOMETRIC_MINISWHITE:
            return 1;
        case PHOTOMETRIC_RGB:
            return 3;
        case PHOTOMETRIC_SEPARATED:
            return 4;
        default:
            return 0;
        }
    }
    // Whether its rows can be taken as they are.
    bool plain() const
    {
        const bool depth = (format == SAMPLEFORMAT_UINT && (bits == 8 || bits == 16)) || (format == SAMPLEFORMAT_IEEEFP && bits == 32);
        const bool alpha = samples == colours() + 1 && extraCount == 1;
        return depth && planar == PLANARCONFIG_CONTIG && !tiled && colours() > 0 && (samples == colours() || (alpha && colours() < 4));
    }
};

// 0 .. 1 as a byte.
void bytesOf(const float* from, unsigned char* to, std::size_t count)
{
    for (std::size_t i = 0; i < count; ++i)
        to[i] = static_cast<unsigned char>(std::clamp(from[i], 0.0f, 1.0f) * 255 + 0.5f);
}

template <class T> void invert(T* row, std::size_t pixels, int channels, bool alpha)
{
    for (std::size_t i = 0; i < pixels; ++i)
        for (int k = 0; k < channels - alpha; ++k)
            row[i * std::size_t(channels) + std::size_t(k)] = T(~row[i * std::size_t(channels) + std::size_t(k)]);
}

template <class T> void unmultiply(T* row, std::size_t pixels, int channels)
{
    constexpr unsigned most = T(~T(0));
    for (std::size_t i = 0; i < pixels; ++i, row += channels)
        if (const unsigned a = row[channels - 1]; a > 0 && a < most)
            for (int k = 0; k + 1 < channels; ++k)
                row[k] = T(std::min<std::uint64_t>(most, (std::uint64_t(row[k]) * most + a / 2) / a));
}

bool readRows(TIFF* tiff, const Layout& l, RawPicture& raw, const Work& work)
{
    const bool deep = l.bits == 16, real = l.bits == 32;
    raw.alpha = l.samples > l.colours();
    raw.space = l.colours() == 1 ? RawPicture::Space::Grey : l.colours() == 3 ? RawPicture::Space::Rgb : RawPicture::Space::Cmyk;
    raw.samples.create(int(l.height), int(l.width), CV_MAKETYPE(deep ? CV_16U : CV_8U, l.samples));
    const std::size_t values = std::size_t(l.width) * l.samples;
    if (std::size_t(TIFFScanlineSize(tiff)) != values * (l.bits / 8))
        return false;
    const bool multiplied = raw.alpha && l.extra && l.extra[0] == EXTRASAMPLE_ASSOCALPHA, inverted = l.photometric == PHOTOMETRIC_MINISWHITE;
    std::vector<float> line(real ? values : 0);
    for (int y = 0; y < int(l.height); ++y) {
        if ((y & 15) == 0)
            work.check();
        unsigned char* to = raw.samples.ptr(y);
        if (TIFFReadScanline(tiff, real ? static_cast<void*>(line.data()) : to, std::uint32_t(y)) != 1)
            return false;
        if (real)
            bytesOf(line.data(), to, values);
        auto* wide = reinterpret_cast<std::uint16_t*>(to);
        if (inverted)
            deep ? invert(wide, l.width, l.samples, raw.alpha) : invert(to, l.width, l.samples, raw.alpha);
        if (multiplied)
            deep ? unmultiply(wide, l.width, l.samples) : unmultiply(to, l.width, l.samples);
    }
    return true;
}

// Whatever libtiff can make red, green, blue and alpha of, a few strips or a row of tiles at a time.
bool readBands(TIFF* tiff, const Layout& l, RawPicture& raw, const Work& work)
{
    char why[1024];
    TIFFRGBAImage image;
    if (!TIFFRGBAImageOK(tiff, why) || !TIFFRGBAImageBegin(&image, tiff, 1, why))
        return false;
    const struct End {
        TIFFRGBAImage& image;
        ~End() { TIFFRGBAImageEnd(&image); }
    } end{image};
    image.req_orientation = image.orientation; // as stored; turning it upright is ours
    const bool multiplied = image.alpha != 0;
    decodeInPlace(raw, int(l.width), int(l.height));
    constexpr std::uint32_t about = 64;
    const std::uint32_t unit = std::clamp<std::uint32_t>(l.rows, 1, l.height), band = (about + unit - 1) / unit * unit;
    for (std::uint32_t y = 0; y < l.height; y += band) {
        work.check();
        const std::uint32_t rows = std::min(band, l.height - y);
        image.row_offset = int(y);
        if (!TIFFRGBAImageGet(&image, raw.samples.ptr<std::uint32_t>(int(y)), l.width, rows))
            return false;
        for (std::uint32_t k = 0; k < rows && multiplied; ++k)
            unmultiply(raw.samples.ptr(int(y + k)), l.width, 4);
    }
    return true;
}

} // namespace

RawPicture readTiff(const Picture& picture, const Work& work)
{
    // What libtiff thinks of a file is said in one line of ours instead.
    static const bool quiet = (TIFFSetErrorHandler(nullptr), TIFFSetWarningHandler(nullptr), true);
    RawPicture raw;
    TiffBytes from{picture.bytes.get()};
    const std::unique_ptr<TIFF, CloseTiff> tiff(
        quiet ? TIFFClientOpen("picture", "r", &from, readTiffBytes, writeNoTiff, seekTiff, closeNoTiff, sizeOfTiff, mapTiff, unmapNoTiff) : nullptr);
    if (!tiff || !TIFFSetDirectory(tiff.get(), tdir_t(picture.info.page)))
        return raw;
    const Layout layout(tiff.get());
    if (layout.width == 0 || layout.height == 0 || layout.width > unsigned(mostPixelsAcross) || layout.height > unsigned(mostPixelsAcross))
        return raw;
    std::uint32_t count = 0;
    const void* profile = nullptr;
    if (TIFFGetField(tiff.get(), TIFFTAG_ICCPROFILE, &count, &profile) && profile)
        raw.profile.assign(static_cast<const unsigned char*>(profile), static_cast<const unsigned char*>(profile) + count);
    if (layout.photometric == PHOTOMETRIC_SEPARATED && raw.profile.empty() && layout.plain() && layout.bits == 32)
        return raw;
    if (!(layout.plain() ? readRows(tiff.get(), layout, raw, work) : readBands(tiff.get(), layout, raw, work)))
        raw.samples.release();
    return raw;
}

} // namespace yokai
