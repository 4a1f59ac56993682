#include "artwork/profile.h"

#include <lcms2.h>
#include <zlib.h>

#include <map>

namespace yokai {

namespace {

constexpr std::size_t mostProfileBytes = 16u << 20;

Bytes inflated(std::span<const unsigned char> packed)
{
    Bytes out;
    z_stream z{};
    if (inflateInit(&z) != Z_OK)
        return out;
    z.next_in = const_cast<unsigned char*>(packed.data());
    z.avail_in = unsigned(packed.size());
    int state = Z_OK;
    while (state == Z_OK && out.size() < mostProfileBytes) {
        const std::size_t had = out.size();
        out.resize(had + 65536);
        z.next_out = out.data() + had;
        z.avail_out = 65536;
        state = inflate(&z, Z_NO_FLUSH);
        out.resize(out.size() - z.avail_out);
    }
    inflateEnd(&z);
    if (state != Z_STREAM_END)
        out.clear();
    return out;
}

std::size_t bigEndian(const Bytes& b, std::size_t at, int bytes)
{
    std::size_t v = 0;
    for (int i = 0; i < bytes; ++i)
        v = v << 8 | b[at + std::size_t(i)];
    return v;
}

bool tag(const Bytes& b, std::size_t at, std::string_view text)
{
    return at + text.size() <= b.size() &&
           std::equal(text.begin(), text.end(), b.begin() + std::ptrdiff_t(at), [](char c, unsigned char u) { return static_cast<unsigned char>(c) == u; });
}

Bytes pngProfile(const Bytes& b)
{
    for (std::size_t at = 8; at + 12 <= b.size() && !tag(b, at + 4, "IDAT");) {
        const std::size_t n = bigEndian(b, at, 4);
        if (n > b.size() || at + 12 + n > b.size())
            break;
        if (tag(b, at + 4, "iCCP")) {
            std::size_t name = 0; // ends with a zero, then one byte says how it is packed
            while (name < n && b[at + 8 + name] != 0)
                ++name;
            if (name + 2 >= n)
                return {};
            return inflated(std::span(b).subspan(at + 8 + name + 2, n - name - 2));
        }
        at += 12 + n;
    }
    return {};
}

// The profile is cut into numbered parts of at most 64 KiB.
Bytes jpegProfile(const Bytes& b)
{
    std::map<int, Bytes> parts;
    for (std::size_t at = 2; at + 4 <= b.size() && b[at] == 0xff && b[at + 1] != 0xda;) {
        const std::size_t n = bigEndian(b, at + 2, 2);
        if (n < 2 || at + 2 + n > b.size())
            break;
        if (b[at + 1] == 0xe2 && n > 16 && tag(b, at + 4, std::string_view("ICC_PROFILE\0", 12)))
            parts[b[at + 16]] = Bytes(b.begin() + std::ptrdiff_t(at + 18), b.begin() + std::ptrdiff_t(at + 2 + n));
        at += 2 + n;
    }
    Bytes out;
    for (const auto& [number, part] : parts)
        out.insert(out.end(), part.begin(), part.end());
    return out;
}

Bytes webPProfile(const Bytes& b)
{
    for (std::size_t at = 12; at + 8 <= b.size();) {
        const std::size_t n = b[at + 4] | std::size_t(b[at + 5]) << 8 | std::size_t(b[at + 6]) << 16 | std::size_t(b[at + 7]) << 24;
        if (at + 8 + n > b.size())
            break;
        if (tag(b, at, "ICCP") && n < mostProfileBytes)
            return Bytes(b.begin() + std::ptrdiff_t(at + 8), b.begin() + std::ptrdiff_t(at + 8 + n));
        at += 8 + n + (n & 1);
    }
    return {};
}

struct CloseProfile {
    void operator()(void* p) const { cmsCloseProfile(p); }
};
struct DeleteTransform {
    void operator()(void* t) const { cmsDeleteTransform(t); }
};

// Null when the samples need no transform, or cannot have one.
std::unique_ptr<void, DeleteTransform> transformFor(const RawPicture& raw)
{
    if (raw.profile.empty())
        return {};
    const std::unique_ptr<void, CloseProfile> from(cmsOpenProfileFromMem(raw.profile.data(), cmsUInt32Number(raw.profile.size())));
    const std::unique_ptr<void, CloseProfile> to(cmsCreate_sRGBProfile());
    if (!from || !to)
        return {};
    const bool deep = raw.samples.depth() == CV_16U;
    cmsUInt32Number format = 0;
    cmsColorSpaceSignature expected = cmsSigRgbData;
    switch (raw.space) {
    case RawPicture::Space::Grey:
        format = deep ? TYPE_GRAY_16 : TYPE_GRAY_8;
        expected = cmsSigGrayData;
        break;
    case RawPicture::Space::Rgb:
        format = deep ? TYPE_RGB_16 : TYPE_RGB_8;
        break;
    case RawPicture::Space::Cmyk:
        format = deep ? TYPE_CMYK_16 : TYPE_CMYK_8;
        expected = cmsSigCmykData;
        break;
    }
    if (raw.alpha)
        format |= EXTRA_SH(1);
    if (cmsGetColorSpace(from.get()) != expected)
        return {};
    return std::unique_ptr<void, DeleteTransform>(
        cmsCreateTransform(from.get(), format, to.get(), TYPE_RGBA_8, INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_BLACKPOINTCOMPENSATION | cmsFLAGS_NOCACHE));
}

template <class T> void plainRow(const T* from, Rgba* to, int width, int channels, RawPicture::Space space, bool alpha)
{
    const auto byte = [](T v) { return sizeof(T) == 1 ? std::uint8_t(v) : std::uint8_t((unsigned(v) + 128) / 257); };
    for (int x = 0; x < width; ++x, from += channels) {
        Rgba& c = to[x];
        switch (space) {
        case RawPicture::Space::Grey:
            c.r = c.g = c.b = byte(from[0]);
            break;
        case RawPicture::Space::Rgb:
            c = {byte(from[0]), byte(from[1]), byte(from[2]), 255};
            break;
        case RawPicture::Space::Cmyk: {
            const unsigned light = 255u - byte(from[3]);
            c = {std::uint8_t((255u - byte(from[0])) * light / 255), std::uint8_t((255u - byte(from[1])) * light / 255),
                 std::uint8_t((255u - byte(from[2])) * light / 255), 255};
            break;
        }
        }
        c.a = alpha ? byte(from[channels - 1]) : 255;
    }
}

} // namespace

bool profileFits(const RawPicture& raw)
{
    const std::unique_ptr<void, CloseProfile> profile(raw.profile.empty() ? nullptr : cmsOpenProfileFromMem(raw.profile.data(), cmsUInt32Number(raw.profile.size())));
    if (!profile)
        return false;
    const cmsColorSpaceSignature space = cmsGetColorSpace(profile.get());
    return raw.space == RawPicture::Space::Rgb ? space == cmsSigRgbData : raw.space == RawPicture::Space::Cmyk ? space == cmsSigCmykData : space == cmsSigGrayData;
}

SharedRgba samplesOf(const RawPicture& raw, const Work& work)
{
    const cv::Mat& samples = raw.samples;
    auto out = std::make_shared<Rgba8>(samples.cols, samples.rows);
    const int channels = samples.channels();
    const bool inks = raw.space == RawPicture::Space::Cmyk;
    for (int y = 0; y < samples.rows; ++y) {
        if ((y & 31) == 0)
            work.check();
        const auto row = [&](const auto* from, auto byte) {
            Rgba* to = out->row(y);
            for (int x = 0; x < samples.cols; ++x, from += channels)
                to[x] = {byte(from[0]), byte(from[1]), byte(from[2]), inks ? byte(from[3]) : std::uint8_t(255)};
        };
        if (samples.depth() == CV_16U)
            row(samples.ptr<std::uint16_t>(y), [](std::uint16_t v) { return std::uint8_t((unsigned(v) + 128) / 257); });
        else
            row(samples.ptr<std::uint8_t>(y), [](std::uint8_t v) { return v; });
    }
    return out;
}

Bytes embeddedProfile(const Bytes& file, PictureFormat format)
{
    switch (format) {
    case PictureFormat::Png:
        return pngProfile(file);
    case PictureFormat::Jpeg:
        return jpegProfile(file);
    case PictureFormat::WebP:
        return webPProfile(file);
    default:
        return {};
    }
}

SharedRgba toSrgb(const RawPicture& raw, const Work& work)
{
    const cv::Mat& m = raw.samples;
    const auto transform = transformFor(raw);
    if (!transform && raw.place && m.data == reinterpret_cast<const uchar*>(raw.place->all().data()))
        return raw.place; // four bytes a pixel where they belong already
    auto out = std::make_shared<Rgba8>(m.cols, m.rows);
    const bool deep = m.depth() == CV_16U;
    const int channels = m.channels();
    parallelSlices(m.rows, 64, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 31) == 0)
                work.check();
            Rgba* to = out->row(y);
            if (deep)
                plainRow(m.ptr<std::uint16_t>(y), to, m.cols, channels, raw.space, raw.alpha);
            else
                plainRow(m.ptr<std::uint8_t>(y), to, m.cols, channels, raw.space, raw.alpha);
            if (transform) // leaves the alpha as it is
                cmsDoTransform(transform.get(), m.ptr(y), to, cmsUInt32Number(m.cols));
        }
    });
    return out;
}

} // namespace yokai
