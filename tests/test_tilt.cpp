// Pictures taken at an angle: what is known of a rectangle in them brings back true sizes and places.
#include "formats/drawing.h"
#include "formats/project/project.h"
#include "job/derive.h"
#include "job/recipe.h"
#include "job/replace.h"
#include "photo.h"
#include "register/find_marks.h"

#include <QTemporaryDir>
#include <QTest>

#include <opencv2/imgproc.hpp>

#include <numbers>

using namespace yokai;
using namespace yokai::test;

namespace {

constexpr double width = 200, depth = 150, plane = 6; // mm; pixels a mm of the picture it is made from
const Point disc{60, 50}, block{140, 100};            // mm: the middles of what lies on the mat
constexpr double radius = 15, blockWide = 40, blockHigh = 24, blockTurn = 12; // mm, degrees

// The mat from right above: a light sheet on a dark table, a disc and a turned block on it.
cv::Mat fromRightAbove()
{
    constexpr int round = 40; // mm of table
    cv::Mat out(int((depth + 2 * round) * plane), int((width + 2 * round) * plane), CV_8UC4, cv::Scalar(70, 64, 60, 255));
    const auto at = [&](Point mm) { return cv::Point2d((mm.x + round) * plane - 0.5, (mm.y + round) * plane - 0.5); };
    cv::rectangle(out, cv::Rect(int(round * plane), int(round * plane), int(width * plane), int(depth * plane)), cv::Scalar(236, 238, 240, 255), cv::FILLED);
    constexpr int sub = 4; // bits of a pixel's fraction
    const cv::Point2d c = at(disc);
    cv::circle(out, cv::Point(int(std::lround(c.x * (1 << sub))), int(std::lround(c.y * (1 << sub)))), int(radius * plane * (1 << sub)), cv::Scalar(40, 60, 190, 255), cv::FILLED, cv::LINE_AA, sub);
    std::vector<cv::Point> corners;
    for (const Point p : {Point{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
        const Point turned = Affine::turn(blockTurn * std::numbers::pi / 180)({p.x * blockWide / 2, p.y * blockHigh / 2});
        const cv::Point2d q = at(block + turned);
        corners.emplace_back(int(std::lround(q.x * (1 << sub))), int(std::lround(q.y * (1 << sub))));
    }
    cv::fillConvexPoly(out, corners, cv::Scalar(150, 80, 30, 255), cv::LINE_AA, sub);
    return out;
}

// As a camera sees it that is held at a slant, and where the sheet's corners are in its picture. Turned by OpenCV, not by what is tested.
std::pair<Picture, Corners4> slanted()
{
    const cv::Mat above = fromRightAbove();
    const cv::Size size(1600, 1200);
    const float w = float(above.cols), h = float(above.rows);
    const std::vector<cv::Point2f> from{{0, 0}, {w, 0}, {w, h}, {0, h}}, to{{210, 120}, {1330, 60}, {1580, 1150}, {30, 1080}};
    const cv::Mat map = cv::getPerspectiveTransform(from, to);
    cv::Mat seen;
    cv::warpPerspective(above, seen, map, size, cv::INTER_AREA, cv::BORDER_CONSTANT, cv::Scalar(70, 64, 60, 255));
    std::vector<cv::Point2f> sheet, corners;
    for (const Point p : {Point{0, 0}, {width, 0}, {width, depth}, {0, depth}})
        sheet.emplace_back(float((p.x + 40) * plane - 0.5), float((p.y + 40) * plane - 0.5));
    cv::perspectiveTransform(sheet, corners, map);
    Corners4 out;
    for (std::size_t k = 0; k < 4; ++k)
        out[k] = {double(corners[k].x) + 0.5, double(corners[k].y) + 0.5}; // OpenCV counts from pixel centres
    Rgba8 pixels(size.width, size.height);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const cv::Vec4b c = seen.at<cv::Vec4b>(y, x);
            pixels.at(x, y) = {c[0], c[1], c[2], 255};
        }
    return {pictureFromBytes(encodePng(pixels), "mat.png"), out};
}

TiltSpec tiltBy(const Corners4& corners, bool lies)
{
    TiltSpec out;
    setCorners(out, corners);
    out.across = Length::mm(width);
    out.down = Length::mm(depth);
    out.lies = lies;
    return out;
}

// The disc alone: what is dark in a ring drawn round it in the picture as it came.
Job jobOf(const Picture& picture, const Corners4& corners)
{
    Job job;
    job.sheet.media = {"custom", Length::mm(width), Length::mm(depth)};
    job.sheet.landscape = false;
    Piece piece;
    piece.name = "mat";
    piece.artwork.picture = picture;
    piece.keep().rule = KeepRule::Dark;
    const auto toSeen = homographyOf({Point{0, 0}, {width, 0}, {width, depth}, {0, depth}}, corners);
    Ring& ring = piece.keep().onlyInside.emplace_back();
    for (const Point p : {Point{40, 30}, {80, 30}, {80, 70}, {40, 70}})
        ring.push_back((*toSeen)(p));
    piece.keep().smoothing = 0_mm;
    piece.lines() = {LineSpec{}};
    piece.lines()[0].offset = {};
    job.pieces = {piece};
    giveIds(job);
    return job;
}

Derived derived(const Job& job, Want want = Want::Lines)
{
    StepCache cache;
    return derive(job, cache, {}, want);
}

// Of the first cut on the sheet, mm.
Rect cutOnSheet(const Job& job)
{
    const Drawing sheet = drawSheet(job, derived(job), 0, Content::Cut);
    return sheet.cuts.empty() ? Rect::nothing() : bounds(sheet.cuts[0].path);
}

} // namespace

class TestTilt : public QObject {
    Q_OBJECT
    Picture picture_;
    Corners4 corners_;
private slots:
    void initTestCase() { std::tie(picture_, corners_) = slanted(); }

