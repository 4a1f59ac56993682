// Pictures as they come in, and how they lie in their frame.
#include "artwork/frame.h"
#include "base/error.h"
#include "job/derive.h"
#include "shapes.h"

#include <QTemporaryDir>
#include <QTest>

#include <gif_lib.h>
#include <jpeglib.h>
#include <lcms2.h>
#include <libheif/heif.h>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <tiffio.h>
#include <zlib.h>

#include <filesystem>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

Bytes cmykJpeg(const std::array<int, 4>& inks)
{
    jpeg_compress_struct info;
    jpeg_error_mgr errors;
    info.err = jpeg_std_error(&errors);
    jpeg_create_compress(&info);
    unsigned char* out = nullptr;
    unsigned long size = 0;
    jpeg_mem_dest(&info, &out, &size);
    info.image_width = info.image_height = 32;
    info.input_components = 4;
    info.in_color_space = JCS_CMYK;
    jpeg_set_defaults(&info); // writes the Adobe marker, so the inks are stored inverted
    jpeg_set_quality(&info, 98, TRUE);
    jpeg_start_compress(&info, TRUE);
    std::vector<JSAMPLE> row;
    for (int x = 0; x < 32; ++x)
        for (const int ink : inks)
            row.push_back(JSAMPLE(255 - ink));
    JSAMPROW rows[] = {row.data()};
    while (info.next_scanline < info.image_height)
        jpeg_write_scanlines(&info, rows, 1);
    jpeg_finish_compress(&info);
    Bytes bytes(out, out + size);
    jpeg_destroy_compress(&info);
    std::free(out);
    return bytes;
}

// A PNG with a colour profile put in after its header.
Bytes withProfile(const Bytes& png, cmsHPROFILE profile)
{
    cmsUInt32Number size = 0;
    cmsSaveProfileToMem(profile, nullptr, &size);
    Bytes icc(size);
    cmsSaveProfileToMem(profile, icc.data(), &size);
    cmsCloseProfile(profile);
    uLongf packed = compressBound(size);
    Bytes chunk = {'i', 'C', 'C', 'P', 'p', 0, 0};
    chunk.resize(7 + packed);
    compress(chunk.data() + 7, &packed, icc.data(), size);
    chunk.resize(7 + packed);
    const auto word = [](Bytes& b, unsigned v) {
        for (int shift = 24; shift >= 0; shift -= 8)
            b.push_back(std::uint8_t(v >> shift));
    };
    Bytes out(png.begin(), png.begin() + 33);
    word(out, unsigned(chunk.size() - 4));
    out.insert(out.end(), chunk.begin(), chunk.end());
    word(out, unsigned(crc32(0, chunk.data(), uInt(chunk.size()))));
    out.insert(out.end(), png.begin() + 33, png.end());
    return out;
}

int appendTo(GifFileType* gif, const GifByteType* data, int n)
{
    auto* out = static_cast<Bytes*>(gif->UserData);
    out->insert(out->end(), data, data + n);
    return n;
}

// Two frames: the first has a clear column and a red one, the second is all blue.
Bytes twoFrameGif()
{
    Bytes out;
    GifFileType* gif = EGifOpen(&out, appendTo, nullptr);
    EGifSetGifVersion(gif, true);
    const GifColorType colours[] = {{0, 0, 0}, {230, 20, 30}, {10, 20, 240}, {0, 0, 0}};
    ColorMapObject* map = GifMakeMapObject(4, colours);
    EGifPutScreenDesc(gif, 6, 4, 8, 0, map);
    for (const int frame : {0, 1}) {
        const GraphicsControlBlock control{DISPOSE_DO_NOT, false, 10, frame == 0 ? 0 : NO_TRANSPARENT_COLOR};
        GifByteType packed[4];
        EGifGCBToExtension(&control, packed);
        EGifPutExtension(gif, GRAPHICS_EXT_FUNC_CODE, 4, packed);
        EGifPutImageDesc(gif, 0, 0, 6, 4, frame == 0, nullptr);
        GifPixelType row[6];
        for (int x = 0; x < 6; ++x)
            row[x] = frame ? 2 : x < 3 ? 0 : 1;
        for (int y = 0; y < 4; ++y)
            EGifPutLine(gif, row, 6);
    }
    GifFreeMapObject(map);
    EGifCloseFile(gif, nullptr);
    return out;
}

bool near(Rgba c, int r, int g, int b, int tolerance = 3)
{
    return std::abs(c.r - r) <= tolerance && std::abs(c.g - g) <= tolerance && std::abs(c.b - b) <= tolerance;
}

Rgba onlyColour(const Bytes& bytes, const char* name)
{
    const SharedRgba px = decodePicture(pictureFromBytes(bytes, name));
    return px->at(px->width() / 2, px->height() / 2);
}

// 90 x 60 px with a red corner at its top left.
ArtworkSpec cornered()
{
    cv::Mat image(60, 90, CV_8UC3, cv::Scalar(255, 255, 255));
    image(cv::Rect(0, 0, 20, 10)).setTo(cv::Scalar(0, 0, 255));
    Bytes png;
    cv::imencode(".png", image, png);
    ArtworkSpec spec;
    spec.picture = pictureFromBytes(png, "cornered.png");
    return spec;
}

