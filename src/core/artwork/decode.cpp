#include "artwork/artwork.h"
#include "artwork/formats.h"
#include "base/digest.h"
#include "base/error.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <fcntl.h>
#include <mutex>
#include <unistd.h>

namespace yokai {

namespace {

constexpr std::size_t mostBytes = std::size_t(1) << 30;

// The decoders below us write what they think of a damaged file straight to standard
// error; a person is told in one line of ours instead. One decoder at a time.
class QuietStandardError {
public:
    QuietStandardError() : lock_(mutex()), kept_(::dup(STDERR_FILENO)), nowhere_(::open("/dev/null", O_WRONLY | O_CLOEXEC))
    {
        if (kept_ >= 0 && nowhere_ >= 0)
            ::dup2(nowhere_, STDERR_FILENO);
    }
    ~QuietStandardError()
    {
        if (kept_ >= 0)
            ::dup2(kept_, STDERR_FILENO);
        for (const int fd : {kept_, nowhere_})
            if (fd >= 0)
                ::close(fd);
    }
    QuietStandardError(const QuietStandardError&) = delete;
    QuietStandardError& operator=(const QuietStandardError&) = delete;

private:
    static std::mutex& mutex()
    {
        static std::mutex one;
        return one;
    }
    std::scoped_lock<std::mutex> lock_;
    int kept_, nowhere_;
};

// Whether the file goes on to the end its format marks; decoders forgive what a maker would regret.
bool whole(const Picture& picture)
{
    const Bytes& b = *picture.bytes;
    if (picture.info.format == PictureFormat::Png) {
        const std::string_view tail(reinterpret_cast<const char*>(b.data()) + (b.size() > 64 ? b.size() - 64 : 0), std::min<std::size_t>(64, b.size()));
        if (tail.find("IEND") != std::string_view::npos)
            return true;
        const std::string_view all(reinterpret_cast<const char*>(b.data()), b.size());
        return all.rfind("IEND") != std::string_view::npos;
    }
    if (picture.info.format == PictureFormat::Jpeg) {
        for (std::size_t i = b.size(); i >= 2; --i)
            if (b[i - 2] == 0xff && b[i - 1] == 0xd9)
                return true;
        return false;
    }
    return true;
}

cv::Mat upright(const cv::Mat& image, int orientation)
{
    cv::Mat out = image;
    switch (orientation) {
    case 2:
        cv::flip(image, out, 1);
        break;
    case 3:
        cv::rotate(image, out, cv::ROTATE_180);
        break;
    case 4:
        cv::flip(image, out, 0);
        break;
    case 5:
        cv::transpose(image, out);
        break;
    case 6:
        cv::rotate(image, out, cv::ROTATE_90_CLOCKWISE);
        break;
    case 7:
        cv::transpose(image, out);
        cv::flip(out, out, -1);
        break;
    case 8:
        cv::rotate(image, out, cv::ROTATE_90_COUNTERCLOCKWISE);
        break;
    default:
        break;
    }
    return out;
}

} // namespace

Picture pictureFromBytes(Bytes bytes, const std::string& name)
{
    Picture picture;
    picture.fileName = name;
    picture.info = readPictureInfo(bytes, name);
    picture.digest = Digest().add(std::span<const unsigned char>(bytes)).value();
    picture.bytes = std::make_shared<const Bytes>(std::move(bytes));
    return picture;
}

Picture openPicture(const std::filesystem::path& path)
{
    Picture picture = pictureFromBytes(readFile(path, mostBytes), path.string());
    picture.fileName = path.filename().string();
    return picture;
}

Picture pageOf(const Picture& picture, int page)
{
    Picture other = picture;
    other.info = readPictureInfo(*picture.bytes, picture.fileName, page);
    other.digest = Digest().add(Digest().add(std::span<const unsigned char>(*picture.bytes)).value()).add(page).value();
    return other;
}

SharedRgba decodePicture(const Picture& picture, const Work& work)
{
    const auto fail = [&] {
        return Error(ErrorKind::Input, "cannot read '" + picture.fileName + "': the picture is cut short or damaged; save it or copy it again");
    };
    work.check();
    if (!whole(picture))
        throw fail();
    RawPicture raw;
    {
        const QuietStandardError quiet;
        raw = rawPicture(picture);
    }
    if (raw.samples.empty())
        throw fail();
    work.check();
    raw.samples = upright(raw.samples, picture.info.orientation);
    if (raw.samples.cols != picture.info.width || raw.samples.rows != picture.info.height)
        throw fail();
    return toSrgb(raw, work);
}

Bytes encodePng(const Rgba8& pixels)
{
    Bytes out;
    if (pixels.empty())
        throw Error(ErrorKind::Input, "there is no picture to keep; copy one first");
    cv::Mat bgra;
    cv::cvtColor(cv::Mat(pixels.height(), pixels.width(), CV_8UC4, const_cast<Rgba*>(pixels.all().data())), bgra, cv::COLOR_RGBA2BGRA);
    cv::imencode(".png", bgra, out, {cv::IMWRITE_PNG_COMPRESSION, 3});
    return out;
}

} // namespace yokai
