#include "artwork/readers/readers.h"

#include <csetjmp>
#include <cstdio>

#include <jerror.h>
#include <jpeglib.h>

namespace yokai {

namespace {

struct Handler {
    jpeg_error_mgr manager; // first: libjpeg hands this back
    std::jmp_buf back;
    bool cutShort = false;
};
struct Monitor {
    jpeg_progress_mgr manager; // first, too
    const std::stop_token* stop;
};

[[noreturn]] void fails(j_common_ptr info) { std::longjmp(reinterpret_cast<Handler*>(info->err)->back, 1); }
void warns(j_common_ptr info, int level)
{
    // A picture that ends too soon is filled up with grey; all other warnings leave it whole.
    if (level < 0 && (info->err->msg_code == JWRN_JPEG_EOF || info->err->msg_code == JWRN_HIT_MARKER))
        reinterpret_cast<Handler*>(info->err)->cutShort = true;
}
void progresses(j_common_ptr info)
{
    if (reinterpret_cast<Monitor*>(info->progress)->stop->stop_requested())
        fails(info);
}

// Each call sets its own way back and holds nothing that would have to be destroyed on it.
class Jpeg {
public:
    Jpeg(const Bytes& bytes, const Work& work) : bytes_(bytes)
    {
        info_.err = jpeg_std_error(&handler_.manager);
        handler_.manager.error_exit = fails;
        handler_.manager.emit_message = warns;
        monitor_.manager.progress_monitor = progresses;
        monitor_.stop = &work.stop;
    }
    ~Jpeg() { jpeg_destroy_decompress(&info_); }
    Jpeg(const Jpeg&) = delete;
    Jpeg& operator=(const Jpeg&) = delete;

    // The header alone.
    bool look()
    {
        if (setjmp(handler_.back))
            return false;
        jpeg_create_decompress(&info_);
        jpeg_mem_src(&info_, bytes_.data(), static_cast<unsigned long>(bytes_.size()));
        return jpeg_read_header(&info_, TRUE) == JPEG_HEADER_OK;
    }
    int storedChannels() const { return info_.num_components; }
    bool storedInverted() const { return info_.num_components == 4 && info_.saw_Adobe_marker; }

    // `asRgba`: but for inks, always as red, green, blue, alpha. A progressive file is read here as a whole.
    bool begin(bool asRgba)
    {
        if (setjmp(handler_.back))
            return false;
        jpeg_create_decompress(&info_);
        info_.progress = &monitor_.manager;
        jpeg_mem_src(&info_, bytes_.data(), static_cast<unsigned long>(bytes_.size()));
        jpeg_read_header(&info_, TRUE);
        const bool inks = info_.num_components == 4, grey = info_.num_components == 1;
        info_.out_color_space = inks ? JCS_CMYK : asRgba ? JCS_EXT_RGBA : grey ? JCS_GRAYSCALE : JCS_RGB;
        jpeg_start_decompress(&info_);
        return true;
    }
    bool row(unsigned char* to)
    {
        if (setjmp(handler_.back))
            return false;
        JSAMPROW rows = to;
        return jpeg_read_scanlines(&info_, &rows, 1) == 1;
    }
    int width() const { return int(info_.output_width); }
    int height() const { return int(info_.output_height); }
    int channels() const { return info_.output_components; }
    bool inks() const { return info_.out_color_space == JCS_CMYK; }
    bool cutShort() const { return handler_.cutShort; }
    // Programs that write the Adobe marker store the inks inverted; those that do not are few.
    bool inverted() const { return inks() && info_.saw_Adobe_marker; }

private:
    const Bytes& bytes_;
    jpeg_decompress_struct info_{};
    Handler handler_{};
    Monitor monitor_{};
};

} // namespace

JpegFacts jpegFacts(const Picture& picture)
{
    Jpeg jpeg(*picture.bytes, {});
    if (!jpeg.look())
        throw Error(ErrorKind::Input, "cannot read '{}': the picture is damaged; save it or copy it again", picture.fileName);
    JpegFacts out{jpeg.storedChannels(), jpeg.storedInverted(), {}};
    RawPicture as;
    as.profile = embeddedProfile(*picture.bytes, PictureFormat::Jpeg);
    as.space = out.channels == 1 ? RawPicture::Space::Grey : out.channels == 4 ? RawPicture::Space::Cmyk : RawPicture::Space::Rgb;
    if (profileFits(as))
        out.profile = std::move(as.profile);
    return out;
}

RawPicture readJpeg(const Picture& picture, const Work& work)
{
    RawPicture raw;
    raw.profile = embeddedProfile(*picture.bytes, PictureFormat::Jpeg);
    Jpeg jpeg(*picture.bytes, work);
    const bool begun = jpeg.begin(raw.profile.empty());
    work.check();
    if (!begun)
        return raw;
    if (jpeg.channels() == 4 && !jpeg.inks())
        decodeInPlace(raw, jpeg.width(), jpeg.height());
    else {
        raw.samples.create(jpeg.height(), jpeg.width(), CV_MAKETYPE(CV_8U, jpeg.channels()));
        raw.space = jpeg.inks() ? RawPicture::Space::Cmyk : jpeg.channels() == 1 ? RawPicture::Space::Grey : RawPicture::Space::Rgb;
    }
    for (int y = 0; y < raw.samples.rows; ++y) {
        if ((y & 15) == 0)
            work.check();
        unsigned char* to = raw.samples.ptr(y);
        if (!jpeg.row(to) || jpeg.cutShort()) {
            raw.samples.release();
            work.check();
            return raw;
        }
        if (jpeg.inverted())
            for (unsigned char *c = to, *last = to + 4 * raw.samples.cols; c != last; ++c)
                *c = static_cast<unsigned char>(255 - *c);
    }
    return raw;
}

} // namespace yokai