Framed framed(const ArtworkSpec& spec) { return framePicture(decodePicture(spec.picture), spec); }

} // namespace

// 96 x 64 px: red, green beside it, blue below, and a clear corner; as it is, or to be turned a quarter to the right, and with EXIF that says so too
// and gives 240 ppi; or its colours those of Display P3, named by number.
Bytes phonePicture(heif_compression_format compression, bool turned, bool exif, bool wide = false)
{
    heif_context* context = heif_context_alloc();
    heif_encoder* encoder = nullptr;
    heif_image* image = nullptr;
    heif_image_handle* handle = nullptr;
    heif_context_get_encoder_for_format(context, compression, &encoder);
    heif_encoder_set_lossy_quality(encoder, 95);
    heif_image_create(96, 64, heif_colorspace_RGB, heif_chroma_interleaved_RGBA, &image);
    heif_image_add_plane(image, heif_channel_interleaved, 96, 64, 8);
    int stride = 0;
    std::uint8_t* plane = heif_image_get_plane(image, heif_channel_interleaved, &stride);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 96; ++x) {
            const Rgba c = y >= 32 ? Rgba{30, 60, 190, std::uint8_t(x >= 64 ? 0 : 255)} : x < 48 ? Rgba{200, 40, 60, 255} : Rgba{40, 160, 90, 255};
            std::memcpy(plane + y * stride + x * 4, &c, 4);
        }
    heif_encoding_options* options = heif_encoding_options_alloc();
    options->save_alpha_channel = 1;
    options->macOS_compatibility_workaround_no_nclx_profile = 0;
    options->image_orientation = turned ? heif_orientation_rotate_90_cw : heif_orientation_normal;
    heif_color_profile_nclx* numbers = heif_nclx_color_profile_alloc();
    numbers->color_primaries = heif_color_primaries_SMPTE_EG_432_1;
    numbers->transfer_characteristics = heif_transfer_characteristic_IEC_61966_2_1;
    numbers->matrix_coefficients = heif_matrix_coefficients_ITU_R_BT_601_6;
    if (wide)
        heif_image_set_nclx_color_profile(image, numbers);
    heif_context_encode_image(context, image, encoder, options, &handle);
    heif_nclx_color_profile_free(numbers);
    // Little-endian TIFF: orientation 6, and 240 dots an inch.
    const unsigned char tiff[] = {'E', 'x', 'i', 'f', 0, 0, 'I', 'I', 42, 0, 8, 0, 0, 0, 3, 0, 0x12, 1, 3, 0, 1, 0, 0, 0, 6, 0, 0, 0, 0x1a, 1, 5, 0, 1, 0, 0, 0, 50, 0, 0, 0,
                                  0x28, 1, 3, 0, 1, 0, 0, 0, 2, 0, 0, 0, 0, 0, 0, 0, 240, 0, 0, 0, 1, 0, 0, 0};
    if (exif)
        heif_context_add_exif_metadata(context, handle, tiff, int(sizeof tiff));
    Bytes out;
    heif_writer writer{1, [](heif_context*, const void* data, std::size_t size, void* to) {
                           static_cast<Bytes*>(to)->assign(static_cast<const unsigned char*>(data), static_cast<const unsigned char*>(data) + size);
                           return heif_error{heif_error_Ok, heif_suberror_Unspecified, ""};
                       }};
    heif_context_write(context, &writer, &out);
    heif_encoding_options_free(options);
    heif_image_handle_release(handle);
    heif_image_release(image);
    heif_encoder_release(encoder);
    heif_context_free(context);
    return out;
}

class TestArtwork : public QObject {
    Q_OBJECT
private slots:
    void picturesComeInWithTheirSize()
    {
        const std::filesystem::path folder = YOKAI_DEMO_PICTURES;
        for (const char* name : {"umbrella-imp.png", "kettle-badger.jpg"}) {
            const Picture p = openPicture(folder / name);
            QCOMPARE(p.info.ppi, 300.0);
            QCOMPARE(int(p.info.ppiFrom), int(PpiSource::File));
            const SharedRgba px = decodePicture(p);
            QCOMPARE(px->width(), p.info.width);
        }
        // Every format that is read, through the decoder that other programs use.
        const cv::Mat dot(31, 47, CV_8UC3, cv::Scalar(10, 120, 240));
        for (const char* extension : {".png", ".jpg", ".tif", ".webp", ".bmp"}) {
            Bytes bytes;
            QVERIFY(cv::imencode(extension, dot, bytes));
            const Picture p = pictureFromBytes(bytes, std::string("dot") + extension);
            QCOMPARE(p.info.width, 47);
            QCOMPARE(p.info.height, 31);
            const Rgba c = decodePicture(p)->at(20, 15);
            QVERIFY2(std::abs(c.r - 240) < 6 && std::abs(c.b - 10) < 6 && c.a == 255, extension);
        }
    }

