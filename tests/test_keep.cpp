#include "artwork/artwork.h"
#include "base/error.h"
#include "job/derive.h"
#include "keep/colour.h"
#include "keep/keep.h"
#include "shapes.h"

#include <array>
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QTest>
#include <tuple>

#include <filesystem>
#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

Rgba8 blended(const Gray8& coverage, Rgba ink, Rgba paper)
{
    Rgba8 out(coverage.width(), coverage.height());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const int c = coverage.all()[i];
        const auto mixed = [&](int a, int b) { return std::uint8_t((a * c + b * (255 - c) + 127) / 255); };
        out.all()[i] = {mixed(ink.r, paper.r), mixed(ink.g, paper.g), mixed(ink.b, paper.b), 255};
    }
    return out;
}

} // namespace

class TestKeep : public QObject {
    Q_OBJECT
private slots:
    // A disc in ink on paper: the edge found by difference lies where the ink's edge is,
    // whatever the ink's strength.
    void paperEdgeIsSubPixel_data()
    {
        QTest::addColumn<int>("grey");
        for (const int grey : {0, 90, 170})
            QTest::newRow(qPrintable(QString::number(grey))) << grey;
    }
    void paperEdgeIsSubPixel()
    {
        QFETCH(int, grey);
        const double r = 80.4;
        const Point c{100.3, 99.6};
        const Gray8 disc = drawn(200, 200, [&](double x, double y) { return std::hypot(x - c.x, y - c.y) < r; });
        const auto g = std::uint8_t(grey);
        const Coverage found = coverageOf(blended(disc, {g, g, g, 255}, {252, 250, 246, 255}), {});
        QCOMPARE(int(found.rule), int(KeepRule::Paper));
        double mean = 0;
        const Contours edge = traceEdge(*found.pixels);
        QCOMPARE(edge.size(), std::size_t(1));
        for (const Point p : edge[0].points)
            mean += (distance(p, c) - r) / double(edge[0].points.size());
        // CIEDE2000 is not linear in the mixture, so a strong ink's edge moves a little outwards.
        QVERIFY2(std::abs(mean) < 0.35, qPrintable(QString::number(mean)));
    }

    void paperInsideIsKept()
    {
        // White within a dark ring is not joined to the picture's edge: it is picture.
        const Gray8 ring = drawn(200, 200, [](double x, double y) {
            const double d = std::hypot(x - 100, y - 100);
            return d < 80 && d > 60;
        });
        const Coverage found = coverageOf(blended(ring, {30, 30, 60, 255}, {255, 255, 255, 255}), {});
        QCOMPARE(traceEdge(*found.pixels).size(), std::size_t(1));
        QCOMPARE(int(found.pixels->at(100, 100)), 255);
        QCOMPARE(int(found.pixels->at(3, 3)), 0);
    }

    void ruleIsChosenFromThePicture()
    {
        Rgba8 clear(40, 40, Rgba{0, 0, 0, 0});
        clear.at(20, 20) = {255, 0, 0, 255};
        QCOMPARE(int(coverageOf(clear, {}).rule), int(KeepRule::Alpha));
        Rgba8 photo(40, 40);
        for (int i = 0; i < 1600; ++i)
            photo.all()[std::size_t(i)] = {std::uint8_t(i * 37), std::uint8_t(i * 91), std::uint8_t(i * 13), 255};
        const Coverage all = coverageOf(photo, {});
        QCOMPARE(int(all.rule), int(KeepRule::All));
        QVERIFY(!all.why.empty());
    }

