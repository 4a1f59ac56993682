#include "artwork/artwork.h"
#include "artwork/heif.h"
#include "artwork/pdf_page.h"
#include "artwork/svg_size.h"
#include "base/error.h"

#include <cmath>
#include <cstring>
#include <string_view>

namespace yokai {

namespace {

// Reads numbers from bytes that may end anywhere: out of range is an error, never a read beyond.
class Reader {
public:
    struct Short {};
    struct NoSuchPage {};
    explicit Reader(std::span<const unsigned char> data, bool big = true) : data_(data), big_(big) {}
    std::size_t size() const { return data_.size(); }
    void order(bool big) { big_ = big; }
    std::uint8_t u8(std::size_t at) const { return data_[check(at, 1)]; }
    std::uint32_t u16(std::size_t at) const
    {
        check(at, 2);
        return big_ ? data_[at] << 8 | data_[at + 1] : data_[at + 1] << 8 | data_[at];
    }
    std::uint32_t u24(std::size_t at) const { return big_ ? u8(at) << 16 | u16(at + 1) : u16(at) | u8(at + 2) << 16; }
    std::uint32_t u32(std::size_t at) const { return big_ ? u16(at) << 16 | u16(at + 2) : u16(at) | u16(at + 2) << 16; }
    bool text(std::size_t at, std::string_view t) const
    {
        return at <= data_.size() && data_.size() - at >= t.size() && std::memcmp(data_.data() + at, t.data(), t.size()) == 0;
    }
    std::span<const unsigned char> part(std::size_t at, std::size_t n) const
    {
        check(at, n);
        return data_.subspan(at, n);
    }

private:
    std::size_t check(std::size_t at, std::size_t n) const
    {
        if (at > data_.size() || data_.size() - at < n)
            throw Short();
        return at;
    }
    std::span<const unsigned char> data_;
    bool big_;
};

void setPpi(PictureInfo& info, double ppi)
{
    // Files carry nonsense (0, 1, 65535); what no printer means is taken as not said.
    if (std::isfinite(ppi) && ppi >= 10 && ppi <= 10'000) {
        info.ppi = std::abs(ppi - std::round(ppi)) < 0.03 ? std::round(ppi) : ppi;
        info.ppiFrom = PpiSource::File;
    }
}

struct TiffTags {
    std::uint32_t width = 0, height = 0, orientation = 1, unit = 2;
    double resolution = 0;
    int pages = 1;
};

// A directory of a TIFF structure, which EXIF uses too.
TiffTags readTiffTags(std::span<const unsigned char> data, int page = 0)
{
    Reader r(data);
    if (!(r.text(0, "II") || r.text(0, "MM")))
        throw Reader::Short();
    r.order(r.text(0, "MM"));
    TiffTags tags;
    constexpr int mostPages = 10'000; // a chain of directories may run in a circle
    std::size_t dir = 0;
    tags.pages = 0;
    for (std::size_t at = r.u32(4); at != 0 && tags.pages < mostPages; ++tags.pages) {
        if (tags.pages == page)
            dir = at;
        const std::size_t next = at + 2 + std::size_t(r.u16(at)) * 12;
        if (tags.pages >= page && next + 4 > data.size()) {
            ++tags.pages;
            break; // EXIF writers may leave the end of the chain out
        }
        at = r.u32(next);
    }
    if (dir == 0 && tags.pages > 0)
        throw Reader::NoSuchPage();
    const int count = int(r.u16(dir));
    for (int i = 0; i < count; ++i) {
        const std::size_t e = dir + 2 + std::size_t(i) * 12;
        const auto type = r.u16(e + 2);
        const auto number = [&] { return type == 3 ? r.u16(e + 8) : r.u32(e + 8); };
        switch (r.u16(e)) {
        case 256:
            tags.width = number();
            break;
        case 257:
            tags.height = number();
            break;
        case 274:
            tags.orientation = number();
            break;
        case 282: {
            const std::size_t at = r.u32(e + 8);
            const double lower = r.u32(at + 4);
            if (lower > 0)
                tags.resolution = r.u32(at) / lower;
            break;
        }
        case 296:
            tags.unit = number();
            break;
        default:
            break;
        }
    }
    return tags;
}

void applyExif(PictureInfo& info, std::span<const unsigned char> tiff)
{
    try {
        const TiffTags tags = readTiffTags(tiff);
        if (tags.orientation >= 1 && tags.orientation <= 8)
            info.orientation = int(tags.orientation);
        if (info.ppiFrom == PpiSource::Assumed && (tags.unit == 2 || tags.unit == 3))
            setPpi(info, tags.resolution * (tags.unit == 3 ? 2.54 : 1));
    } catch (const Reader::Short&) {
        // Damaged metadata does not make the picture unreadable.
    }
}

void readPng(const Reader& r, PictureInfo& info)
{
    info.format = PictureFormat::Png;
    info.width = int(std::min(r.u32(16), 0x7fffffffu));
    info.height = int(std::min(r.u32(20), 0x7fffffffu));
    for (std::size_t at = 8; at + 12 <= r.size();) {
        const std::size_t n = r.u32(at);
        if (r.text(at + 4, "pHYs") && r.u8(at + 16) == 1)
            setPpi(info, r.u32(at + 8) * 0.0254);
        if (r.text(at + 4, "eXIf"))
            applyExif(info, r.part(at + 8, n));
        if (r.text(at + 4, "IDAT"))
            break;
        at += 12 + n;
    }
}

void readJpeg(const Reader& r, PictureInfo& info)
{
    info.format = PictureFormat::Jpeg;
    info.lossy = true;
    std::size_t at = 2;
    for (;;) {
        while (r.u8(at) == 0xff && r.u8(at + 1) == 0xff)
            ++at;
        if (r.u8(at) != 0xff)
            throw Reader::Short();
        const int marker = r.u8(at + 1);
        if (marker == 0xd8 || (marker >= 0xd0 && marker <= 0xd7) || marker == 0x01) {
            at += 2;
            continue;
        }
        const std::size_t n = r.u16(at + 2);
        if (marker == 0xe0 && r.text(at + 4, "JFIF")) {
            const int unit = r.u8(at + 11);
            if (unit == 1 || unit == 2)
                setPpi(info, r.u16(at + 12) * (unit == 2 ? 2.54 : 1));
        } else if (marker == 0xe1 && r.text(at + 4, std::string_view("Exif\0\0", 6)) && n >= 8) {
            applyExif(info, r.part(at + 10, n - 8));
        } else if (marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc) {
            info.height = int(r.u16(at + 5));
            info.width = int(r.u16(at + 7));
            info.inks = r.u8(at + 9) == 4;
            return;
        } else if (marker == 0xd9 || marker == 0xda) {
            throw Reader::Short();
        }
        at += 2 + n;
    }
}

void readTiff(const Reader& r, PictureInfo& info, int page)
{
    info.format = PictureFormat::Tiff;
    const TiffTags tags = readTiffTags(r.part(0, r.size()), page);
    info.pages = tags.pages;
    info.page = page;
    info.width = int(std::min(tags.width, 0x7fffffffu));
    info.height = int(std::min(tags.height, 0x7fffffffu));
    if (tags.orientation >= 1 && tags.orientation <= 8)
        info.orientation = int(tags.orientation);
    if (tags.unit == 2 || tags.unit == 3)
        setPpi(info, tags.resolution * (tags.unit == 3 ? 2.54 : 1));
}

void readWebP(Reader r, PictureInfo& info)
{
    info.format = PictureFormat::WebP;
    r.order(false);
    for (std::size_t at = 12; at + 8 <= r.size();) {
        const std::size_t n = r.u32(at + 4);
        if (r.text(at, "VP8X")) {
            info.width = int(r.u24(at + 12)) + 1;
            info.height = int(r.u24(at + 15)) + 1;
        } else if (r.text(at, "VP8L") && info.width == 0) {
            const std::uint32_t bits = r.u32(at + 9);
            info.width = int(bits & 0x3fff) + 1;
            info.height = int(bits >> 14 & 0x3fff) + 1;
        } else if (r.text(at, "VP8 ") && info.width == 0) {
            info.width = int(r.u16(at + 14) & 0x3fff);
            info.height = int(r.u16(at + 16) & 0x3fff);
        } else if (r.text(at, "EXIF")) {
            auto part = r.part(at + 8, n);
            if (part.size() > 6 && std::memcmp(part.data(), "Exif\0\0", 6) == 0)
                part = part.subspan(6);
            applyExif(info, part);
        }
        at += 8 + n + (n & 1);
    }
}

void readBmp(Reader r, PictureInfo& info)
{
    info.format = PictureFormat::Bmp;
    r.order(false);
    info.width = std::abs(int(r.u32(18)));
    info.height = std::abs(int(r.u32(22)));
    if (r.u32(14) >= 40)
        setPpi(info, r.u32(38) * 0.0254);
}

void readGif(Reader r, PictureInfo& info)
{
    info.format = PictureFormat::Gif;
    r.order(false);
    info.width = int(r.u16(6));
    info.height = int(r.u16(8));
}

// Its own properties say how it is turned; what EXIF says of that is the same once more.
void readHeifFacts(const Bytes& bytes, PictureInfo& info)
{
    info.format = PictureFormat::Heif;
    info.lossy = true;
    const auto facts = heifFacts(bytes);
    if (!facts)
        throw Reader::Short();
    info.width = facts->width;
    info.height = facts->height;
    applyExif(info, facts->exif);
    info.orientation = 1;
}

// A drawing has no pixels of its own: as many as are sharp at several times its size, mm.
void sizeDrawing(PictureInfo& info, double width, double height)
{
    constexpr double longest = 3000, finest = 600; // px of the longer side; ppi of what is larger
    const double side = std::max(width, height), px = std::min(std::max(longest, side / 25.4 * finest), 0.8 * mostPixelsAcross);
    const double pxPerMm = px / side;
    info.width = std::max(1, int(std::lround(width * pxPerMm)));
    info.height = std::max(1, int(std::lround(height * pxPerMm)));
    info.ppi = pxPerMm * 25.4;
    info.ppiFrom = PpiSource::File;
}

void readPdfPage(const Bytes& bytes, PictureInfo& info, int page)
{
    info.format = PictureFormat::Pdf;
    const auto facts = pdfPageFacts(bytes, page);
    if (!facts || facts->pages < 1)
        throw Reader::Short();
    info.pages = facts->pages;
    info.page = page;
    if (page >= facts->pages)
        throw Reader::NoSuchPage();
    if (!(facts->width > 0 && facts->height > 0))
        throw Reader::Short();
    sizeDrawing(info, facts->width, facts->height);
}

void readSvgSize(const Bytes& bytes, PictureInfo& info)
{
    info.format = PictureFormat::Svg;
    const auto size = svgSize(bytes);
    if (!size)
        throw Reader::Short();
    sizeDrawing(info, size->width, size->height);
    info.sized = size->physical;
}

} // namespace

PictureInfo readPictureInfo(const Bytes& bytes, const std::string& name, int page)
{
    const auto fail = [&](const std::string& why) { return Error(ErrorKind::Input, "cannot read '" + name + "': " + why); };
    if (bytes.empty())
        throw fail("the file is empty; save the picture again");
    const Reader r(bytes);
    PictureInfo info;
    try {
        if (r.text(0, "\x89PNG\r\n\x1a\n"))
            readPng(r, info);
        else if (r.text(0, "\xff\xd8\xff"))
            readJpeg(r, info);
        else if (r.text(0, std::string_view("II*\0", 4)) || r.text(0, std::string_view("MM\0*", 4)))
            readTiff(r, info, page);
        else if (r.text(0, "RIFF") && r.text(8, "WEBP"))
            readWebP(r, info);
        else if (r.text(0, "BM") && r.size() > 30)
            readBmp(r, info);
        else if (r.text(0, "GIF87a") || r.text(0, "GIF89a"))
            readGif(r, info);
        else if (looksLikeHeif(bytes))
            readHeifFacts(bytes, info);
        else if (looksLikePdf(bytes))
            readPdfPage(bytes, info, page);
        else if (looksLikeSvg(bytes))
            readSvgSize(bytes, info);
        else
            throw fail("it is not a PNG, JPEG, TIFF, WebP, BMP, GIF, HEIC or AVIF picture, nor an SVG or PDF drawing; save it as one of these");
        if (page >= info.pages)
            throw Reader::NoSuchPage();
    } catch (const Reader::NoSuchPage&) {
        throw fail("it has no page " + std::to_string(page + 1) + "; choose an earlier one");
    } catch (const Reader::Short&) {
        throw fail("the picture is cut short or damaged; save it or copy it again");
    }
    if (info.width <= 0 || info.height <= 0)
        throw fail("its header gives no size; save the picture again");
    if (info.width > mostPixelsAcross || info.height > mostPixelsAcross)
        throw fail("it is " + std::to_string(info.width) + " x " + std::to_string(info.height) + " px; make it at most 10000 x 10000 px");
    if (info.orientation >= 5)
        std::swap(info.width, info.height);
    return info;
}

} // namespace yokai
