// A picture brought into the job: its original bytes, what its header says, and
// the pixels the job works on.
//
// The header is read by ourselves before any decoder sees the file, so that a
// file that claims an absurd size, is cut short or is no picture at all is
// refused with one clear line instead of by a decoder's mood.
//
// What the job works on is 8-bit sRGB: a picture that carries another colour
// profile is converted (16-bit ones before they are reduced), and the original
// bytes stay as they came.
#pragma once

#include "base/digest.h"
#include "base/file.h"
#include "base/length.h"
#include "base/raster.h"
#include "base/work.h"

#include <filesystem>
#include <optional>
#include <string>

namespace yokai {

enum class PictureFormat { Png, Jpeg, Tiff, WebP, Bmp, Gif, Heif, Svg, Pdf }; // SVG, PDF: drawn, as large as is sharp at any size it is printed at
enum class PpiSource { File, Assumed };

struct PictureInfo {
    PictureFormat format = PictureFormat::Png;
    int width = 0, height = 0; // upright: as the picture is meant to be seen
    double ppi = 300;          // across; files whose two resolutions differ are taken by the first
    PpiSource ppiFrom = PpiSource::Assumed;
    int orientation = 1;     // EXIF 1..8; the pixels are turned upright when decoded
    int pages = 1, page = 0; // of a TIFF or a PDF; of all others only the first frame is read
    bool lossy = false;      // compressed so that edges fray (JPEG, HEIC, AVIF)
    bool inks = false;       // a JPEG in cyan, magenta, yellow and black
    bool sized = true;       // else an SVG in units of its own, of which 96 are taken for an inch
    bool operator==(const PictureInfo&) const = default;
};

constexpr int mostPixelsAcross = 10'000;
constexpr double assumedPpi = 300;

// The original file, kept for saving and printing. Copies share the bytes.
struct Picture {
    std::string fileName; // without its folder
    SharedBytes bytes;
    PictureInfo info;
    Key digest; // of the bytes, and the page
    void digestTo(Digest& d) const { d.add(digest); }
    bool operator==(const Picture& o) const { return fileName == o.fileName && digest == o.digest && info == o.info; }
};

// Throws Error(Input) when the bytes are no picture we read or have no such page; `name`
// is put in the line.
PictureInfo readPictureInfo(const Bytes& bytes, const std::string& name, int page = 0);
Picture openPicture(const std::filesystem::path& path);
Picture pictureFromBytes(Bytes bytes, const std::string& name);
Picture pageOf(const Picture& picture, int page); // another page of the same file

// Upright 8-bit sRGB with alpha, not premultiplied. Throws Error(Input) when the file is damaged.
SharedRgba decodePicture(const Picture& picture, const Work& work = {});

// A picture in its own colours, with nothing converted: what a print file carries on.
struct OwnColours {
    int channels = 3;   // red, green, blue; or cyan, magenta, yellow, black
    SharedRgba pixels;  // upright, 8 bits; of red, green, blue the fourth is full; of inks 0 is none
    Bytes profile;      // ICC; empty: the device's
};
// None where the picture is sRGB as it stands. Throws Error(Input) when the file is damaged.
std::optional<OwnColours> ownColours(const Picture& picture, const Work& work = {});
// The file's own compressed data say just these pixels: a JPEG that lies upright.
bool isUprightJpeg(const Picture& picture);
struct JpegFacts {
    int channels = 3;
    bool inverted = false; // 0 is full ink
    Bytes profile;         // ICC; empty: none that fits
};
JpegFacts jpegFacts(const Picture& jpeg);

// Without a resolution unless one is given. Throws Error(Input) for an empty picture.
Bytes encodePng(const Rgba8& pixels, const Work& work = {}, double ppi = 0);

} // namespace yokai
