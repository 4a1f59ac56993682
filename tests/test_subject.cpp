// The subject of a photo, against a known truth: open drawings (OpenMoji, npm openmoji) laid on photographs (the Debian package
// mate-backgrounds), so that which pixels are the drawing's is known.

#include "keep/keep.h"
#include "keep/subject.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

#include <QDir>
#include <QTest>

#include <random>

using namespace yokai;

namespace {

struct Composed {
    Rgba8 picture;
    cv::Mat truth; // opacity, 0..255
    Ring box;      // as a hand draws it round the subject
    QString name;
};

cv::Mat readColour(const QString& file, int side)
{
    const SharedRgba drawn = decodePicture(openPicture(file.toStdString()));
    cv::Mat out(drawn->height(), drawn->width(), CV_8UC4, const_cast<Rgba*>(drawn->all().data()));
    cv::Mat sized;
    cv::resize(out, sized, {side, side}, 0, 0, cv::INTER_AREA);
    return sized;
}

// A drawing on a photograph, the photograph's longer side so many pixels, as a camera would have stored it.
Composed composed(unsigned seed, int side)
{
    std::mt19937 random(seed);
    const auto any = [&](double low, double high) { return low + (high - low) * double(random() % 10000) / 9999; };
    const QDir photos(YOKAI_PHOTOS), drawings(YOKAI_OPENMOJI "/color/svg");
    const QStringList photoNames = photos.entryList({"*.jpg"}, QDir::Files, QDir::Name);
    // Animals, plants and things to eat.
    const QStringList drawingNames = drawings.entryList({"1F40?.svg", "1F41?.svg", "1F42?.svg", "1F43?.svg", "1F34?.svg", "1F95?.svg", "1F98?.svg"}, QDir::Files, QDir::Name);
    Composed out;
    const QString photo = photoNames[qsizetype(random() % std::size_t(photoNames.size()))], drawing = drawingNames[qsizetype(random() % std::size_t(drawingNames.size()))];
    out.name = drawing + " on " + photo;
    cv::Mat ground = cv::imread(photos.filePath(photo).toStdString());
    cv::cvtColor(ground, ground, cv::COLOR_BGR2RGB);
    const int height = side * 3 / 4, width = side;
    const double share = any(0.5, 1.0);
    const cv::Size crop(int(ground.cols * share), std::min(ground.rows, int(ground.cols * share * 3 / 4)));
    const cv::Rect window(int(any(0, ground.cols - crop.width)), int(any(0, ground.rows - crop.height)), crop.width, crop.height);
    cv::resize(ground(window), ground, {width, height}, 0, 0, crop.width > width ? cv::INTER_AREA : cv::INTER_CUBIC);
    const int size = int(height * any(0.45, 0.95));
    const cv::Mat drawn = readColour(drawings.filePath(drawing), size);
    const int x0 = int(any(0, width - size)), y0 = int(any(0, height - size));
    out.truth = cv::Mat::zeros(height, width, CV_8U);
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
            const auto c = drawn.at<cv::Vec4b>(y, x);
            auto& to = ground.at<cv::Vec3b>(y0 + y, x0 + x);
            for (int k = 0; k < 3; ++k)
                to[k] = std::uint8_t((c[k] * c[3] + to[k] * (255 - c[3])) / 255);
            out.truth.at<std::uint8_t>(y0 + y, x0 + x) = c[3];
        }
    std::vector<std::uint8_t> jpeg;
    cv::imencode(".jpg", ground, jpeg, {cv::IMWRITE_JPEG_QUALITY, 92});
    ground = cv::imdecode(jpeg, cv::IMREAD_COLOR);
    out.picture = Rgba8(width, height);
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const auto c = ground.at<cv::Vec3b>(y, x);
            out.picture.row(y)[x] = {c[0], c[1], c[2], 255};
        }
    const cv::Rect is = cv::boundingRect(out.truth > 127);
    const double loose = 0.06 * std::max(is.width, is.height);
    const Rect box{is.x - any(0.1, 1) * loose, is.y - any(0.1, 1) * loose, is.x + is.width + any(0.1, 1) * loose, is.y + is.height + any(0.1, 1) * loose};
    out.box = {{box.x0, box.y0}, {box.x1, box.y0}, {box.x1, box.y1}, {box.x0, box.y1}};
    return out;
}

// What both have of what either has.
double overlap(const Gray8& found, const cv::Mat& truth)
{
    const cv::Mat is(found.height(), found.width(), CV_8U, const_cast<std::uint8_t*>(found.all().data()));
    return double(cv::countNonZero((is > 127) & (truth > 127))) / std::max(1, cv::countNonZero((is > 127) | (truth > 127)));
}

