#include "photo.h"

#include <opencv2/imgproc.hpp>

#include <cmath>
#include <numbers>

namespace yokai::test {

namespace {

constexpr double radian = std::numbers::pi / 180;
constexpr int fine = 10; // bits of a place's fraction that OpenCV draws with

cv::Point at(Point mm, double px) { return {int(std::lround((mm.x * px - 0.5) * (1 << fine))), int(std::lround((mm.y * px - 0.5) * (1 << fine)))}; }

void drawMark(cv::Mat& sheet, const Mark& m, double px)
{
    if (m.style == MarkStyle::Dots) {
        cv::circle(sheet, at(m.centre, px), int(std::lround(m.diameter / 2 * px * (1 << fine))), cv::Scalar::all(20), cv::FILLED, cv::LINE_AA, fine);
        return;
    }
    // Strokes as polygons: drawn lines have whole widths.
    for (const Path& path : inkOf(m))
        path.each([&](Point from, const Segment& s) {
            const Point along = unit(s.end - from), side = Point{-along.y, along.x} * (m.weight / 2);
            const cv::Point corners[] = {at(from + side, px), at(s.end + side, px), at(s.end - side, px), at(from - side, px)};
            cv::fillConvexPoly(sheet, corners, 4, cv::Scalar::all(20), cv::LINE_AA, fine);
        });
}

cv::Mat sheetOf(const std::vector<Mark>& marks, double width, double height, double px, const Shot& shot, std::mt19937& random)
{
    cv::Mat sheet(int(height * px), int(width * px), CV_8UC3, cv::Scalar(246, 249, 250));
    const auto any = [&](double low, double high) { return low + (high - low) * double(random() % 10000) / 9999; };
    const auto clearOfMarks = [&](Point p, double r) {
        return std::none_of(marks.begin(), marks.end(), [&](const Mark& m) { return distance(m.centre, p) < r + m.diameter + 2.5; });
    };
    for (int k = 0; k < 60 && shot.pictures; ++k) {
        const Point p{any(15, width - 15), any(15, height - 15)};
        const double r = k < 30 ? any(4, 16) : any(0.8, 3); // pictures, and crumbs about as large as marks
        if (!clearOfMarks(p, r))
            continue;
        const cv::Scalar colour(any(0, 220), any(0, 220), any(0, 220));
        if (k % 3 == 0)
            cv::circle(sheet, at(p, px), int(r * px * (1 << fine)), colour, cv::FILLED, cv::LINE_AA, fine);
        else
            cv::ellipse(sheet, at(p, px), cv::Size(int(r * px * (1 << fine)), int(r * any(0.4, 0.9) * px * (1 << fine))), any(0, 180), 0, 360, colour,
                        cv::FILLED, cv::LINE_AA, fine);
    }
    for (const Mark& m : marks)
        drawMark(sheet, m, px);
    if (shot.hidden >= 0)
        cv::circle(sheet, at(marks[std::size_t(shot.hidden)].centre + Point{2, 1}, px), int(6 * px * (1 << fine)), cv::Scalar(200, 190, 180), cv::FILLED,
                   cv::LINE_AA, fine);
    return sheet;
}

} // namespace

Shot carelessShot(std::mt19937& random, bool anyWay)
{
    const auto any = [&](double low, double high) { return low + (high - low) * double(random() % 10000) / 9999; };
    Shot s;
    s.tilt = any(0, 20);
    s.tiltWay = any(0, 360);
    s.turn = any(-12, 12) + (anyWay ? 90 * double(random() % 4) : 0);
    s.bulge = any(-0.03, 0.03);
    s.unevenness = any(0, 0.5);
    s.blur = any(0.6, 2.2);
    s.noise = any(1, 8);
    s.dust = int(random() % 200);
    return s;
}

Photo photograph(const std::vector<Mark>& marks, double width, double height, const Shot& shot, unsigned seed)
{
    std::mt19937 random(seed);
    const double px = 10;
    const cv::Mat sheet = sheetOf(marks, width, height, px, shot, random);
    // The sheet turned and tilted about its middle before a camera that sees all of it.
    const double t = shot.tilt * radian, w = shot.tiltWay * radian, r = shot.turn * radian;
    const cv::Matx33d turn(std::cos(r), -std::sin(r), 0, std::sin(r), std::cos(r), 0, 0, 0, 1);
    const cv::Matx33d axis(std::cos(w), -std::sin(w), 0, std::sin(w), std::cos(w), 0, 0, 0, 1),
        slant(1, 0, 0, 0, std::cos(t), -std::sin(t), 0, std::sin(t), std::cos(t));
    const cv::Matx33d pose = axis * slant * axis.t() * turn;
    const double focal = 1.1 * shot.width, diagonal = std::hypot(width, height);
    const bool upright = std::abs(std::cos(r)) > 0.7;
    const double reach = std::max((upright ? width : height) / shot.width, (upright ? height : width) / shot.height);
    const double away = focal * reach * 1.3 + 0.2 * diagonal * std::sin(t);
    const Point middle{shot.width / 2.0, shot.height / 2.0};
    const double half = std::hypot(shot.width, shot.height) / 2;
    const auto seen = [&](Point mm) {
        const cv::Vec3d p = pose * cv::Vec3d(mm.x - width / 2, mm.y - height / 2, 0);
        const Point d{focal * p[0] / (p[2] + away), focal * p[1] / (p[2] + away)};
        return middle + d * (1 + shot.bulge * dot(d, d) / (half * half));
    };
    // Back from each pixel: the bulge by turns, then the plane.
    const cv::Matx33d plane(pose(0, 0), pose(0, 1), 0, pose(1, 0), pose(1, 1), 0, pose(2, 0), pose(2, 1), away);
    const cv::Matx33d back = plane.inv();
    cv::Mat places(shot.height, shot.width, CV_32FC2);
    for (int y = 0; y < shot.height; ++y)
        for (int x = 0; x < shot.width; ++x) {
            const Point target = Point{x + 0.5, y + 0.5} - middle;
            Point d = target;
            for (int k = 0; k < 5; ++k)
                d = target * (1 / (1 + shot.bulge * dot(d, d) / (half * half)));
            const cv::Vec3d q = back * cv::Vec3d(d.x / focal, d.y / focal, 1);
            places.at<cv::Vec2f>(y, x) = {float((q[0] / q[2] + width / 2) * px - 0.5), float((q[1] / q[2] + height / 2) * px - 0.5)};
        }
    cv::Mat picture(shot.height, shot.width, CV_8UC3, cv::Scalar(96, 104, 90)); // the mat
    for (int k = 0; k < shot.width; k += 120) {                                 // its lines
        cv::line(picture, {k, 0}, {k, shot.height}, cv::Scalar(110, 118, 104), 2);
        cv::line(picture, {0, k}, {shot.width, k}, cv::Scalar(110, 118, 104), 2);
    }
    cv::remap(sheet, picture, places, cv::Mat(), cv::INTER_AREA, cv::BORDER_TRANSPARENT);
    const auto any = [&](double low, double high) { return low + (high - low) * double(random() % 10000) / 9999; };
    for (int k = 0; k < shot.dust; ++k)
        cv::circle(picture, {int(any(0, shot.width)), int(any(0, shot.height))}, int(any(1, 5)), cv::Scalar::all(any(30, 255)), cv::FILLED, cv::LINE_AA);
    if (shot.blur > 0)
        cv::GaussianBlur(picture, picture, {}, shot.blur);
    const double way = any(0, 2 * std::numbers::pi);
    cv::Mat noise(picture.size(), CV_16SC3);
    cv::RNG rng(seed);
    rng.fill(noise, cv::RNG::NORMAL, 0, std::max(shot.noise, 1e-3));
    Photo out{Rgba8(shot.width, shot.height), {}, 1};
    for (int y = 0; y < shot.height; ++y)
        for (int x = 0; x < shot.width; ++x) {
            const double light = 1 - shot.unevenness * (0.5 + 0.5 * (std::cos(way) * (x - middle.x) / middle.x + std::sin(way) * (y - middle.y) / middle.y) /
                                                                  std::numbers::sqrt2);
            const cv::Vec3b c = picture.at<cv::Vec3b>(y, x);
            const cv::Vec3s n = noise.at<cv::Vec3s>(y, x);
            const auto channel = [&](int i) { return std::uint8_t(std::clamp(c[i] * light + n[i], 0.0, 255.0)); };
            out.picture.row(y)[x] = {channel(2), channel(1), channel(0), 255};
        }
    for (const Mark& m : marks)
        out.marks.push_back(seen(m.centre));
    out.pxPerMm = focal / away;
    return out;
}

} // namespace yokai::test