    // A phone's picture, written by libheif's own encoders: HEIC and AVIF, turned by the file's own properties, with EXIF that says the same once
    // more, and with opacity.
    void phonePictures()
    {
        for (const auto compression : {heif_compression_HEVC, heif_compression_AV1}) {
            const Bytes plain = phonePicture(compression, false, false), turned = phonePicture(compression, true, true);
            const char* name = compression == heif_compression_HEVC ? "a.heic" : "a.avif";
            const Picture p = pictureFromBytes(plain, name), t = pictureFromBytes(turned, name);
            QVERIFY(p.info.format == PictureFormat::Heif && p.info.lossy);
            QCOMPARE(std::pair(p.info.width, p.info.height), std::pair(96, 64));
            QCOMPARE(p.info.ppiFrom, PpiSource::Assumed);
            QCOMPARE(std::pair(t.info.width, t.info.height), std::pair(64, 96)); // a quarter to the right
            QCOMPARE(t.info.ppi, 240.0);
            const auto near = [](Rgba a, Rgba b) { return std::abs(a.r - b.r) < 10 && std::abs(a.g - b.g) < 10 && std::abs(a.b - b.b) < 10 && std::abs(a.a - b.a) < 10; };
            const SharedRgba px = decodePicture(p), tx = decodePicture(t);
            QVERIFY(near(px->at(10, 10), {200, 40, 60, 255}) && near(px->at(80, 10), {40, 160, 90, 255}) && near(px->at(10, 55), {30, 60, 190, 255}));
            QVERIFY(near(tx->at(53, 10), {200, 40, 60, 255}) && near(tx->at(53, 80), {40, 160, 90, 255}) && near(tx->at(8, 10), {30, 60, 190, 255}));
            QVERIFY(tx->at(16, 80).a < 10); // the clear corner
            // By the matrices of SMPTE EG 432-1 and IEC 61966-2-1, worked out by hand: what P3 calls 40, 160, 90 is -65, 163, 82 in sRGB, red cut off at 0.
            const Rgba wide = decodePicture(pictureFromBytes(phonePicture(compression, false, false, true), name))->at(80, 10);
            QVERIFY2(near(wide, {0, 163, 82, 255}), qPrintable(QString("%1 %2 %3").arg(wide.r).arg(wide.g).arg(wide.b)));
            // Cut short or damaged anywhere: one clear line, or a picture as large as it says.
            std::mt19937 random(5);
            for (int k = 0; k < 60; ++k) {
                Bytes bad = turned;
                if (k % 3 == 0)
                    bad.resize(random() % bad.size());
                for (int n = 0; n < 1 + k % 5 && k % 3; ++n)
                    bad[random() % (k % 2 ? bad.size() : std::min<std::size_t>(bad.size(), 600))] = static_cast<unsigned char>(random());
                try {
                    const Picture damaged = pictureFromBytes(bad, name);
                    const SharedRgba some = decodePicture(damaged);
                    QCOMPARE(some->width(), damaged.info.width);
                } catch (const Error& e) {
                    QVERIFY(e.kind() == ErrorKind::Input && std::string_view(e.what()).find(name) != std::string_view::npos);
                }
            }
            std::stop_source stop;
            stop.request_stop();
            QVERIFY_THROWS_EXCEPTION(Cancelled, decodePicture(p, Work{stop.get_token(), {}}));
        }
    }

    // PNG (W3C, third edition), 11.3.1.1: tRNS of a grey picture names the one grey that is fully
    // transparent; 4 bits a pixel here, so it is counted in sixteenths.
    void oneGreyIsTransparent()
    {
        const int size = 64;
        Bytes png = {0x89, 'P', 'N', 'G', '\r', '\n', 0x1a, '\n'};
        const auto chunk = [&png](const char* name, const Bytes& data) {
            const auto number = [&png](uLong v) {
                for (int shift = 24; shift >= 0; shift -= 8)
                    png.push_back(static_cast<unsigned char>(v >> shift));
            };
            number(data.size());
            const std::size_t from = png.size();
            png.insert(png.end(), name, name + 4);
            png.insert(png.end(), data.begin(), data.end());
            number(crc32(crc32(0, nullptr, 0), png.data() + from, uInt(png.size() - from)));
        };
        Bytes rows;
        for (int y = 0; y < size; ++y) {
            rows.push_back(0);                       // no filter
            rows.insert(rows.end(), size / 4, 0xff); // the left half white
            rows.insert(rows.end(), size / 4, y < 32 ? 0x33 : 0x44);
        }
        uLongf packed = compressBound(rows.size());
        Bytes data(packed);
        compress(data.data(), &packed, rows.data(), rows.size());
        data.resize(packed);
        chunk("IHDR", {0, 0, 0, size, 0, 0, 0, size, 4, 0, 0, 0, 0});
        chunk("tRNS", {0, 3});
        chunk("IDAT", data);
        chunk("IEND", {});
        const SharedRgba px = decodePicture(pictureFromBytes(png, "grey.png"));
        QVERIFY(px->at(10, 10).a == 255 && px->at(10, 10).r == 255);
        QCOMPARE(int(px->at(50, 10).a), 0);
        QVERIFY(px->at(50, 50).a == 255 && px->at(50, 50).r == 0x44);
    }

