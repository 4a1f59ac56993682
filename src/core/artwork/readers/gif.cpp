#include "artwork/readers/readers.h"

#include <cstring>
#include <memory>

#include <gif_lib.h>

namespace yokai {

namespace {

struct GifBytes {
    const Bytes* bytes;
    std::size_t at = 0;
};

int readGifBytes(GifFileType* gif, GifByteType* to, int n)
{
    auto* from = static_cast<GifBytes*>(gif->UserData);
    const std::size_t count = std::min(std::size_t(n), from->bytes->size() - from->at);
    std::memcpy(to, from->bytes->data() + from->at, count);
    from->at += count;
    return int(count);
}

struct CloseGif {
    void operator()(GifFileType* gif) const { DGifCloseFile(gif, nullptr); }
};

} // namespace

RawPicture readGif(const Picture& picture, const Work& work)
{
    RawPicture raw;
    GifBytes from{picture.bytes.get()};
    const std::unique_ptr<GifFileType, CloseGif> gif(DGifOpen(&from, readGifBytes, nullptr));
    if (!gif)
        return raw;
    int clear = NO_TRANSPARENT_COLOR;
    for (;;) {
        GifRecordType record = UNDEFINED_RECORD_TYPE;
        if (DGifGetRecordType(gif.get(), &record) != GIF_OK || record == TERMINATE_RECORD_TYPE)
            return raw;
        if (record == EXTENSION_RECORD_TYPE) {
            int code = 0;
            GifByteType* data = nullptr;
            if (DGifGetExtension(gif.get(), &code, &data) != GIF_OK)
                return raw;
            for (; data;) {
                GraphicsControlBlock control;
                if (code == GRAPHICS_EXT_FUNC_CODE && data[0] >= 4 && DGifExtensionToGCB(data[0], data + 1, &control) == GIF_OK)
                    clear = control.TransparentColor;
                if (DGifGetExtensionNext(gif.get(), &data) != GIF_OK)
                    return raw;
            }
        }
        if (record == IMAGE_DESC_RECORD_TYPE)
            break;
    }
    if (DGifGetImageDesc(gif.get()) != GIF_OK)
        return raw;
    const GifImageDesc& frame = gif->Image;
    const ColorMapObject* colours = frame.ColorMap ? frame.ColorMap : gif->SColorMap;
    if (!colours || frame.Left < 0 || frame.Top < 0 || frame.Width <= 0 || frame.Height <= 0 || frame.Left + frame.Width > picture.info.width ||
        frame.Top + frame.Height > picture.info.height)
        return raw;
    cv::Mat canvas(picture.info.height, picture.info.width, CV_8UC4, cv::Scalar(0, 0, 0, 0));
    std::vector<GifPixelType> line(std::size_t(frame.Width));
    const int first[] = {0, 4, 2, 1}, step[] = {8, 8, 4, 2};
    for (int pass = frame.Interlace ? 0 : 3; pass < 4; ++pass)
        for (int y = frame.Interlace ? first[pass] : 0; y < frame.Height; y += frame.Interlace ? step[pass] : 1) {
            if ((y & 15) == 0)
                work.check();
            if (DGifGetLine(gif.get(), line.data(), frame.Width) != GIF_OK)
                return raw;
            auto* to = canvas.ptr<cv::Vec4b>(frame.Top + y) + frame.Left;
            for (int x = 0; x < frame.Width; ++x)
                if (const int c = line[std::size_t(x)]; c != clear && c < colours->ColorCount)
                    to[x] = {colours->Colors[c].Red, colours->Colors[c].Green, colours->Colors[c].Blue, 255};
        }
    raw.samples = canvas;
    raw.space = RawPicture::Space::Rgb;
    raw.alpha = true;
    return raw;
}

} // namespace yokai
