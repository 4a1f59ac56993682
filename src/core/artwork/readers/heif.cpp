#include "artwork/heif.h"

#include "artwork/readers/drawn.h"

#include <lcms2.h>
#include <libheif/heif.h>

#include <memory>

namespace yokai {

namespace {

struct Ends {
    void operator()(heif_context* c) const { heif_context_free(c); }
    void operator()(heif_image_handle* h) const { heif_image_handle_release(h); }
    void operator()(heif_image* i) const { heif_image_release(i); }
    void operator()(heif_color_profile_nclx* p) const { heif_nclx_color_profile_free(p); }
};
template <class T> using Held = std::unique_ptr<T, Ends>;

// The picture that the file is of; its bytes must outlive it.
struct Primary {
    Held<heif_context> context{heif_context_alloc()};
    Held<heif_image_handle> handle;

    explicit Primary(const Bytes& bytes)
    {
        heif_image_handle* found = nullptr;
        if (heif_context_read_from_memory_without_copy(context.get(), bytes.data(), bytes.size(), nullptr).code == heif_error_Ok &&
            heif_context_get_primary_image_handle(context.get(), &found).code == heif_error_Ok)
            handle.reset(found);
    }
};

// Display P3 and the like are often named by number alone (ITU-T H.273). As a profile, with sRGB's curve, which those in use have; empty: sRGB.
Bytes profileOfNumber(heif_color_primaries primaries)
{
    static constexpr struct {
        heif_color_primaries number;
        cmsCIExyYTRIPLE is;
    } known[] = {{heif_color_primaries_SMPTE_EG_432_1, {{0.680, 0.320, 1}, {0.265, 0.690, 1}, {0.150, 0.060, 1}}},
                 {heif_color_primaries_ITU_R_BT_2020_2_and_2100_0, {{0.708, 0.292, 1}, {0.170, 0.797, 1}, {0.131, 0.046, 1}}}};
    Bytes out;
    for (const auto& k : known) {
        if (k.number != primaries)
            continue;
        const cmsCIExyY white{0.3127, 0.3290, 1};
        const cmsFloat64Number srgb[] = {2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045};
        cmsToneCurve* curve = cmsBuildParametricToneCurve(nullptr, 4, srgb);
        cmsToneCurve* const three[] = {curve, curve, curve};
        cmsHPROFILE profile = cmsCreateRGBProfile(&white, &k.is, three);
        cmsUInt32Number size = 0;
        if (profile && cmsSaveProfileToMem(profile, nullptr, &size)) {
            out.resize(size);
            cmsSaveProfileToMem(profile, out.data(), &size);
        }
        cmsCloseProfile(profile);
        cmsFreeToneCurve(curve);
    }
    return out;
}

// Of the file, or else of the coded picture in it.
Bytes profileOf(heif_image_handle* handle, const heif_image* image)
{
    const heif_color_profile_type type = heif_image_handle_get_color_profile_type(handle);
    if (type == heif_color_profile_type_rICC || type == heif_color_profile_type_prof) {
        constexpr std::size_t most = 16u << 20;
        Bytes out(std::min(most, heif_image_handle_get_raw_color_profile_size(handle)));
        return heif_image_handle_get_raw_color_profile(handle, out.data()).code == heif_error_Ok ? out : Bytes{};
    }
    heif_color_profile_nclx* numbers = nullptr;
    const heif_error none = type == heif_color_profile_type_nclx ? heif_image_handle_get_nclx_color_profile(handle, &numbers) : heif_image_get_nclx_color_profile(image, &numbers);
    if (none.code != heif_error_Ok)
        return {};
    return profileOfNumber(Held<heif_color_profile_nclx>(numbers)->color_primaries);
}

// Of four bytes that were multiplied by the fourth.
void divideByAlpha(cv::Mat& samples)
{
    for (int y = 0; y < samples.rows; ++y) {
        std::uint8_t* p = samples.ptr(y);
        for (int x = 0; x < samples.cols; ++x, p += 4)
            for (int k = 0; k < 3 && p[3] > 0; ++k)
                p[k] = std::uint8_t(std::min(255, (p[k] * 255 + p[3] / 2) / p[3]));
    }
}

RawPicture decoded(const Bytes& bytes)
{
    RawPicture raw;
    const Primary primary(bytes);
    if (!primary.handle)
        return raw;
    heif_image_handle* handle = primary.handle.get();
    const int width = heif_image_handle_get_width(handle), height = heif_image_handle_get_height(handle);
    if (width <= 0 || height <= 0 || width > mostPixelsAcross || height > mostPixelsAcross)
        return raw;
    heif_image* made = nullptr;
    if (heif_decode_image(handle, &made, heif_colorspace_RGB, heif_chroma_interleaved_RGBA, nullptr).code != heif_error_Ok)
        return raw;
    const Held<heif_image> image(made);
    int stride = 0;
    const std::uint8_t* from = heif_image_get_plane_readonly(image.get(), heif_channel_interleaved, &stride);
    if (!from || heif_image_get_width(image.get(), heif_channel_interleaved) != width || heif_image_get_height(image.get(), heif_channel_interleaved) != height)
        return raw;
    unsigned char* to = decodeInPlace(raw, width, height);
    for (int y = 0; y < height; ++y)
        std::copy_n(from + std::ptrdiff_t(y) * stride, std::size_t(width) * 4, to + std::size_t(y) * std::size_t(width) * 4);
    if (heif_image_is_premultiplied_alpha(image.get()))
        divideByAlpha(raw.samples);
    raw.profile = profileOf(handle, image.get());
    return raw;
}

} // namespace

bool looksLikeHeif(const Bytes& bytes)
{
    return bytes.size() >= 12 && heif_check_filetype(bytes.data(), int(std::min<std::size_t>(bytes.size(), 4096))) == heif_filetype_yes_supported;
}

std::optional<HeifFacts> heifFacts(const Bytes& bytes)
{
    const Primary primary(bytes);
    if (!primary.handle)
        return std::nullopt;
    heif_image_handle* handle = primary.handle.get();
    HeifFacts out{heif_image_handle_get_width(handle), heif_image_handle_get_height(handle), {}};
    heif_item_id id = 0;
    constexpr std::size_t mostExif = 1u << 20, start = 4; // the structure's own offset stands before it
    if (heif_image_handle_get_list_of_metadata_block_IDs(handle, "Exif", &id, 1) == 1)
        if (const std::size_t size = heif_image_handle_get_metadata_size(handle, id); size > start && size < mostExif) {
            Bytes block(size);
            if (heif_image_handle_get_metadata(handle, id, block.data()).code == heif_error_Ok) {
                const std::size_t skip = start + (std::size_t(block[0]) << 24 | std::size_t(block[1]) << 16 | std::size_t(block[2]) << 8 | block[3]);
                if (skip < size)
                    out.exif.assign(block.begin() + std::ptrdiff_t(skip), block.end());
            }
        }
    return out;
}

RawPicture readHeif(const Picture& picture, const Work& work)
{
    return readApart([bytes = picture.bytes] { return decoded(*bytes); }, work);
}

} // namespace yokai