    void crumbsDropAndOpeningsFill()
    {
        const Gray8 shape = drawn(300, 200, [](double x, double y) {
            const double d = std::hypot(x - 100, y - 100);
            return (d < 80 && d > 12) || std::hypot(x - 250, y - 60) < 5 || std::hypot(x - 250, y - 140) < 20;
        });
        Rgba8 px(300, 200);
        for (std::size_t i = 0; i < px.size(); ++i)
            px.all()[i] = {200, 40, 40, shape.all()[i]};
        KeepSpec spec;
        spec.smallestPart = 1; // mm2; the crumb has 0.56
        const Coverage coverage = coverageOf(px, spec);
        Parts parts = partsOf(traceEdge(*coverage.pixels), spec, {300, 200}, pxPerMm300);
        QCOMPARE(parts.keptParts, 2);
        QCOMPARE(parts.droppedParts, 1);
        QCOMPARE(parts.keptOpenings, 1);
        QCOMPARE(parts.contours.size(), std::size_t(3));
        QCOMPARE(int(printedOf(px, coverage, parts)->at(250, 60)), 0); // a crumb is not printed either
        QCOMPARE(int(printedOf(px, coverage, parts)->at(250, 140)), 255);
        QVERIFY(std::abs(parts.all[0].area - (80 * 80 - 12 * 12) * std::numbers::pi / (pxPerMm300 * pxPerMm300)) < 0.2);
        // By hand: the crumb kept, the opening filled, found by a place in them.
        for (const Part& p : parts.all)
            if ((!p.opening && !p.kept) || p.opening)
                spec.byHand.push_back({{p.inside.x * pxPerMm300 / 300, p.inside.y * pxPerMm300 / 200}, !p.opening});
        QCOMPARE(spec.byHand.size(), std::size_t(2));
        parts = partsOf(traceEdge(*coverage.pixels), spec, {300, 200}, pxPerMm300);
        QCOMPARE(parts.keptParts, 3);
        QCOMPARE(parts.filledOpenings, 1);
        spec.byHand.clear();
        spec.openings = Openings::Over;
        spec.openingsOver = 4; // mm2; the opening has 3.2
        parts = partsOf(traceEdge(*coverage.pixels), spec, {300, 200}, pxPerMm300);
        QCOMPARE(parts.filledOpenings, 1);
        QCOMPARE(parts.contours.size(), std::size_t(2));
    }

    void thousandsOfCrumbs()
    {
        Rgba8 px(2000, 1500, Rgba{0, 0, 0, 0});
        for (int y = 10; y < 1490; y += 20)
            for (int x = 10; x < 1990; x += 20)
                for (int k = 0; k < 9; ++k)
                    px.at(x + k % 3, y + k / 3) = {9, 9, 9, 255};
        for (int y = 700; y < 790; ++y)
            for (int x = 900; x < 1000; ++x)
                px.at(x, y) = {9, 9, 9, 255};
        const Coverage c = coverageOf(px, {});
        const Parts parts = partsOf(traceEdge(*c.pixels), {}, {2000, 1500}, pxPerMm300);
        QCOMPARE(parts.keptParts, 1);
        QVERIFY(parts.droppedParts > 7000);
    }

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

    void keepsByColourDarkAndLight()
    {
        Rgba8 px(60, 20);
        for (int y = 0; y < 20; ++y)
            for (int x = 0; x < 60; ++x)
                px.at(x, y) = x < 20 ? Rgba{20, 20, 30, 255} : x < 40 ? Rgba{200, 40, 60, 255} : Rgba{240, 240, 235, 255};
        const auto kept = [&](KeepRule rule) {
            KeepSpec spec;
            spec.rule = rule;
            spec.colour = {205, 42, 58, 255};
            const Coverage c = coverageOf(px, spec);
            return std::array{int(c.pixels->at(10, 10)), int(c.pixels->at(30, 10)), int(c.pixels->at(50, 10))};
        };
        const auto is = [](const std::array<int, 3>& c, bool a, bool b, bool d) { return (c[0] > 127) == a && (c[1] > 127) == b && (c[2] > 127) == d; };
        QVERIFY(is(kept(KeepRule::Colour), false, true, false));
        QVERIFY(is(kept(KeepRule::Dark), true, true, false));
        QVERIFY(is(kept(KeepRule::Light), false, false, true));
        QVERIFY(is(kept(KeepRule::All), true, true, true));
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

    // Only the steps that read a change run again.
    void stepsAreRemembered()
    {
        Job job;
        Piece piece;
        piece.artwork.picture = openPicture(std::filesystem::path(YOKAI_DEMO_PICTURES) / "moon-rabbit.png");
        job.pieces.push_back(piece);
        StepCache cache;
        Derived d = derive(job, cache);
        QVERIFY(d.milliseconds.contains("decode") && d.milliseconds.contains("outline") && d.milliseconds.contains("fit"));
        const auto parts = d.pieces[0].parts;
        job.pieces[0].cutLines.lines[0].offset = Length::mm(3);
        d = derive(job, cache);
        QVERIFY(!d.milliseconds.contains("decode") && !d.milliseconds.contains("outline") && d.milliseconds.contains("offset"));
        QCOMPARE(d.pieces[0].parts, parts);
        d = derive(job, cache);
        QVERIFY(d.milliseconds.empty());
        job.pieces[0].keep.smallestPart = 1e6;
        d = derive(job, cache);
        QVERIFY(d.pieces[0].problem && d.pieces[0].problem->kind() == ErrorKind::Input);
        QVERIFY(d.pieces[0].pixels); // still to be seen
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_EXCEPTION_THROWN(derive(job, cache, {stop.get_token(), {}}), Cancelled);
    }
};

QTEST_APPLESS_MAIN(TestKeep)
#include "test_keep.moc"
