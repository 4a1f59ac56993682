#include "artwork/readers/readers.h"

#include <algorithm>
#include <memory>

#include <webp/decode.h>

namespace yokai {

namespace {
struct EndDecoder {
    void operator()(WebPIDecoder* d) const { WebPIDelete(d); }
};
} // namespace

RawPicture readWebP(const Picture& picture, const Work& work)
{
    constexpr std::size_t portion = 8 * 1024; // bytes handed over between two looks at the stop: some 10 ms of decoding
    RawPicture raw;
    raw.profile = embeddedProfile(*picture.bytes, PictureFormat::WebP);
    const Bytes& bytes = *picture.bytes;
    WebPBitstreamFeatures features;
    if (WebPGetFeatures(bytes.data(), bytes.size(), &features) != VP8_STATUS_OK || features.has_animation || features.width > mostPixelsAcross ||
        features.height > mostPixelsAcross)
        return raw;
    unsigned char* to = decodeInPlace(raw, features.width, features.height);
    const std::unique_ptr<WebPIDecoder, EndDecoder> decoder(
        WebPINewRGB(MODE_RGBA, to, std::size_t(features.width) * std::size_t(features.height) * 4, features.width * 4));
    VP8StatusCode state = decoder ? VP8_STATUS_SUSPENDED : VP8_STATUS_OUT_OF_MEMORY;
    for (std::size_t at = 0; at < bytes.size() && state == VP8_STATUS_SUSPENDED; at += portion) {
        work.check();
        state = WebPIAppend(decoder.get(), bytes.data() + at, std::min(portion, bytes.size() - at));
    }
    if (state != VP8_STATUS_OK)
        raw.samples.release();
    return raw;
}

} // namespace yokai
