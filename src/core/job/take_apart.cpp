#include "job/take_apart.h"

#include "job/colour_layers.h"

#include <opencv2/imgproc.hpp>

#include <cmath>
#include <numbers>

namespace yokai {

namespace {

// What the rule found by itself, said.
void settle(RuleSpec& rule, const Coverage& used)
{
    if (rule.rule == KeepRule::Auto)
        rule.rule = used.rule;
    if (!rule.level && rule.rule != KeepRule::Subject && rule.rule != KeepRule::All)
        rule.level = used.level;
    if (rule.rule == KeepRule::Paper && rule.papers.empty())
        for (const Rgba paper : used.papers)
            rule.papers.push_back({paper});
}

// What is to be a piece: its outline, in pixels of the working copy, and the box of that.
struct Thing {
    const Contour* outline;
    Rect box;
};

// Parts count in all that was traced, dropped ones too.
std::vector<Thing> thingsOf(const LayerResult& layer)
{
    std::vector<Thing> out;
    for (const Part& part : layer.parts->all)
        if (!part.opening && part.kept && part.contour >= 0) {
            const Contour& outline = (*layer.edge)[std::size_t(part.contour)];
            out.push_back({&outline, bounds(outline.points)});
        }
    return out;
}

// All that lies nearer to a thing than to any other, a little way round it, as an outline in pixels of the working copy. None where nothing else lies
// within `look` mm of its box.
std::vector<Polyline> surroundOf(const std::vector<Thing>& things, const Thing& thing, double pxPerMm, double look)
{
    constexpr double finest = 8, round = 3; // pixels a mm; mm
    const double k = std::min(1.0, finest / pxPerMm), reach = round * pxPerMm;
    const Rect box = thing.box.grown(std::max(reach, look * pxPerMm));
    const cv::Size size(std::max(1, int(std::ceil(box.width() * k))), std::max(1, int(std::ceil(box.height() * k))));
    cv::Mat is = cv::Mat::zeros(size, CV_8U), others = cv::Mat::zeros(size, CV_8U);
    for (const Thing& one : things) {
        if (one.box.x0 > box.x1 || one.box.x1 < box.x0 || one.box.y0 > box.y1 || one.box.y1 < box.y0)
            continue;
        std::vector<cv::Point> ring;
        for (const Point p : one.outline->points)
            ring.emplace_back(int(std::lround((p.x - box.x0) * k - 0.5)), int(std::lround((p.y - box.y0) * k - 0.5)));
        cv::fillPoly(&one == &thing ? is : others, std::vector{ring}, cv::Scalar(255));
    }
    if (cv::countNonZero(others) == 0)
        return {};
    cv::Mat away, awayOthers;
    cv::distanceTransform(255 - is, away, cv::DIST_L2, cv::DIST_MASK_PRECISE);
    cv::distanceTransform(255 - others, awayOthers, cv::DIST_L2, cv::DIST_MASK_PRECISE);
    std::vector<std::vector<cv::Point>> found;
    cv::findContours((away <= reach * k) & (away < awayOthers), found, cv::RETR_EXTERNAL, cv::CHAIN_APPROX_NONE);
    std::vector<Polyline> out;
    for (const auto& ring : found) {
        std::vector<cv::Point> simple;
        constexpr double tolerance = 0.7; // of those pixels
        cv::approxPolyDP(ring, simple, tolerance, true);
        Polyline& line = out.emplace_back();
        for (const cv::Point p : simple)
            line.push_back(Point{box.x0 + (p.x + 0.5) / k, box.y0 + (p.y + 0.5) / k});
    }
    return out;
}

} // namespace

double turnToLevel(const Contour& outline)
{
    std::vector<cv::Point2f> points, hull, corners;
    for (const Point p : outline.points)
        points.emplace_back(float(p.x), float(p.y));
    if (points.size() < 3)
        return 0;
    cv::convexHull(points, hull);
    const double around = cv::arcLength(hull, true);
    constexpr double flat = 0.006, worth = 0.12; // of the way round: how straight an edge has to be, and how long
    cv::approxPolyDP(hull, corners, flat * around, true);
    double longest = 0;
    cv::Point2f from, along;
    for (std::size_t k = 0; k < corners.size(); ++k) {
        const cv::Point2f edge = corners[(k + 1) % corners.size()] - corners[k];
        if (const double length = std::hypot(edge.x, edge.y); length > longest) {
            longest = length;
            from = corners[k];
            along = edge * float(1 / length);
        }
    }
    if (longest < worth * around)
        return 0;
    // By all of the outline that lies along it, but for its ends, which may be round.
    std::vector<cv::Point2f> on;
    constexpr double ends = 0.12;
    for (const cv::Point2f p : points)
        if (const double at = (p - from).dot(along), off = std::abs((p - from).cross(along)); at > ends * longest && at < (1 - ends) * longest && off < flat * around)
            on.push_back(p);
    if (on.size() < 8)
        return 0;
    cv::Vec4f line;
    cv::fitLine(on, line, cv::DIST_HUBER, 0, 0.01, 0.01);
    const double degrees = std::atan2(line[1], line[0]) * 180 / std::numbers::pi;
    return -(degrees - 90 * std::round(degrees / 90));
}

std::vector<Piece> takenApart(const Piece& piece, const PieceResult& result, Straighten straighten, double margin, const Work& work)
{
    std::vector<Piece> out;
    if (isLayered(piece) || !result.layer().parts || !result.layer().edge || !result.layer().coverage)
        return out;
    const std::vector<Thing> things = thingsOf(result.layer());
    if (things.size() < 2)
        return out;
    constexpr std::size_t most = 500;
    if (things.size() > most)
        throw Error(ErrorKind::Usage, "there are {} things in '{}', over {}; drop the small ones as crumbs first", std::to_string(things.size()), piece.name, std::to_string(most));
    const Affine back = result.sourceToMm.inverse(), pixelsToMm = Affine::scale(1 / result.pxPerMm, 1 / result.pxPerMm);
    for (const Thing& thing : things) {
        work.report(double(out.size()) / double(things.size()), "things");
        const Contour& outline = *thing.outline;
        Piece own = piece;
        own.id = {};
        own.name = piece.name + " " + std::to_string(out.size() + 1);
        ArtworkSpec& artwork = own.artwork;
        if (straighten == Straighten::EachThing) {
            double turn = artwork.straighten + turnToLevel(outline);
            constexpr double quarter = 45;
            for (; turn > quarter; turn -= 90)
                artwork.turnRight();
            for (; turn < -quarter; turn += 90)
                artwork.turnLeft();
            artwork.straightenTo(turn);
        }
        artwork.crop.reset();
        // The contour is in pixels of the working copy.
        const Affine toFrame = artwork.sourceToMm() * back * pixelsToMm;
        Polyline shown;
        for (const Point p : outline.points)
            shown.push_back(toFrame(p));
        artwork.cropTo(bounds(shown).grown(margin));
        Layer& layer = own.layers.front();
        settle(layer.keep, *result.layer().coverage);
        constexpr double diagonal = 1.5; // what is turned shows more of what lies round it
        if (const auto rings = surroundOf(things, thing, result.pxPerMm, diagonal * margin + 1); !rings.empty()) {
            layer.keep.onlyInside.clear();
            for (const Polyline& line : rings) {
                Ring& ring = layer.keep.onlyInside.emplace_back();
                for (const Point p : line)
                    ring.push_back((back * pixelsToMm)(p));
            }
        }
        out.push_back(std::move(own));
    }
    return out;
}

} // namespace yokai
