#include "artwork/artwork.h"
#include "artwork/profile.h"
#include "artwork/readers/readers.h"
#include "base/digest.h"
#include "base/error.h"


#include <string_view>

namespace yokai {

namespace {

constexpr std::size_t mostBytes = std::size_t(1) << 30;

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

// By EXIF's eight orientations, a row of the result at a time.
SharedRgba upright(const SharedRgba& image, int orientation, const Work& work)
{
    if (orientation <= 1)
        return image;
    const int w = image->width(), h = image->height();
    const bool turned = orientation >= 5;
    auto out = std::make_shared<Rgba8>(turned ? h : w, turned ? w : h);
    const bool fromRight = orientation == 2 || orientation == 3 || orientation == 7 || orientation == 8;
    const bool fromBottom = orientation == 3 || orientation == 4 || orientation == 6 || orientation == 7;
    parallelSlices(out->height(), 32, [&](int begin, int end) {
        for (int y = begin; y < end; ++y) {
            if ((y & 31) == 0)
                work.check();
            for (int x = 0; x < out->width(); ++x) {
                const int sx = turned ? y : x, sy = turned ? x : y;
                out->at(x, y) = image->at(fromRight ? w - 1 - sx : sx, fromBottom ? h - 1 - sy : sy);
            }
        }
    });
    return out;
}

RawPicture rawPicture(const Picture& picture, const Work& work)
{
    switch (picture.info.format) {
    case PictureFormat::Png:
        return readPng(picture, work);
    case PictureFormat::Jpeg:
        return readJpeg(picture, work);
    case PictureFormat::Tiff:
        return readTiff(picture, work);
    case PictureFormat::WebP:
        return readWebP(picture, work);
    case PictureFormat::Gif:
        return readGif(picture, work);
    case PictureFormat::Heif:
        return readHeif(picture, work);
    case PictureFormat::Bmp:
        return readBmp(picture, work);
    case PictureFormat::Svg:
    case PictureFormat::Pdf:
        return readDrawing(picture, work);
    }
    return {};
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

bool isUprightJpeg(const Picture& picture) { return picture.info.format == PictureFormat::Jpeg && picture.info.orientation <= 1; }

std::optional<OwnColours> ownColours(const Picture& picture, const Work& work)
{
    RawPicture raw = rawPicture(picture, work);
    if (raw.samples.empty())
        throw Error(ErrorKind::Input, "cannot read '{}': the picture is cut short or damaged; save it or copy it again", picture.fileName);
    const bool inks = raw.space == RawPicture::Space::Cmyk;
    if (!profileFits(raw))
        raw.profile.clear();
    if (raw.space == RawPicture::Space::Grey || (!inks && raw.profile.empty()))
        return std::nullopt;
    OwnColours own;
    own.channels = inks ? 4 : 3;
    own.pixels = upright(samplesOf(raw, work), picture.info.orientation, work);
    own.profile = std::move(raw.profile);
    return own;
}

SharedRgba decodePicture(const Picture& picture, const Work& work)
{
    const auto fail = [&] {
        return Error(ErrorKind::Input, "cannot read '{}': the picture is cut short or damaged; save it or copy it again", picture.fileName);
    };
    work.check();
    if (!whole(picture))
        throw fail();
    const RawPicture raw = rawPicture(picture, work);
    if (raw.samples.empty())
        throw fail();
    const SharedRgba pixels = upright(toSrgb(raw, work), picture.info.orientation, work);
    if (pixels->width() != picture.info.width || pixels->height() != picture.info.height)
        throw fail();
    return pixels;
}

} // namespace yokai