// A stroke along the middle of the largest area that is wrong, as a maker would draw it.
SubjectStroke mending(const Gray8& found, const cv::Mat& truth)
{
    const cv::Mat is(found.height(), found.width(), CV_8U, const_cast<std::uint8_t*>(found.all().data()));
    cv::Mat wrong = (is > 127) ^ (truth > 127), labels, stats, centres, away;
    cv::erode(wrong, wrong, cv::Mat()); // not the rim
    const int count = cv::connectedComponentsWithStats(wrong, labels, stats, centres, 4);
    int worst = 0;
    for (int k = 1; k < count; ++k)
        if (worst == 0 || stats.at<int>(k, cv::CC_STAT_AREA) > stats.at<int>(worst, cv::CC_STAT_AREA))
            worst = k;
    SubjectStroke out;
    out.radius = 2;
    if (worst == 0)
        return out;
    const cv::Mat piece = labels == worst;
    cv::distanceTransform(piece, away, cv::DIST_L2, 3);
    // The deepest place of each of some slices across its longer side.
    const cv::Rect box = cv::boundingRect(piece);
    const bool wide = box.width >= box.height;
    for (int k = 0; k < (wide ? box.width : box.height); k += 4) {
        const cv::Rect slice = wide ? cv::Rect(box.x + k, box.y, 1, box.height) : cv::Rect(box.x, box.y + k, box.width, 1);
        cv::Point deepest;
        double depth = 0;
        cv::minMaxLoc(away(slice), nullptr, &depth, nullptr, &deepest);
        if (depth > 2)
            out.points.push_back({slice.x + deepest.x + 0.5, slice.y + deepest.y + 0.5});
    }
    if (out.points.empty()) {
        cv::Point deepest;
        cv::minMaxLoc(away, nullptr, nullptr, nullptr, &deepest);
        out.points = {{deepest.x + 0.5, deepest.y + 0.5}};
    }
    out.picture = truth.at<std::uint8_t>(int(out.points[0].y), int(out.points[0].x)) > 127;
    return out;
}

} // namespace

class TestSubject : public QObject {
    Q_OBJECT

private slots:
    // Over 0.97 in the middle and 0.85 for nine in ten; plain GrabCut, over all of such pictures, has 0.955 and 0.78.
    void fromOneBox()
    {
        const int count = qEnvironmentVariableIsSet("YOKAI_SUBJECTS") ? qEnvironmentVariableIntValue("YOKAI_SUBJECTS") : 30; // more, for those who wait
        std::vector<double> overlaps;
        for (int k = 0; k < count; ++k) {
            const Composed c = composed(unsigned(k + 1), 640);
            const Gray8 found = subjectOf(c.picture, {c.box, {}}, {});
            overlaps.push_back(overlap(found, c.truth));
        }
        std::sort(overlaps.begin(), overlaps.end());
        const double median = overlaps[overlaps.size() / 2], lowestTenth = overlaps[overlaps.size() / 10];
        QVERIFY2(median > 0.97 && lowestTenth > 0.85, qPrintable(QString("median %1, lowest tenth from %2, lowest %3").arg(median).arg(lowestTenth).arg(overlaps.front())));
    }

    // What one box leaves wrong, three strokes mend.
    void mendedByStrokes()
    {
        int wanted = 0;
        for (const unsigned seed : {5, 30, 64, 79, 83, 61}) { // the worst of the first 120
            const Composed c = composed(seed, 640);
            SubjectSpec spec{c.box, {}};
            Gray8 found = subjectOf(c.picture, spec, {});
            wanted += overlap(found, c.truth) < 0.9;
            for (int k = 0; k < 3; ++k) {
                spec.strokes.push_back(mending(found, c.truth));
                found = subjectOf(c.picture, spec, {});
            }
            QVERIFY2(overlap(found, c.truth) > 0.95, qPrintable(QString("%1: %2").arg(c.name).arg(overlap(found, c.truth))));
        }
        QVERIFY(wanted > 3);
    }

    // On a large picture the edge is that of the picture itself, to its own pixels.
    void largeIsFine()
    {
        const Composed c = composed(4, 4000);
        const Gray8 found = subjectOf(c.picture, {c.box, {}}, {});
        QVERIFY2(overlap(found, c.truth) > 0.995, qPrintable(QString::number(overlap(found, c.truth))));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY_THROWS_EXCEPTION(Cancelled, subjectOf(c.picture, {c.box, {}}, {}, Work{stop.get_token(), {}}));
    }

    // What makes no sense finds nothing and does no harm; what is marked is there, whatever it looks like.
    void oddBoxesAndStrokes()
    {
        const Composed c = composed(4, 640);
        const auto found = [&](SubjectSpec spec) { return subjectOf(c.picture, spec, {}); };
        const auto kept = [](const Gray8& g) { return std::count_if(g.all().begin(), g.all().end(), [](std::uint8_t v) { return v > 127; }); };
        const Ring beside{{-90, -90}, {-10, -90}, {-10, -10}, {-90, -10}}, thin{{100, 100}, {101, 100}, {101, 300}, {100, 300}}, all{{-5, -5}, {900, -5}, {900, 900}, {-5, 900}};
        QCOMPARE(kept(found({beside, {}})), 0);
        QCOMPARE(kept(found({{}, {}})), 0); // nothing said
        found({thin, {}});
        found({all, {}});
        const SubjectStroke here{true, 12, {{320, 240}}}, notHere{false, 12, {{320, 240}}};
        QVERIFY(found({{}, {here}}).at(320, 240) > 127);
        QVERIFY(found({c.box, {here, notHere}}).at(320, 240) < 128); // the later wins
        QVERIFY(found({c.box, {notHere, here}}).at(320, 240) > 127);
        const SubjectStroke dot{true, 0.4, {{320, 240}}}, corner{true, 10, {{8, 8}}};
        found({{}, {dot}}); // a pixel or two
        QVERIFY(found({{{300, 200}, {400, 200}, {400, 300}, {300, 300}}, {corner}}).at(8, 8) > 127); // beside the box
        // One colour all over.
        QCOMPARE(subjectOf(Rgba8(200, 100, Rgba{90, 90, 90, 255}), {{{50, 20}, {150, 20}, {150, 80}, {50, 80}}, {}}, {}).width(), 200);
    }
};

QTEST_GUILESS_MAIN(TestSubject)
#include "test_subject.moc"