    // EXIF 2.3, tag 0x0112: 6 is a picture to be turned a quarter clockwise; 0x011A and 0x0128
    // give its resolution.
    void photosComeUpright()
    {
        cv::Mat half(40, 60, CV_8UC3, cv::Scalar(255, 255, 255));
        half(cv::Rect(0, 0, 30, 40)).setTo(cv::Scalar(0, 0, 255)); // the left half is red
        Bytes jpeg;
        cv::imencode(".jpg", half, jpeg, {cv::IMWRITE_JPEG_QUALITY, 98});
        const auto word = [](Bytes& b, unsigned v, int n) {
            for (int i = 0; i < n; ++i)
                b.push_back(std::uint8_t(v >> (8 * i)));
        };
        Bytes tiff = {'I', 'I', 42, 0, 8, 0, 0, 0};
        word(tiff, 3, 2);
        for (const auto& [tag, type, value] : {std::tuple(0x112u, 3u, 6u), {0x11Au, 5u, 50u}, {0x128u, 3u, 2u}}) {
            word(tiff, tag, 2);
            word(tiff, type, 2);
            word(tiff, 1, 4);
            word(tiff, value, 4);
        }
        word(tiff, 0, 4);
        word(tiff, 240, 4);
        word(tiff, 1, 4);
        Bytes photo(jpeg.begin(), jpeg.begin() + 2);
        photo.insert(photo.end(), {0xff, 0xe1, 0, std::uint8_t(tiff.size() + 8), 'E', 'x', 'i', 'f', 0, 0});
        photo.insert(photo.end(), tiff.begin(), tiff.end());
        // Without the JFIF header, whose own resolution would count first.
        photo.insert(photo.end(), jpeg.begin() + 20, jpeg.end());
        const Picture p = pictureFromBytes(photo, "photo.jpg");
        QCOMPARE(p.info.width, 40);
        QCOMPARE(p.info.height, 60);
        QCOMPARE(p.info.ppi, 240.0);
        const SharedRgba px = decodePicture(p);
        QCOMPARE(px->width(), 40);
        QVERIFY(px->at(20, 10).g < 60 && px->at(20, 50).g > 200); // red is on top now
    }

    void inksBecomeColours()
    {
        // Without a profile, by common practice: light is what neither ink nor black takes.
        QVERIFY(near(onlyColour(cmykJpeg({0, 255, 255, 0}), "red.jpg"), 255, 0, 0));
        QVERIFY(near(onlyColour(cmykJpeg({255, 0, 0, 128}), "cyan.jpg"), 0, 127, 127));
        QVERIFY(near(onlyColour(cmykJpeg({0, 0, 0, 0}), "paper.jpg"), 255, 255, 255));
    }

    // IEC 61966-2-1: linear light v is the sRGB value 1.055 v^(1/2.4) - 0.055. A profile with
    // sRGB's primaries and a gamma of one therefore turns 55 into 128.
    void profilesAreFollowed()
    {
        const cmsCIExyY white{0.3127, 0.3290, 1};
        const cmsCIExyYTRIPLE primaries{{0.64, 0.33, 1}, {0.30, 0.60, 1}, {0.15, 0.06, 1}};
        cmsToneCurve* straight = cmsBuildGamma(nullptr, 1.0);
        cmsToneCurve* curves[] = {straight, straight, straight};
        const auto profile = [&] { return cmsCreateRGBProfile(&white, &primaries, curves); };
        const double v = 55 / 255.0;
        const int expected = int(std::lround(255 * (1.055 * std::pow(v, 1 / 2.4) - 0.055)));
        QCOMPARE(expected, 128);
        Bytes png;
        cv::imencode(".png", cv::Mat(20, 20, CV_8UC3, cv::Scalar(55, 55, 55)), png);
        QVERIFY(near(onlyColour(png, "plain.png"), 55, 55, 55, 0));
        QVERIFY(near(onlyColour(withProfile(png, profile()), "linear.png"), expected, expected, expected, 1));
        // With 16 bits the dark tones that 8 linear bits would have lost come out apart.
        cv::Mat deep(20, 20, CV_16UC4, cv::Scalar(300, 300, 300, 32896));
        cv::imencode(".png", deep, png);
        const Rgba dark = onlyColour(withProfile(png, profile()), "deep.png");
        const int level = int(std::lround(255 * (1.055 * std::pow(300 / 65535.0, 1 / 2.4) - 0.055)));
        QVERIFY2(near(dark, level, level, level, 1), qPrintable(QString::number(dark.r)));
        QCOMPARE(int(dark.a), 128);
        cmsFreeToneCurve(straight);
        // A profile for grey in a coloured picture does not go with it.
        cmsToneCurve* two = cmsBuildGamma(nullptr, 2.0);
        cv::imencode(".png", cv::Mat(20, 20, CV_8UC3, cv::Scalar(9, 99, 199)), png);
        QVERIFY(near(onlyColour(withProfile(png, cmsCreateGrayProfile(&white, two)), "wrong.png"), 199, 99, 9, 0));
        cmsFreeToneCurve(two);
    }

