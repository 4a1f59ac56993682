#include "artwork/formats.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <gif_lib.h>
#include <tiffio.h>

#include <csetjmp>
#include <cstdio>
#include <cstring>

#include <jpeglib.h>

namespace yokai {

namespace {

// OpenCV returns an empty picture for what it cannot decode, or throws; both become our one line.
RawPicture byOpenCv(const Picture& picture)
{
    RawPicture raw;
    try {
        // A large picture is decoded to where it stays, if it turns out to have four bytes a pixel.
        if (picture.info.format == PictureFormat::Png && picture.info.orientation == 1) {
            raw.place = std::make_shared<Rgba8>(picture.info.width, picture.info.height);
            raw.samples = cv::Mat(raw.place->height(), raw.place->width(), CV_8UC4, raw.place->all().data());
        }
        const cv::Mat bytes(1, int(picture.bytes->size()), CV_8U, const_cast<unsigned char*>(picture.bytes->data()));
        if (cv::imdecode(bytes, cv::IMREAD_UNCHANGED, &raw.samples).empty())
            raw.samples.release();
    } catch (const cv::Exception&) {
        raw.samples.release();
    }
    if (raw.samples.depth() == CV_32F || raw.samples.depth() == CV_64F)
        raw.samples.convertTo(raw.samples, CV_8U, 255);
    if (raw.samples.depth() != CV_8U && raw.samples.depth() != CV_16U)
        raw.samples.release();
    switch (raw.samples.channels()) {
    case 1:
        raw.space = RawPicture::Space::Grey;
        break;
    case 2:
        raw.space = RawPicture::Space::Grey;
        raw.alpha = true;
        break;
    case 4:
        raw.alpha = true;
        break;
    case 3:
        break;
    default:
        raw.samples.release();
    }
    return raw;
}

struct JpegFailure {
    jpeg_error_mgr manager; // first: libjpeg hands this back
    std::jmp_buf back;
};

[[noreturn]] void jpegFails(j_common_ptr info) { std::longjmp(reinterpret_cast<JpegFailure*>(info->err)->back, 1); }
void jpegKeepsQuiet(j_common_ptr, int) {}

// Nothing with a destructor may live between setjmp and a longjmp, so the samples come from outside.
bool readCmykJpeg(const Bytes& bytes, cv::Mat& samples)
{
    jpeg_decompress_struct info;
    JpegFailure failure;
    info.err = jpeg_std_error(&failure.manager);
    failure.manager.error_exit = jpegFails;
    failure.manager.emit_message = jpegKeepsQuiet;
    if (setjmp(failure.back)) {
        jpeg_destroy_decompress(&info);
        return false;
    }
    jpeg_create_decompress(&info);
    jpeg_mem_src(&info, bytes.data(), static_cast<unsigned long>(bytes.size()));
    jpeg_read_header(&info, TRUE);
    info.out_color_space = JCS_CMYK;
    jpeg_start_decompress(&info);
    samples.create(int(info.output_height), int(info.output_width), CV_8UC4);
    while (info.output_scanline < info.output_height) {
        JSAMPROW row = samples.ptr(int(info.output_scanline));
        jpeg_read_scanlines(&info, &row, 1);
    }
    // Programs that write the Adobe marker store the inks inverted; those that do not are few.
    const bool inverted = info.saw_Adobe_marker;
    jpeg_finish_decompress(&info);
    jpeg_destroy_decompress(&info);
    if (inverted)
        cv::bitwise_not(samples, samples);
    return true;
}

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

// The first frame, on the picture's whole canvas.
RawPicture firstGifFrame(const Picture& picture)
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

struct CloseTiff {
    void operator()(TIFF* tiff) const { TIFFClose(tiff); }
};

// Inks as they are stored, when their profile can make more of them than a rule of thumb.
bool readInks(TIFF* tiff, RawPicture& raw, int width, int height)
{
    std::uint16_t photometric = 0, bits = 0, samples = 0, planar = 0;
    TIFFGetField(tiff, TIFFTAG_PHOTOMETRIC, &photometric);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_SAMPLESPERPIXEL, &samples);
    TIFFGetFieldDefaulted(tiff, TIFFTAG_PLANARCONFIG, &planar);
    if (photometric != PHOTOMETRIC_SEPARATED || (bits != 8 && bits != 16) || samples != 4 || planar != PLANARCONFIG_CONTIG || TIFFIsTiled(tiff))
        return false;
    raw.samples.create(height, width, bits == 8 ? CV_8UC4 : CV_16UC4);
    raw.space = RawPicture::Space::Cmyk;
    if (TIFFScanlineSize(tiff) > tmsize_t(raw.samples.step[0]))
        return false;
    for (int y = 0; y < height; ++y)
        if (TIFFReadScanline(tiff, raw.samples.ptr(y), std::uint32_t(y)) != 1) {
            raw.samples.release();
            return true;
        }
    return true;
}

RawPicture tiffPage(const Picture& picture)
{
    RawPicture raw;
    TiffBytes from{picture.bytes.get()};
    const std::unique_ptr<TIFF, CloseTiff> tiff(
        TIFFClientOpen("picture", "rm", &from, readTiffBytes, writeNoTiff, seekTiff, closeNoTiff, sizeOfTiff, nullptr, nullptr));
    if (!tiff || !TIFFSetDirectory(tiff.get(), tdir_t(picture.info.page)))
        return raw;
    std::uint32_t width = 0, height = 0, count = 0;
    TIFFGetField(tiff.get(), TIFFTAG_IMAGEWIDTH, &width);
    TIFFGetField(tiff.get(), TIFFTAG_IMAGELENGTH, &height);
    if (width == 0 || height == 0 || width > unsigned(mostPixelsAcross) || height > unsigned(mostPixelsAcross))
        return raw;
    const void* profile = nullptr;
    if (TIFFGetField(tiff.get(), TIFFTAG_ICCPROFILE, &count, &profile) && profile)
        raw.profile.assign(static_cast<const unsigned char*>(profile), static_cast<const unsigned char*>(profile) + count);
    if (readInks(tiff.get(), raw, int(width), int(height)))
        return raw;
    char why[1024];
    TIFFRGBAImage image;
    if (TIFFRGBAImageOK(tiff.get(), why) && TIFFRGBAImageBegin(&image, tiff.get(), 1, why)) {
        raw.samples.create(int(height), int(width), CV_8UC4);
        image.req_orientation = image.orientation; // as stored; turning it upright is ours
        const bool read = TIFFRGBAImageGet(&image, raw.samples.ptr<std::uint32_t>(), width, height);
        const bool multiplied = image.alpha != 0;
        TIFFRGBAImageEnd(&image);
        raw.space = RawPicture::Space::Rgb;
        raw.alpha = true;
        if (!read) {
            raw.samples.release();
            return raw;
        }
        for (int y = 0; multiplied && y < raw.samples.rows; ++y) {
            auto* row = raw.samples.ptr<cv::Vec4b>(y);
            for (int x = 0; x < raw.samples.cols; ++x)
                if (const int a = row[x][3]; a > 0 && a < 255)
                    for (int k = 0; k < 3; ++k)
                        row[x][k] = std::uint8_t(std::min(255, (row[x][k] * 255 + a / 2) / a));
        }
        return raw;
    }
    if (picture.info.page == 0) {
        Bytes kept = std::move(raw.profile);
        raw = byOpenCv(picture); // floating-point samples and other rarities
        raw.profile = std::move(kept);
    }
    return raw;
}

} // namespace

RawPicture rawPicture(const Picture& picture)
{
    RawPicture raw;
    switch (picture.info.format) {
    case PictureFormat::Gif:
        return firstGifFrame(picture);
    case PictureFormat::Tiff:
        return tiffPage(picture);
    case PictureFormat::Jpeg:
        if (picture.info.inks) {
            raw.space = RawPicture::Space::Cmyk;
            if (!readCmykJpeg(*picture.bytes, raw.samples))
                raw.samples.release();
            break;
        }
        [[fallthrough]];
    default:
        raw = byOpenCv(picture);
    }
    raw.profile = embeddedProfile(*picture.bytes, picture.info.format);
    return raw;
}

} // namespace yokai