    // The closed form against OpenCV's, forth and back; crossed corners are none.
    void mapsAgreeWithOpenCv()
    {
        const Corners4 square{Point{0, 0}, {width, 0}, {width, depth}, {0, depth}};
        const auto map = homographyOf(square, corners_);
        QVERIFY(map.has_value());
        std::vector<cv::Point2f> from, to;
        for (std::size_t k = 0; k < 4; ++k) {
            from.emplace_back(float(square[k].x), float(square[k].y));
            to.emplace_back(float(corners_[k].x), float(corners_[k].y));
        }
        const cv::Mat h = cv::getPerspectiveTransform(from, to);
        for (const Point p : {Point{10, 20}, {100, 75}, {190, 140}, {-30, 160}}) {
            const cv::Mat q = h * (cv::Mat_<double>(3, 1) << p.x, p.y, 1);
            QVERIFY(distance((*map)(p), {q.at<double>(0) / q.at<double>(2), q.at<double>(1) / q.at<double>(2)}) < 1e-3);
            QVERIFY(distance(map->inverse()((*map)(p)), p) < 1e-9);
        }
        QVERIFY(!homographyOf(square, {corners_[0], corners_[2], corners_[1], corners_[3]}));
        QVERIFY(!homographyOf(square, {Point{0, 0}, {1, 0}, {2, 0}, {0, 5}}));
    }

    // A disc is round again and as large as it is; as it came it is neither.
    void tiltIsTakenOut()
    {
        Job job = jobOf(picture_, corners_);
        setTilt(job.pieces[0], tiltBy(corners_, false));
        const Derived d = derived(job);
        QVERIFY2(!d.pieces[0].problem, d.pieces[0].problem ? d.pieces[0].problem->what() : "");
        const Rect box = bounds(*d.pieces[0].layer().lines[0].paths);
        QVERIFY2(std::abs(box.width() - 2 * radius) < 0.1 && std::abs(box.height() - 2 * radius) < 0.1, qPrintable(QString("%1 x %2").arg(box.width()).arg(box.height())));
        // The table round the sheet is seen too, as far as the picture shows it.
        QVERIFY(d.pieces[0].width > width + 10);
        setTilt(job.pieces[0], std::nullopt);
        job.pieces[0].artwork.setWidth(Length::mm(d.pieces[0].width));
        const Rect slant = bounds(*derived(job).pieces[0].layer().lines[0].paths);
        QVERIFY(std::abs(slant.width() - slant.height()) > 1);
    }

    // What lies on the mat is cut where it lies, however its picture is cropped, turned and sized; nothing is printed, and no hand moves it.
    void whatLiesThereIsCutThere()
    {
        Job job = jobOf(picture_, corners_);
        setTilt(job.pieces[0], tiltBy(corners_, true));
        const auto isThere = [&] {
            const Rect cut = cutOnSheet(job);
            return distance(cut.centre(), disc) < 0.05 && std::abs(cut.width() - 2 * radius) < 0.1 && std::abs(cut.height() - 2 * radius) < 0.1;
        };
        QVERIFY(isThere());
        ArtworkSpec& artwork = job.pieces[0].artwork;
        artwork.cropTo({35, 25, 90, 80});
        QVERIFY(isThere());
        artwork.straightenTo(-blockTurn);
        artwork.turnRight();
        artwork.mirrorAcross();
        QVERIFY(isThere());
        artwork.setWidth(10_mm); // as large as it lies there
        QVERIFY(isThere());
        job.placings.push_back({{}, job.pieces[0].id, 0, 120_mm, 30_mm});
        job.pieces[0].copies = 7;
        giveIds(job);
        QVERIFY(isThere());
        const Derived d = derived(job, Want::All);
        QCOMPARE(d.sheet.placements.size(), std::size_t(1));
        QVERIFY(drawSheet(job, d, 0, Content::Both).images.empty());
        // As it is opened again.
        const QTemporaryDir folder;
        const std::string path = folder.filePath("mat.yokai").toStdString();
        saveProject(job, path);
        QVERIFY(openProject(path) == job);
    }