    void framesAndPagesAreChosen()
    {
        const Picture gif = pictureFromBytes(twoFrameGif(), "two.gif");
        const SharedRgba first = decodePicture(gif);
        QCOMPARE(first->width(), 6);
        for (int y = 0; y < 4; ++y) {
            QCOMPARE(int(first->at(1, y).a), 0);
            QVERIFY(near(first->at(4, y), 230, 20, 30, 0) && first->at(4, y).a == 255);
        }
        const std::string file = (std::filesystem::temp_directory_path() / "yokai-pages.tif").string();
        cv::imwritemulti(file, std::vector{cv::Mat(30, 40, CV_8UC3, cv::Scalar(0, 0, 200)), cv::Mat(50, 20, CV_8UC3, cv::Scalar(0, 200, 0))});
        const Picture one = openPicture(file);
        std::filesystem::remove(file);
        QCOMPARE(one.info.pages, 2);
        QCOMPARE(one.info.width, 40);
        const Picture two = pageOf(one, 1);
        QCOMPARE(two.info.width, 20);
        QCOMPARE(two.info.height, 50);
        QVERIFY(two.digest != one.digest);
        QVERIFY(near(decodePicture(two)->at(5, 5), 0, 200, 0));
        QVERIFY(near(decodePicture(one)->at(5, 5), 200, 0, 0));
        QVERIFY_EXCEPTION_THROWN(pageOf(one, 2), Error);
    }

    // Turning and mirroring move pixels and make none anew, and four quarters are none.
    void turnsAreExact()
    {
        ArtworkSpec a = cornered();
        a.setWidth(Length::mm(30));
        const auto corner = [&](int x, int y) { return framed(a).pixels->at(x, y).g == 0; };
        QVERIFY(corner(0, 0) && corner(19, 9) && !corner(20, 0));
        a.turnRight();
        QCOMPARE(framed(a).pixels->width(), 60);
        QVERIFY(corner(59, 0) && corner(50, 19) && !corner(49, 0));
        QCOMPARE(a.height(), 30.0);
        QCOMPARE(a.side, Length::mm(30)); // as typed, though it is the height now
        a.mirrorAcross();
        QVERIFY(corner(0, 0) && corner(9, 19) && !corner(10, 0));
        a.turnRight();
        QVERIFY(corner(89, 0) && corner(70, 9) && !corner(69, 0));
        a.mirrorAcross();
        QVERIFY(corner(0, 0) && corner(19, 9));
        QCOMPARE(a.quarters, 0);
        // Source places go along.
        a.turnRight();
        const Point seen = a.sourceToMm()({20, 10});
        QVERIFY(distance(seen, {50 / 3.0, 20 / 3.0}) < 1e-9);
    }

    void cropsKeepTheScale()
    {
        ArtworkSpec a = cornered();
        a.setWidth(Length::mm(45)); // 2 px a mm
        a.cropTo({5, 5, 25, 20});
        QCOMPARE(a.pxPerMm(), 2.0);
        QCOMPARE(a.width(), 20.0);
        QCOMPARE(framed(a).pixels->width(), 40);
        QVERIFY(framed(a).pixels->at(9, 0).g == 255);
        a.turnRight();
        QCOMPARE(a.width(), 15.0);
        QCOMPARE(a.pxPerMm(), 2.0);
        a.turnLeft();
        // A typed width is that of what is seen.
        a.setWidth(Length::mm(10));
        QCOMPARE(a.width(), 10.0);
        QCOMPARE(a.pxPerMm(), 4.0);
        a.cropTo({-100, -100, 100, 100});
        QVERIFY(!a.crop);
        QCOMPARE(a.pxPerMm(), 4.0);
        QCOMPARE(a.width(), 22.5);
        // Sides apart from each other.
        a.setHeight(Length::mm(30), false);
        QCOMPARE(a.width(), 22.5);
        QCOMPARE(a.height(), 30.0);
        QCOMPARE(framed(a).pixels->height(), 120);
        a.turnRight();
        QCOMPARE(a.width(), 30.0);
        QCOMPARE(a.height(), 22.5);
        a.setWidth(Length::mm(15)); // the ratio they have now is kept
        QCOMPARE(a.height(), 11.25);
    }

    // A box drawn 3.7 degrees askew, straightened: its cut line runs level and its size is right.
    void straightens()
    {
        const double askew = 3.7 * M_PI / 180, c = std::cos(askew), s = std::sin(askew);
        const Gray8 box = drawn(500, 400, [&](double x, double y) {
            const double u = (x - 250) * c - (y - 200) * s, v = (x - 250) * s + (y - 200) * c;
            return std::abs(u) < 150 && std::abs(v) < 100;
        });
        Rgba8 px(500, 400);
        for (std::size_t i = 0; i < px.size(); ++i) {
            const auto v = std::uint8_t(255 - box.all()[i]);
            px.all()[i] = {v, v, v, 255};
        }
        Job job;
        Piece piece;
        piece.artwork.picture = pictureFromBytes(encodePng(px), "askew.png");
        piece.artwork.straightenTo(3.7);
        piece.lines() = {{LineKind::Through, Length()}};
        job.pieces.push_back(piece);
        StepCache cache;
        const Derived d = derive(job, cache);
        QVERIFY(!d.pieces[0].problem);
        QCOMPARE(int(d.pieces[0].layer().coverage->rule), int(KeepRule::Paper)); // the paper round it, not the corners beyond the picture
        QCOMPARE(d.pieces[0].layer().lines[0].paths->size(), std::size_t(1));
        const Rect found = bounds(*d.pieces[0].layer().lines[0].paths);
        QVERIFY2(std::abs(found.width() - 300 / pxPerMm300) < 0.015, qPrintable(QString::number(found.width() - 300 / pxPerMm300)));
        QVERIFY2(std::abs(found.height() - 200 / pxPerMm300) < 0.015, qPrintable(QString::number(found.height() - 200 / pxPerMm300)));
        QVERIFY(std::abs(d.pieces[0].pxPerMm - pxPerMm300) < 1e-9);
    }