    // Other copies keep clear of what lies there already.
    void othersKeepClearOfIt()
    {
        Job job = jobOf(picture_, corners_);
        setTilt(job.pieces[0], tiltBy(corners_, true));
        Piece other = job.pieces[0];
        other.id = {};
        setTilt(other, tiltBy(corners_, false));
        other.copies.reset();
        job.pieces.push_back(other);
        giveIds(job);
        const Derived d = derived(job);
        QVERIFY(d.sheet.placements.size() > 3);
        const Rect lies = mapped(d.sheet.placements[0].toSheet, d.pieces[0].box);
        QVERIFY(d.sheet.placements[0].lies);
        for (std::size_t k = 1; k < d.sheet.placements.size(); ++k)
            QVERIFY(!mapped(d.sheet.placements[k].toSheet, d.pieces[1].box).overlaps(lies));
    }

    // Work by hand stays on what it was made on, when the tilt is taken out and when it comes back.
    void workByHandStaysOnItsPlace()
    {
        Job job = jobOf(picture_, corners_);
        Piece& piece = job.pieces[0];
        const auto toSeen = homographyOf({Point{0, 0}, {width, 0}, {width, depth}, {0, depth}}, corners_);
        const Point inPicture = (*toSeen)(block);
        piece.keep().touches.push_back({TouchKind::BringBack, false, 20, {inPicture}});
        piece.guides.push_back({{}, inPicture, corners_[1]});
        setTilt(piece, tiltBy(corners_, true));
        const auto above = piece.artwork.fromAbove();
        QVERIFY(distance(above->toPlane()(piece.keep().touches[0].points[0]), block) < 1e-6);
        QVERIFY(distance(above->toPlane()(piece.guides[0].b), {width, 0}) < 1e-6);
        setTilt(piece, std::nullopt);
        QVERIFY(distance(piece.keep().touches[0].points[0], inPicture) < 1e-6);
        QVERIFY(std::abs(piece.keep().touches[0].radius - 20) < 0.5);
    }

    // A recipe is of settings: how a picture was taken is no other's, and stays with its own.
    void recipesLeaveItWhereItIs()
    {
        Job job = jobOf(picture_, corners_);
        Piece plain = job.pieces[0];
        Piece& piece = job.pieces[0];
        setTilt(piece, tiltBy(corners_, true));
        piece.keep().subject.box = {{1, 1}, {9, 1}, {9, 9}};
        const Recipe recipe = recipeOf(piece, "mat");
        yokai::apply(recipe, plain, HandWork::Stays);
        QVERIFY(!plain.artwork.tilt && plain.keep().subject.box.empty());
        const std::optional<TiltSpec> own = piece.artwork.tilt;
        yokai::apply(recipeOf(plain, "plain"), piece, HandWork::Stays);
        QVERIFY(piece.artwork.tilt == own && piece.keep().subject.box.size() == 3);
    }

    // A photo by a lens that bulges, the sheet known by its marks: straightened with them.
    void marksStraightenAPhoto()
    {
        SheetSpec spec;
        const std::vector<Mark> design = marksOf(spec);
        Shot shot;
        shot.tilt = 14;
        shot.tiltWay = 40;
        shot.turn = 3;
        shot.bulge = 0.02;
        const Photo photo = photograph(design, 210, 297, shot, 5);
        const FoundMarks found = findMarks(photo.picture, design);
        TiltSpec tilt;
        setCorners(tilt, found.cornersOf(210, 297));
        tilt.bulge = found.lens.bulge;
        tilt.across = 210_mm;
        tilt.down = 297_mm;
        tilt.lies = true;
        const auto above = FromAbove::of(tilt, photo.picture.width(), photo.picture.height());
        QVERIFY(above.has_value());
        double worst = 0;
        for (std::size_t k = 0; k < design.size(); ++k)
            worst = std::max(worst, distance(above->toPlane()(above->fromPicture(photo.marks[k])), design[k].centre));
        QVERIFY2(worst < 0.1, qPrintable(QString::number(worst)));
    }

    // Corners that are no rectangle's are said, and nothing else is lost by them.
    void cornersThatCannotBeAreSaid()
    {
        Job job = jobOf(picture_, corners_);
        job.pieces[0].artwork.tilt = tiltBy({corners_[0], corners_[2], corners_[1], corners_[3]}, true);
        const Derived d = derived(job);
        QVERIFY(d.pieces[0].problem.has_value());
        QVERIFY2(std::string(d.pieces[0].problem->what()).find("four corners in 'mat.png'") != std::string::npos, d.pieces[0].problem->what());
        job.pieces[0].artwork.tilt = tiltBy({corners_[1], corners_[0], corners_[3], corners_[2]}, false); // from behind
        QVERIFY(derived(job).pieces[0].problem.has_value());
    }
};

QTEST_APPLESS_MAIN(TestTilt)
#include "test_tilt.moc"