    // Bitmaps of every depth and packing, written here by the format's own description.
    void bitmapsOfEveryKind()
    {
        const int w = 13, h = 9; // rows are padded
        const auto index = [](int x, int y, int bits) { return (x * 5 + y * 3) & ((1 << bits) - 1); };
        const auto shade = [](int i) { return Rgba{std::uint8_t(i * 40), std::uint8_t(255 - i), std::uint8_t(i * 7), 255}; };
        struct Kind {
            int bits, packing;
            bool downwards;
            std::vector<std::uint32_t> masks;
        };
        const std::vector<Kind> kinds = {{1, 0, false, {}},
                                         {4, 0, true, {}},
                                         {8, 0, false, {}},
                                         {8, 1, false, {}},
                                         {4, 2, false, {}},
                                         {24, 0, true, {}},
                                         {16, 0, false, {}},
                                         {16, 3, false, {0xf800, 0x07e0, 0x001f}},
                                         {32, 0, false, {}},
                                         {32, 3, true, {0xff, 0xff00, 0xff0000}},
                                         {32, 6, false, {0xff0000, 0xff00, 0xff, 0xff000000}}};
        for (const Kind& k : kinds) {
            Bytes out;
            const auto put = [&](std::uint64_t v, int bytes) {
                for (int b = 0; b < bytes; ++b)
                    out.push_back(std::uint8_t(v >> (8 * b)));
            };
            const int colours = k.bits <= 8 ? 1 << k.bits : 0;
            out = {'B', 'M'};
            put(0, 8);
            put(std::uint64_t(54 + 4 * k.masks.size() + 4 * std::size_t(colours)), 4);
            put(40, 4);
            put(w, 4);
            put(std::uint32_t(k.downwards ? -h : h), 4);
            put(1, 2);
            put(std::uint64_t(k.bits), 2);
            put(std::uint64_t(k.packing), 4);
            put(0, 4);
            put(11811, 4); // 300 ppi
            put(11811, 4);
            put(std::uint64_t(colours), 4);
            put(0, 4);
            for (const std::uint32_t m : k.masks)
                put(m, 4);
            for (int c = 0; c < colours; ++c) {
                const Rgba s = shade(c);
                put(std::uint64_t(s.b | s.g << 8 | s.r << 16), 4);
            }
            // What stands at a place, and what should come of it.
            const auto at = [&](int x, int y) -> std::pair<std::uint32_t, Rgba> {
                if (k.bits <= 8)
                    return {std::uint32_t(index(x, y, k.bits)), shade(index(x, y, k.bits))};
                const Rgba c{std::uint8_t(x * 19), std::uint8_t(y * 28), std::uint8_t(x * y * 2), std::uint8_t(k.packing == 6 ? 200 - x : 255)};
                if (k.bits == 24)
                    return {std::uint32_t(c.b | c.g << 8 | c.r << 16), c};
                const bool fives = k.bits == 16, six = fives && !k.masks.empty();
                if (fives) {
                    const int r = c.r >> 3, g = c.g >> (six ? 2 : 3), b = c.b >> 3;
                    return {std::uint32_t(r << (six ? 11 : 10) | g << 5 | b),
                            {std::uint8_t((r * 255 + 15) / 31), std::uint8_t(six ? (g * 255 + 31) / 63 : (g * 255 + 15) / 31),
                             std::uint8_t((b * 255 + 15) / 31), 255}};
                }
                const bool swapped = !k.masks.empty() && k.masks[0] == 0xff;
                return {(swapped ? std::uint32_t(c.r | c.g << 8 | c.b << 16) : std::uint32_t(c.b | c.g << 8 | c.r << 16)) |
                            std::uint32_t(k.packing == 6 ? c.a : 0) << 24,
                        c};
            };
            for (int row = 0; row < h; ++row) {
                const int y = k.downwards ? row : h - 1 - row;
                if (k.packing == 1 || k.packing == 2) { // a run of one, a stretch, runs
                    put(1, 1);
                    put(at(0, y).first << (k.bits == 4 ? 4 : 0), 1);
                    put(0, 1);
                    put(5, 1);
                    const std::size_t begin = out.size();
                    for (int x = 1; x < 6; x += k.bits == 4 ? 2 : 1)
                        put(k.bits == 8 ? at(x, y).first : at(x, y).first << 4 | (x + 1 < 6 ? at(x + 1, y).first : 0), 1);
                    if ((out.size() - begin) % 2)
                        put(0, 1);
                    for (int x = 6; x < w; ++x) {
                        put(1, 1);
                        put(at(x, y).first << (k.bits == 4 ? 4 : 0), 1);
                    }
                    put(0, 1);
                    put(row + 1 < h ? 0 : 1, 1);
                    continue;
                }
                const std::size_t begin = out.size();
                if (k.bits < 8) {
                    for (int x = 0; x < w; x += 8 / k.bits) {
                        int byte = 0;
                        for (int n = 0; n < 8 / k.bits; ++n)
                            byte = byte << k.bits | (x + n < w ? int(at(x + n, y).first) : 0);
                        put(std::uint64_t(byte), 1);
                    }
                } else {
                    for (int x = 0; x < w; ++x)
                        put(at(x, y).first, k.bits / 8);
                }
                while ((out.size() - begin) % 4)
                    put(0, 1);
            }
            const Picture picture = pictureFromBytes(out, "any.bmp");
            const QByteArray what = QByteArray::number(k.bits) + " bits, packing " + QByteArray::number(k.packing);
            QVERIFY2(picture.info.width == w && picture.info.height == h && std::abs(picture.info.ppi - 300) < 0.1, what);
            const SharedRgba px = decodePicture(picture);
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x)
                    QVERIFY2(px->at(x, y) == at(x, y).second, what + " at " + QByteArray::number(x) + ", " + QByteArray::number(y));
            // Cut short it is refused or, of runs, never read beyond.
            Bytes half(out.begin(), out.begin() + std::ptrdiff_t(out.size() - 12));
            QVERIFY_EXCEPTION_THROWN(decodePicture(pictureFromBytes(half, "half.bmp")), Error);
        }
    }

    // What libtiff writes, laid out in every way we meet: by planes, in tiles, black on white and the
    // other way round, with colours that are multiplied by their alpha, in real numbers.
    void tiffsOfEveryKind()
    {
        struct Kind {
            const char* name;
            int bits, samples, photometric, planar;
            bool tiled, multiplied;
        };
        static constexpr Kind kinds[] = {{"rows", 8, 3, PHOTOMETRIC_RGB, PLANARCONFIG_CONTIG, false, false},
                                         {"planes", 8, 3, PHOTOMETRIC_RGB, PLANARCONFIG_SEPARATE, false, false},
                                         {"tiles", 8, 3, PHOTOMETRIC_RGB, PLANARCONFIG_CONTIG, true, false},
                                         {"white is nought", 8, 1, PHOTOMETRIC_MINISWHITE, PLANARCONFIG_CONTIG, false, false},
                                         {"white is nought, deep", 16, 1, PHOTOMETRIC_MINISWHITE, PLANARCONFIG_CONTIG, false, false},
                                         {"multiplied", 8, 4, PHOTOMETRIC_RGB, PLANARCONFIG_CONTIG, false, true},
                                         {"multiplied, deep", 16, 4, PHOTOMETRIC_RGB, PLANARCONFIG_CONTIG, false, true},
                                         {"real numbers", 32, 3, PHOTOMETRIC_RGB, PLANARCONFIG_CONTIG, false, false}};
        constexpr int w = 48, h = 32; // whole tiles of 16
        const QTemporaryDir dir;
        for (const Kind& k : kinds) {
            const std::string file = dir.filePath("any.tiff").toStdString();
            const auto value = [&](int x, int y, int c) { return c == 3 ? 0.25 + 0.75 * x / (w - 1) : c == 0 ? double(x) / w : c == 1 ? double(y) / h : 0.5; };
            const auto stored = [&](int x, int y, int c) { return value(x, y, c) * (k.multiplied && c < 3 ? value(x, y, 3) : 1); };
            TIFF* tiff = TIFFOpen(file.c_str(), "w");
            for (const auto& [tag, v] : {std::pair<int, int>(TIFFTAG_IMAGEWIDTH, w),
                                         {TIFFTAG_IMAGELENGTH, h},
                                         {TIFFTAG_BITSPERSAMPLE, k.bits},
                                         {TIFFTAG_SAMPLESPERPIXEL, k.samples},
                                         {TIFFTAG_PHOTOMETRIC, k.photometric},
                                         {TIFFTAG_PLANARCONFIG, k.planar},
                                         {TIFFTAG_SAMPLEFORMAT, k.bits == 32 ? SAMPLEFORMAT_IEEEFP : SAMPLEFORMAT_UINT}})
                TIFFSetField(tiff, std::uint32_t(tag), v);
            if (k.samples == 4) {
                const std::uint16_t extra[] = {EXTRASAMPLE_ASSOCALPHA};
                TIFFSetField(tiff, TIFFTAG_EXTRASAMPLES, 1, extra);
            }
            const auto append = [&](Bytes& to, double v) {
                if (k.bits == 32) {
                    const auto f = float(v);
                    const auto* bytes = reinterpret_cast<const std::uint8_t*>(&f);
                    to.insert(to.end(), bytes, bytes + 4);
                    return;
                }
                const auto whole = unsigned(std::lround(v * (k.bits == 16 ? 65535 : 255)));
                to.push_back(std::uint8_t(whole));
                if (k.bits == 16)
                    to.push_back(std::uint8_t(whole >> 8));
            };
            if (k.tiled) {
                TIFFSetField(tiff, TIFFTAG_TILEWIDTH, 16);
                TIFFSetField(tiff, TIFFTAG_TILELENGTH, 16);
                for (int ty = 0; ty < h; ty += 16)
                    for (int tx = 0; tx < w; tx += 16) {
                        Bytes tile;
                        for (int n = 0; n < 256 * k.samples; ++n)
                            append(tile, stored(tx + n / k.samples % 16, ty + n / k.samples / 16, n % k.samples));
                        TIFFWriteTile(tiff, tile.data(), std::uint32_t(tx), std::uint32_t(ty), 0, 0);
                    }
            } else {
                TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, 7);
                const bool planes = k.planar == PLANARCONFIG_SEPARATE;
                for (int plane = 0; plane < (planes ? k.samples : 1); ++plane)
                    for (int y = 0; y < h; ++y) {
                        Bytes row;
                        for (int n = 0; n < w * (planes ? 1 : k.samples); ++n)
                            append(row, planes ? stored(n, y, plane) : stored(n / k.samples, y, n % k.samples));
                        TIFFWriteScanline(tiff, row.data(), std::uint32_t(y), std::uint16_t(plane));
                    }
            }
            TIFFClose(tiff);
            SharedRgba px;
            try {
                px = decodePicture(openPicture(file));
            } catch (const Error& e) {
                QFAIL(qPrintable(QString(k.name) + ": " + e.what()));
            }
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) {
                    const Rgba c = px->at(x, y);
                    const auto like = [&](int is, double should) { return std::abs(is - 255 * should) <= (k.multiplied ? 3 : 1); };
                    const bool grey = k.samples == 1, good = grey ? like(c.r, 1 - value(x, y, 0)) && c.g == c.r && c.b == c.r
                                                                  : like(c.r, value(x, y, 0)) && like(c.g, value(x, y, 1)) && like(c.b, value(x, y, 2));
                    QVERIFY2(good && like(c.a, k.samples == 4 ? value(x, y, 3) : 1),
                             qPrintable(QString("%1 at %2, %3: %4 %5 %6 %7").arg(k.name).arg(x).arg(y).arg(c.r).arg(c.g).arg(c.b).arg(c.a)));
                }
        }
    }

    void badPicturesGiveOneClearLine()
    {
        Bytes good;
        cv::imencode(".png", cv::Mat(50, 50, CV_8UC3, cv::Scalar(1, 2, 3)), good);
        const auto refused = [](Bytes bytes, const char* part) {
            try {
                decodePicture(pictureFromBytes(std::move(bytes), "a.png"));
            } catch (const Error& e) {
                const std::string line = e.what();
                return e.kind() == ErrorKind::Input && line.find("a.png") != std::string::npos && line.find(part) != std::string::npos &&
                       line.find('\n') == std::string::npos;
            }
            return false;
        };
        QVERIFY(refused({}, "empty"));
        QVERIFY(refused({'h', 'e', 'l', 'l', 'o'}, "not a PNG"));
        QVERIFY(refused(Bytes(good.begin(), good.begin() + 20), "cut short"));
        QVERIFY(refused(Bytes(good.begin(), good.end() - 30), "cut short"));
        Bytes huge = good;
        huge[16] = 0x7f; // a width of two thousand million
        QVERIFY(refused(huge, "10000"));
        for (const char* extension : {".jpg", ".tif", ".webp", ".bmp"}) {
            Bytes whole;
            cv::imencode(extension, cv::Mat(50, 50, CV_8UC3, cv::Scalar(1, 2, 3)), whole);
            for (const std::size_t n : {std::size_t(3), std::size_t(9), std::size_t(30), whole.size() / 3})
                try {
                    decodePicture(pictureFromBytes(Bytes(whole.begin(), whole.begin() + std::ptrdiff_t(std::min(n, whole.size()))), "cut"));
                } catch (const Error&) {
                    // refused with a line is what is wanted; anything else would have ended the test
                }
        }
    }
};

QTEST_GUILESS_MAIN(TestArtwork)
#include "test_artwork.moc"
