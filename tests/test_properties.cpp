// What must hold whatever comes in: random shapes, lines, jobs and damaged files
// (RapidCheck). Where another library knows the answer, it judges.

#include "artwork/artwork.h"
#include "base/cover.h"
#include "base/error.h"
#include "formats/drawing.h"
#include "formats/project/project.h"
#include "formats/svg/svg.h"
#include "job/derive.h"
#include "job/job.h"
#include "cut_order.h"
#include "machine/cutting_order.h"
#include "outline/build.h"
#include "outline/figures.h"
#include "outline/fronts.h"
#include "outline/lattice.h"
#include "outline/march.h"
#include "path/crossings.h"
#include "path/fit.h"
#include "random_spec.h"
#include "register/fit.h"
#include "shapes.h"
#include "sheet/sheet.h"
#include "touchup/anchor.h"
#include "touchup/outlines.h"

#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>
#include <QTest>
#include <rapidcheck.h>

#include <algorithm>
#include <numbers>
#include <numeric>
#include <random>

using namespace yokai;
using namespace yokai::test;

namespace {

double real(double least, double most) { return least + (most - least) * *rc::gen::inRange(0, 1'000'001) / 1e6; }
int whole(int least, int most) { return *rc::gen::inRange(least, most + 1); }
bool coin() { return whole(0, 1) == 1; }
struct FromRapidCheck {
    int whole(int least, int most) const { return ::whole(least, most); }
    double real(double least, double most) const { return ::real(least, most); }
};

// A closed smooth line round (c, c): a circle with a few waves.
Polyline wavy(Point c, double radius, double depth, double spacing)
{
    double height[4], phase[4];
    for (int k = 0; k < 4; ++k) {
        height[k] = real(-depth, depth) / (k + 1);
        phase[k] = real(0, 2 * std::numbers::pi);
    }
    Polyline out;
    const int n = int(2 * std::numbers::pi * radius / spacing);
    for (int i = 0; i < n; ++i) {
        const double a = 2 * std::numbers::pi * i / n;
        double r = radius;
        for (int k = 0; k < 4; ++k)
            r += height[k] * std::cos((k + 2) * a + phase[k]);
        out.push_back({c.x + r * std::cos(a), c.y + r * std::sin(a)});
    }
    return out;
}

Contours contoursOf(std::vector<Polyline> lines)
{
    Contours out(lines.size());
    for (std::size_t i = 0; i < lines.size(); ++i) {
        out[i].area = signedArea(lines[i]);
        out[i].points = std::move(lines[i]);
    }
    return out;
}

bool holds(bool checked) { return checked; }

} // namespace

class TestProperties : public QObject {
    Q_OBJECT
private slots:
    // As many parts and openings as OpenCV counts regions, each opening in its part, on noise
    // with and without soft pixels. Parts touching at a corner only are apart.
    void edgesAreJoinedUpAsTheRegionsAre()
    {
        QVERIFY(holds(rc::check("contours are the borders of the regions", [] {
            const int w = whole(1, 40), h = whole(1, 40), share = whole(5, 95);
            Gray8 g(w, h);
            for (std::uint8_t& v : g.all())
                v = whole(0, 99) < share ? 255 : 0;
            const Contours edge = traceEdge(g);
            cv::Mat ink(h, w, CV_8U, g.all().data()), padded, labels;
            cv::copyMakeBorder(ink, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
            const int parts = cv::connectedComponents(padded, labels, 4) - 1;
            cv::Mat paper = padded == 0, paperLabels;
            const int openings = cv::connectedComponents(paper, paperLabels, 8) - 2;
            int positive = 0, negative = 0;
            for (const Contour& c : edge) {
                (c.opening() ? negative : positive)++;
                RC_ASSERT(c.points.size() >= 4);
                if (c.opening()) {
                    RC_ASSERT(c.parent >= 0);
                    RC_ASSERT(!edge[std::size_t(c.parent)].opening());
                    RC_ASSERT(contains(edge[std::size_t(c.parent)].points, c.points[0]));
                } else {
                    RC_ASSERT((c.parent < 0 || edge[std::size_t(c.parent)].opening())); // RC_ASSERT itself looks at both sides
                }
            }
            RC_ASSERT(positive == parts);
            RC_ASSERT(negative == openings);
        })));
    }

    // The area law: half of every soft pixel's cover is on either side, so the edge encloses
    // what OpenCV drew, whatever the slope.
    void straightEdgesEncloseWhatWasDrawn()
    {
        QVERIFY(holds(rc::check("area within a thousandth", [] {
            const double turn = real(0, std::numbers::pi), half = real(20, 60);
            const Point c{real(90, 95), real(90, 95)};
            std::vector<Point> box;
            for (const Point p : {Point{-1, -0.6}, Point{1, -0.6}, Point{1, 0.6}, Point{-1, 0.6}})
                box.push_back(c + Affine::turn(turn)(p * half));
            Gray8 g(190, 190, 0);
            coverPolygons(std::span(&box, 1), 190, 190,
                          [&](int y, int x0, std::span<const std::uint8_t> cover) { std::copy(cover.begin(), cover.end(), g.row(y) + x0); });
            const double drawn = std::accumulate(g.all().begin(), g.all().end(), 0.0) / 255;
            RC_ASSERT(std::abs(drawn / (2.4 * half * half) - 1) < 2e-3);
            Contours edge = traceEdge(g);
            sharpenCorners(edge);
            RC_ASSERT(edge.size() == 1u);
            RC_ASSERT(std::abs(edge[0].area - 2.4 * half * half) < 0.02 * 6.4 * half);
            RC_ASSERT(std::count(edge[0].corners.begin(), edge[0].corners.end(), 1) == 4);
        })));
    }

    void coverAgreesWithAFineDrawing()
    {
        QVERIFY(holds(rc::check("cover within a fiftieth of OpenCV's, sixteen times as fine", [] {
            const int n = whole(3, 9);
            std::vector<Point> shape;
            for (int i = 0; i < n; ++i) { // in order round a middle: never crossing itself
                const double a = 2 * std::numbers::pi * (i + real(0, 0.9)) / n, r = real(4, 18);
                shape.push_back({20 + r * std::cos(a), 20 + r * std::sin(a)});
            }
            Gray8 ours(40, 40, 0);
            coverPolygons(std::span(&shape, 1), 40, 40,
                          [&](int y, int x0, std::span<const std::uint8_t> cover) { std::copy(cover.begin(), cover.end(), ours.row(y) + x0); });
            const Gray8 theirs = drawnFine({shape}, 40, 40);
            double sum = 0;
            for (int y = 0; y < 40; ++y)
                for (int x = 0; x < 40; ++x) {
                    const int off = std::abs(int(ours.at(x, y)) - int(theirs.at(x, y)));
                    sum += off;
                    RC_ASSERT(off < 40); // fillPoly draws its outline too, a sixteenth of a pixel wide
                }
            RC_ASSERT(sum / 255 < 0.06 * std::max(1.0, length(shape)));
        })));
    }

    // Marching squares over any bitmap, tall ones in two slabs: as many loops as OpenCV counts parts and
    // openings, their areas right, and the same loops when cells are left to the caller to link.
    void loopsAreThePartsAndOpenings()
    {
        QVERIFY(holds(rc::check("as connected components have it", [] {
            const int w = whole(1, 130), h = coin() ? whole(1, 40) : whole(250, 300), density = whole(1, 9);
            cv::Mat bits(h + 2, w + 2, CV_8U, cv::Scalar(0)); // a rim of nothing
            std::mt19937 random{unsigned(whole(0, 1'000'000))};
            for (int y = 1; y <= h; ++y)
                for (int x = 1; x <= w; ++x)
                    bits.at<std::uint8_t>(y, x) = int(random() % 10) < density;
            const auto at = [&](int x, int y) { return bits.at<std::uint8_t>(y + 1, x + 1); };
            const auto traced = [&](auto leftOpen) {
                return march::trace(
                    w, h, {},
                    [&](int y, std::uint64_t* words) {
                        for (int x = 0; x < w; ++x)
                            words[x / 64] |= std::uint64_t(at(x, y)) << (x % 64);
                    },
                    [](int, int) { return 0.5; }, [](int, int) { return 0.5; }, [](int, int) { return false; }, leftOpen);
            };
            const march::Loops loops = traced([](int, int) { return false; });
            int parts = 0, openings = 0;
            double area = 0;
            std::vector<unsigned char> seen(loops.points.size(), 0);
            for (std::size_t start = 0; start < loops.points.size(); ++start) {
                Polyline loop;
                for (int k = int(start); !seen[std::size_t(k)]; k = loops.next[std::size_t(k)]) {
                    seen[std::size_t(k)] = 1;
                    loop.push_back(loops.points[std::size_t(k)]);
                }
                if (loop.empty())
                    continue;
                const double own = signedArea(loop);
                area += own;
                ++(own > 0 ? parts : openings);
            }
            cv::Mat labels;
            RC_ASSERT(parts == cv::connectedComponents(bits, labels, 4) - 1);
            RC_ASSERT(openings == cv::connectedComponents(1 - bits, labels, 8) - 2);
            // Each corner between a sample and three others takes an eighth of a cell off or adds it.
            RC_ASSERT(std::abs(area - cv::countNonZero(bits)) <= 0.5 * double(loops.points.size()));

            march::Loops open = traced([&](int x, int y) { return (x * 7 + y * 13) % 3 == 0; });
            for (const auto& [x, y, sides] : open.open) {
                const auto inside = [&](int a, int b) { return a >= 0 && b >= 0 && a < w && b < h ? int(at(a, b)) : 0; };
                march::linkCell(open, inside(x, y) | inside(x + 1, y) << 1 | inside(x, y + 1) << 2 | inside(x + 1, y + 1) << 3, sides, [] { return false; });
            }
            RC_ASSERT(open.points == loops.points);
            RC_ASSERT(open.next == loops.next);
        })));
    }

    // Tips of 50 to 145 degrees, anti-aliased, come back where they were.
    void tipsComeBack()
    {
        int tried = 0;
        QVERIFY(holds(rc::check("one corner a tip, within 0.4 px", [&tried] {
            const double first = real(0, 2 * std::numbers::pi), lean = real(0.9, 1.6), arm = real(45, 60);
            Polyline tips; // a triangle of three like arms from a middle, turned and leaning
            for (const double a : {0.0, lean, lean + real(1.6, 2.4)})
                tips.push_back(Point{64 + real(0, 1), 64 + real(0, 1)} + Point{std::cos(first + 1.4 * a), std::sin(first + 1.4 * a)} * arm);
            if (signedArea(tips) < 0)
                std::reverse(tips.begin(), tips.end());
            for (std::size_t k = 0; k < 3; ++k) {
                const Point in = unit(tips[k] - tips[(k + 2) % 3]), out = unit(tips[(k + 1) % 3] - tips[k]);
                const double angle = std::numbers::pi - std::abs(std::atan2(cross(in, out), dot(in, out)));
                if (angle < 0.87 || angle > 2.53 || distance(tips[k], tips[(k + 1) % 3]) < 30)
                    return; // too sharp, too blunt or too near
                ++tried;
            }
            Gray8 cover(128, 128, 0);
            coverPolygons(std::span(&tips, 1), 128, 128,
                          [&](int y, int x0, std::span<const std::uint8_t> row) { std::copy(row.begin(), row.end(), cover.row(y) + x0); });
            Contours edge = traceEdge(cover);
            sharpenCorners(edge);
            RC_ASSERT(edge.size() == 1u);
            RC_ASSERT(std::count(edge[0].corners.begin(), edge[0].corners.end(), 1) == 3);
            for (std::size_t i = 0; i < edge[0].points.size(); ++i)
                if (edge[0].corners[i]) {
                    double off = 1e9;
                    for (const Point tip : tips)
                        off = std::min(off, distance(tip, edge[0].points[i]));
                    RC_ASSERT(off < 0.4);
                }
        })));
        QVERIFY(tried > 40);
    }

    // Whatever is written by others is read as they read it: grey, colour, clear, 8 and 16 bits.
    void picturesAreReadAsOthersReadThem()
    {
        QVERIFY(holds(rc::check("sizes and pixels as OpenCV has them", [] {
            struct Kind {
                const char* ending;
                int channels; // 1, 3 and 4 as bits
                bool deep;
                double off;
            };
            static constexpr Kind kinds[] = {
                {".png", 1 | 4 | 8, true, 0}, {".tiff", 1 | 4 | 8, true, 0}, {".bmp", 1 | 4, false, 0}, {".webp", 4 | 8, false, 0}, {".jpg", 1 | 4, false, 3}};
            const Kind& kind = kinds[whole(0, int(std::size(kinds)) - 1)];
            const int width = whole(1, 70), height = whole(1, 70);
            int channels = 0;
            do
                channels = whole(1, 4);
            while (!(kind.channels >> (channels - 1) & 1));
            const bool deep = kind.deep && coin();
            cv::Mat image(height, width, CV_MAKETYPE(deep ? CV_16U : CV_8U, channels));
            cv::theRNG().state = std::uint64_t(whole(1, 1 << 30));
            cv::randu(image, cv::Scalar::all(0), cv::Scalar::all(deep ? 65536 : 256));
            if (kind.off > 0) // noise is no picture
                cv::resize(image(cv::Rect(0, 0, std::min(3, width), std::min(3, height))), image, image.size(), 0, 0, cv::INTER_LINEAR);
            Bytes bytes;
            cv::imencode(kind.ending, image, bytes,
                         kind.ending == std::string_view(".webp") ? std::vector<int>{cv::IMWRITE_WEBP_QUALITY, 101} : std::vector<int>{});
            const cv::Mat is = cv::imdecode(bytes, cv::IMREAD_UNCHANGED);
            const Picture picture = pictureFromBytes(bytes, std::string("any") + kind.ending);
            RC_ASSERT(picture.info.width == width && picture.info.height == height);
            const SharedRgba px = decodePicture(picture);
            RC_ASSERT(px->width() == width && px->height() == height);
            for (int y = 0; y < height; ++y)
                for (int x = 0; x < width; ++x) {
                    const Rgba c = px->at(x, y);
                    const auto value = [&](int channel) {
                        return deep ? is.ptr<std::uint16_t>(y)[x * channels + channel] / 257.0 : is.ptr<std::uint8_t>(y)[x * channels + channel];
                    };
                    const auto like = [&](int ours, int channel) { return std::abs(ours - value(channel)) <= kind.off + (deep ? 1 : 0); };
                    if (channels == 4) {
                        RC_ASSERT(like(c.a, 3));
                        if (c.a == 0)
                            continue; // a clear pixel has no colour to tell
                    } else {
                        RC_ASSERT(c.a == 255);
                    }
                    RC_ASSERT((channels == 1 ? like(c.r, 0) && c.g == c.r && c.b == c.r : like(c.b, 0) && like(c.g, 1) && like(c.r, 2)));
                }
        })));
    }

    void latticeKnowsTheDistance()
    {
        QVERIFY(holds(rc::check("sides right, distances within half a step", [] {
            const Contours shape = contoursOf({wavy({80, 80}, real(25, 60), 8, 0.9), {}});
            const int power = whole(0, 3);
            const double step = 1 << power, reach = real(3, 8) * step;
            const Edge edge(shape);
            const Lattice l = makeLattice(edge, step, reach, {});
            int known = 0;
            for (int j = 0; j < l.height; ++j)
                for (int i = 0; i < l.width; ++i) {
                    const double d = signedDistance(shape, l.at(i, j));
                    if (std::abs(d) > 1e-6)
                        RC_ASSERT(l.isInside(i, j) == (d < 0));
                    const std::size_t at = l.index(i, j);
                    if (l.vertex[at] && l.squared[at] * step * step < reach * reach) {
                        ++known;
                        RC_ASSERT(std::abs(std::sqrt(l.squared[at]) * step - std::abs(d)) < 0.5 * step + 0.5);
                    }
                    if (std::abs(d) < 0.9 * reach)
                        RC_ASSERT(l.vertex[at] != 0);
                }
            RC_ASSERT(known > 0);
        })));
    }

    // Boxes, circles and ellipses round any points: they hold them all, touch some, and are no larger
    // than OpenCV's; the drawn figures run where they should.
    void figuresHoldTheirPoints()
    {
        QVERIFY(holds(rc::check("circle, hull and ellipse", [] {
            std::vector<Point> points(std::size_t(whole(3, 60)));
            std::vector<cv::Point2f> same;
            for (Point& p : points) {
                p = {real(-50, 50), real(-20, 80)};
                same.emplace_back(float(p.x), float(p.y));
            }
            const Circle circle = smallestCircle(points);
            cv::Point2f centre;
            float radius = 0;
            cv::minEnclosingCircle(same, centre, radius);
            double farthest = 0;
            for (const Point p : points)
                farthest = std::max(farthest, distance(p, circle.centre));
            RC_ASSERT(std::abs(farthest - circle.radius) < 1e-6 && circle.radius <= double(radius) + 1e-3);

            std::vector<cv::Point2f> theirs;
            cv::convexHull(same, theirs);
            const std::vector<Point> hull = hullOf(points);
            if (cv::contourArea(theirs) < 1)
                return; // on one spot or a line
            RC_ASSERT(hull.size() == theirs.size() && signedArea(hull) > 0 && std::abs(signedArea(hull) - cv::contourArea(theirs)) < 0.01);

            const Rect box = bounds(points);
            const Point half = ellipseRound(points);
            const auto out = [&](Point p) { return std::hypot((p.x - box.centre().x) / half.x, (p.y - box.centre().y) / half.y); };
            double most = 0;
            for (const Point p : points)
                most = std::max(most, out(p));
            RC_ASSERT(std::abs(most - 1) < 1e-9);
            RC_ASSERT(std::abs(half.x * box.height() - half.y * box.width()) < 1e-6 * half.x * half.y);
            const Path drawn = ellipseFigure(box.centre(), half.x, half.y);
            RC_ASSERT(drawn.closed && std::abs(areaOf({drawn}) / (std::numbers::pi * half.x * half.y) - 1) < 1e-4);
            for (const Point p : flatten(drawn, 1e-4))
                RC_ASSERT(std::abs(out(p) - 1) < 1e-4);
            const double corner = real(0, std::min(box.width(), box.height()) / 2);
            RC_ASSERT(std::abs(areaOf({boxFigure(box, corner)}) - (box.width() * box.height() - (4 - std::numbers::pi) * corner * corner)) <
                      0.002 * corner * corner + 1e-6);
        })));
    }

    // What the ends of a cell's side tell, against a thousand places along it.
    void sidesAreAsTheirEnds()
    {
        int told = 0;
        QVERIFY(holds(rc::check("peaks and crossings of the least of several even changes", [&told] {
            std::array<double, CellSide::most> from, to;
            const std::size_t count = std::size_t(whole(1, int(CellSide::most)));
            for (std::size_t f = 0; f < count; ++f) {
                from[f] = real(-6, 6);
                to[f] = real(-6, 6);
            }
            const CellSide side{from, to, count};
            const double unevenness = real(0, 1);
            const auto nearest = [&](double t) {
                std::size_t best = 0;
                for (std::size_t f = 1; f < count; ++f)
                    if (std::lerp(from[f], to[f], t) < std::lerp(from[best], to[best], t))
                        best = f;
                return best;
            };
            const auto least = [&](double t) { return std::lerp(from[nearest(t)], to[nearest(t)], t); };
            double peak = -10;
            int crossings = 0;
            constexpr int places = 1000;
            double where = 0;
            for (int k = 0; k <= places; ++k) {
                peak = std::max(peak, least(double(k) / places));
                if (k > 0 && (least(double(k) / places) > 0) != (least(double(k - 1) / places) > 0)) {
                    ++crossings;
                    where = (k - 0.5) / places;
                }
            }
            RC_ASSERT(side.peak() >= peak && side.peak() < peak + 0.02);
            if (!side.asItsEnds(unevenness))
                return;
            ++told;
            const double p = least(0), q = least(1);
            RC_ASSERT(crossings == ((p > 0) != (q > 0)));
            if (crossings == 1) // the way of the ends leads to the front that is crossed
                RC_ASSERT(nearest(p / (p - q)) == nearest(where));
        })));
        QVERIFY(told > 10);
    }

    // Every point of a level line keeps its distance, and every place is on its right side of the
    // line: nothing is bridged, nothing lost, nothing added.
    void levelLinesKeepTheirDistance()
    {
        QVERIFY(holds(rc::check("points no nearer and no farther, places on their side", [] {
            const double radius = real(25, 70);
            std::vector<Polyline> lines{wavy({150, 150}, radius, 0.12 * radius, 0.9)};
            if (coin()) {
                lines.push_back(wavy({150, 150}, 0.4 * radius, 2, 0.9));
                std::reverse(lines.back().begin(), lines.back().end());
            }
            if (coin())
                lines.push_back(wavy({150 + real(2, 3) * radius, 150}, 0.5 * radius, 2, 0.9));
            const Contours shape = contoursOf(std::move(lines));
            const DistanceField field(shape);
            for (int k = 0; k < 3; ++k) {
                const double offset = real(-0.3, 1) * radius;
                const LevelLines level = field.at(offset, 0);
                const double chord = 0.005 * std::abs(offset); // a line's points lie up to 0.2 radians apart
                constexpr double speck = 0.5;                  // square pixels, at which a line leaves things out by itself
                for (const LevelLine& line : level)
                    for (const Point p : std::abs(signedArea(line.points)) < speck ? Polyline{} : line.points) {
                        const double farther = std::abs(signedDistance(shape, p)) - std::abs(offset);
                        RC_ASSERT(std::abs(farther) < 0.15 + chord); // where it crossed itself, chords were cut
                    }
                for (int n = 0; n < 300; ++n) {
                    // Anywhere near the line, so that the narrow places are met.
                    const Contour& c = shape[std::size_t(whole(0, int(shape.size()) - 1))];
                    const int v = whole(0, int(c.points.size()) - 1), count = int(c.points.size());
                    const Point along = unit(c.points[std::size_t(around(v + 1, count))] - c.points[std::size_t(v)]);
                    const Point p = c.points[std::size_t(v)] + Point{along.y, -along.x} * (offset + real(-2, 2));
                    const double d = signedDistance(shape, p);
                    // The middle of a gap or neck of 0.05 mm at 300 ppi is 0.3 from either side; that of a speck which is left out,
                    // sqrt(0.5 / pi) from all.
                    constexpr double narrow = 0.4;
                    if (std::abs(d - offset) < narrow + chord)
                        continue;
                    bool within = false;
                    for (const LevelLine& line : level)
                        within ^= contains(line.points, p);
                    RC_ASSERT(within == (d < offset));
                }
            }
        })));
    }

    // Whatever lies in whatever: of a copy lighter work goes first and what lies within before what
    // lies round it, a copy in another's opening before it, and each copy in one go.
    void cutsGoFromWithinOutwards()
    {
        QVERIFY(holds(rc::check("order and depths of nested circles", [] {
            struct Ring {
                Point at;
                double radius;
            };
            std::vector<Ring> rings{{{100, 100}, 90}};
            for (int tries = whole(5, 60); tries > 0; --tries) { // side by side or one in another, never across
                const Ring ring{{real(20, 180), real(20, 180)}, real(2, 60)};
                if (std::all_of(rings.begin(), rings.end(), [&](const Ring& o) {
                        const double apart = distance(ring.at, o.at);
                        return apart > ring.radius + o.radius + 1 || apart + std::min(ring.radius, o.radius) + 1 < std::max(ring.radius, o.radius);
                    }))
                    rings.push_back(ring);
            }
            const auto within = [&](std::size_t a, std::size_t b) {
                return rings[a].radius < rings[b].radius && distance(rings[a].at, rings[b].at) < rings[b].radius;
            };
            CutItems items;
            for (std::size_t i = 0; i < rings.size(); ++i)
                items.push_back({PieceId{1}, whole(0, 2), LineId{unsigned(i) + 1}, lineKinds[whole(0, 3)], 0,
                                 ellipseFigure(rings[i].at, rings[i].radius, rings[i].radius)});
            nest(items);
            for (std::size_t i = 0; i < items.size(); ++i) {
                int round = 0;
                for (std::size_t k = 0; k < items.size(); ++k)
                    round += within(i, k);
                RC_ASSERT(items[i].depth == round);
            }
            // The plan and every file go by the same order.
            for (const CutItems& ordered : {inCuttingOrder(items), orderedForCutting(items, usualOperations(), false)}) {
                RC_ASSERT(ordered.size() == rings.size());
                std::vector<int> copies;
                for (std::size_t i = 0; i < ordered.size(); ++i) {
                    if (copies.empty() || copies.back() != ordered[i].copy)
                        copies.push_back(ordered[i].copy);
                    for (std::size_t k = 0; k < i; ++k)
                        if (ordered[k].copy == ordered[i].copy) {
                            RC_ASSERT(operationOf(ordered[k].kind, false) <= operationOf(ordered[i].kind, false));
                            RC_ASSERT(ordered[k].kind != ordered[i].kind || !within(ordered[i].line.n - 1, ordered[k].line.n - 1));
                        }
                }
                std::sort(copies.begin(), copies.end());
                RC_ASSERT(std::adjacent_find(copies.begin(), copies.end()) == copies.end());
            }
        })));
    }

    // Of any closed line: dashes of the asked length but for the last, the same way round, on the line.
    void dashesAddUp()
    {
        QVERIFY(holds(rc::check("dashes and gaps make up the line", [] {
            const Path path = fitClosed(wavy({100, 100}, real(20, 80), 6, 2), {}, 0.1);
            CutItem item;
            item.path = path;
            item.breaks.cut = real(1, 12);
            item.breaks.gap = real(0.2, 4);
            const double whole = length(path), period = item.breaks.cut + item.breaks.gap;
            const Polyline line = flatten(path, 0.005);
            double inked = 0;
            const Paths dashes = cutsOf(item);
            for (const Path& dash : dashes) {
                RC_ASSERT(!dash.closed);
                const double own = length(dash);
                RC_ASSERT(own < 1.6 * period);
                inked += own;
                for (const Point p : flatten(dash, 0.05)) {
                    double off = 1e9;
                    for (std::size_t i = 0; i < line.size(); ++i) {
                        const Point a = line[i], d = line[around(i + 1, line.size())] - a;
                        off = std::min(off, distance(p, a + d * std::clamp(dot(p - a, d) / std::max(1e-12, dot(d, d)), 0.0, 1.0)));
                    }
                    RC_ASSERT(off < 0.02);
                }
            }
            RC_ASSERT(std::abs(inked / whole - item.breaks.cut / period) < 1.2 * period / whole);
            item.breaks.gap = 0;
            RC_ASSERT(cutsOf(item).size() == 1u);
        })));
    }

    // Proposed copies keep clear of the margin, the marks, one another and what a hand has put there.
    void copiesKeepClear()
    {
        QVERIFY(holds(rc::check("boxes do not meet", [] {
            SheetSpec spec;
            spec.margin = Length::um(whole(0, 20'000));
            spec.gap = Length::um(whole(0, 8'000));
            spec.landscape = coin();
            spec.marks.style = MarkStyle(whole(0, 3));
            spec.marks.count = whole(3, 8);
            spec.layout = coin() ? LayoutKind::Grid : LayoutKind::Stagger;
            std::vector<ToPlace> pieces;
            for (int i = whole(1, 4); i > 0; --i)
                pieces.push_back(
                    {PieceId{unsigned(i)}, {real(-9, 9), real(-9, 9), real(14, 90), real(14, 90)}, coin() ? std::optional(whole(1, 30)) : std::nullopt});
            std::vector<Placing> byHand;
            if (coin())
                byHand.push_back({PlacingId{1}, pieces[0].piece, 0, Length::mm(real(60, 150)), Length::mm(real(60, 150)), real(-180, 180), coin()});
            const Layout sheet = layOut(spec, pieces, byHand);
            RC_ASSERT(!sheet.problem);
            std::vector<Rect> boxes;
            for (const Placement& p : sheet.placements) {
                boxes.push_back(mapped(p.toSheet, pieces[p.at].box));
            }
            const double margin = spec.margin.mm(), slack = 1e-6;
            for (std::size_t i = 0; i < boxes.size(); ++i) {
                const Rect& b = boxes[i];
                if (sheet.placements[i].placing)
                    continue; // a hand may
                RC_ASSERT(b.x0 > margin - slack && b.y0 > margin - slack && b.x1 < sheet.width - margin + slack && b.y1 < sheet.height - margin + slack);
                for (const Mark& m : sheet.marks)
                    RC_ASSERT(!b.overlaps(clearOf(m, spec.marks.clear.mm()).grown(-slack)));
                for (std::size_t k = 0; k < boxes.size(); ++k)
                    RC_ASSERT(k == i || sheet.placements[k].sheet != sheet.placements[i].sheet || !b.grown(spec.gap.mm() - slack).overlaps(boxes[k]));
            }
            for (std::size_t p = 0; p < pieces.size(); ++p)
                RC_ASSERT(sheet.placed[p] <= pieces[p].copies.value_or(1'000'000));
            // None too large for the sheet: all that were asked for lie somewhere.
            for (std::size_t p = 0; p < pieces.size(); ++p)
                RC_ASSERT(!pieces[p].copies || sheet.placed[p] == *pieces[p].copies);
        })));
    }

    // A print turned, moved, stretched and a little off at each mark is found again; and one mark of
    // five that lies somewhere else is left out, whichever it is.
    void printsAreFoundAgain()
    {
        QVERIFY(holds(rc::check("the map comes back, the stray is named", [] {
            SheetSpec spec;
            const std::vector<Mark> marks = marksOf(spec);
            RC_ASSERT(marks.size() == 5u);
            const Affine print = Affine::move(real(-20, 20), real(-20, 20)) * Affine::turn(real(-3, 3)) * Affine::scale(real(0.99, 1.01), real(0.99, 1.01));
            std::vector<MarkPair> pairs;
            for (const Mark& m : marks)
                pairs.push_back({m.centre, print(m.centre) + Point{real(-0.05, 0.05), real(-0.05, 0.05)}});
            const Fit fit = fitMarks(pairs);
            RC_ASSERT(fit.leftOut.empty());
            RC_ASSERT(fit.model != FitModel::Projective);
            for (double y = 20; y < 290; y += 90)
                for (double x = 20; x < 200; x += 60)
                    RC_ASSERT(distance(fit.map(Point{x, y}), print(Point{x, y})) < 0.4);
            const int stray = whole(0, 4);
            const double way = real(0, 2 * std::numbers::pi);
            pairs[std::size_t(stray)].measured = pairs[std::size_t(stray)].measured + Point{std::cos(way), std::sin(way)} * real(3, 9);
            const Fit without = fitMarks(pairs);
            RC_ASSERT(without.leftOut == std::vector<int>{stray});
            for (const Point p : {Point{105, 148}, Point{40, 40}, Point{170, 250}})
                RC_ASSERT(distance(without.map(p), print(p)) < 0.6);
        })));
    }

    void crossingsAreFound()
    {
        QVERIFY(holds(rc::check("as a look at every pair of segments finds them", [] {
            const int n = whole(4, 60);
            Polyline line;
            for (int i = 0; i < n; ++i)
                line.push_back({real(0, 50), real(0, 50)});
            std::size_t pairs = 0;
            for (int i = 0; i < n; ++i)
                for (int j = i + 2; j < n; ++j) {
                    if (i == 0 && j == n - 1)
                        continue;
                    const Point a = line[std::size_t(i)], b = line[std::size_t(i + 1)], c = line[std::size_t(j)], d = line[std::size_t((j + 1) % n)];
                    const auto side = [](Point p, Point q, Point r) { return cross(q - p, r - p); };
                    pairs += side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
                }
            RC_ASSERT(selfCrossings(line, 100'000).size() == pairs);
            Polyline cut = line;
            std::vector<unsigned char> tags(line.size(), 0);
            if (cutLoops(cut, tags))
                RC_ASSERT(selfCrossings(cut, 1).empty());
            RC_ASSERT(tags.size() == cut.size());
        })));
    }

    void curvesFollowTheirPoints()
    {
        QVERIFY(holds(rc::check("within the tolerance, smooth, simple, and fewer", [] {
            const double radius = real(20, 90), tolerance = real(0.05, 0.4);
            const Polyline points = wavy({100, 100}, radius, 0.15 * radius, real(0.6, 3));
            const Path path = fitClosed(points, {}, tolerance);
            RC_ASSERT(deviation(points, path) < 1.1 * tolerance);
            RC_ASSERT(path.nodes() * 4 < points.size());
            RC_ASSERT(selfCrossings(flatten(path, 0.02), 1).empty());
            RC_ASSERT(std::abs(signedArea(path) - signedArea(points)) < tolerance * length(points));
            for (std::size_t k = 0; k < path.segments.size(); ++k)
                RC_ASSERT(path.corners[k] || turnAt(path, k) < 0.035);
        })));
    }

    // Cropping, turning and sizing move the picture in its frame and nothing in the picture.
    void framesStayOnThePicture()
    {
        QVERIFY(holds(rc::check("places in the frame follow", [] {
            ArtworkSpec a;
            a.picture.info.width = whole(50, 3000);
            a.picture.info.height = whole(50, 3000);
            a.picture.info.ppi = real(72, 1200);
            if (coin())
                a.setWidth(Length::mm(real(5, 400)));
            for (int step = whole(0, 5); step > 0; --step)
                switch (whole(0, 3)) {
                case 0:
                    a.turnRight();
                    break;
                case 1:
                    a.mirrorAcross();
                    break;
                case 2:
                    a.straightenTo(real(-45, 45));
                    break;
                default: {
                    const double w = a.width(), h = a.height();
                    const Rect crop{real(0, 0.4) * w, real(0, 0.4) * h, real(0.6, 1) * w, real(0.6, 1) * h};
                    const Point source{real(0, a.picture.info.width), real(0, a.picture.info.height)};
                    const Point before = a.sourceToMm()(source), scale = a.scale();
                    a.cropTo(crop);
                    const Point after = a.sourceToMm()(source);
                    // The frame lies on whole pixels where nothing is resampled.
                    RC_ASSERT(std::abs(before.x - after.x - crop.x0) < 1.01 / scale.x);
                    RC_ASSERT(std::abs(before.y - after.y - crop.y0) < 1.01 / scale.y);
                }
                }
            const Point k = a.scale();
            RC_ASSERT(std::abs(std::abs(a.sourceToMm().det()) * k.x * k.y - 1) < 1e-9);
            ArtworkSpec there = a;
            there.turnRight();
            there.turnLeft();
            RC_ASSERT(distance(there.sourceToMm()({10, 20}), a.sourceToMm()({10, 20})) < 1e-9);
        })));
    }

    // Whatever is done to a line by hand, in whatever order: its outlines stay closed, unless one was opened, and cross nothing of
    // themselves, every edit is accounted for, and without the edits the line is what it was.
    void editsLeaveSoundLines()
    {
        QVERIFY(holds(rc::check("closed and simple", [] {
            const double scale = real(0.05, 0.2); // mm a px
            const Affine turned = Affine::turn(real(0, 6)) * Affine::scale(coin() ? scale : -scale, scale);
            const Contours edge = contoursOf({wavy({0, 0}, 100, 15, 1)});
            const double offset = real(0, 3);
            Contours shown = edge; // as the picture is shown
            for (Point& p : shown[0].points)
                p = turned(p) * (1 / scale);
            if (turned.det() < 0)
                std::reverse(shown[0].points.begin(), shown[0].points.end());
            shown[0].area = signedArea(shown[0].points);
            const KeptEdge kept(shown, 1 / scale);
            const Paths fitted = transformed(fitLines(DistanceField(shown).at(offset / scale), 0.01 / scale), Affine::scale(scale, scale));
            RC_PRE(!fitted.empty());
            const EditGround ground{turned, offset};
            std::vector<Edit> edits;
            bool opens = false;
            for (int n = whole(1, 12); n > 0; --n) {
                Edit& e = edits.emplace_back();
                const auto names = namesOf(EditKind{});
                e.kind = names[std::size_t(whole(0, int(names.size()) - 1))].value;
                e.offset = Length::mm(offset + (coin() ? 0 : real(-1, 1)));
                const PathPlace at = along(fitted[0], {0, 0, fitted[0].start}, real(0, 1) * length(fitted[0]));
                e.from = anchorOf(at.at + Point{real(-1, 1), real(-1, 1)}, kept, ground);
                e.to = anchorOf(along(fitted[0], at, real(0.1, 12)).at, kept, ground);
                e.size = Length::mm(real(0.1, 12));
                e.hole = Length::mm(real(0, 6));
                e.upright = coin();
                if (e.kind == EditKind::Stretch)
                    for (int k = whole(1, 3) * 3; k > 0; --k)
                        e.shape.push_back({real(-0.2, 1.2), real(-0.5, 0.5)});
                if (coin())
                    e.to = e.from;
                Polyline corners;
                for (int k = whole(3, 8), corner = 0; isArea(e.kind) && corner < k; ++corner) {
                    const double a = 2 * std::numbers::pi * corner / k;
                    corners.push_back(turned.inverse()(at.at + Point{std::cos(a), std::sin(a)} * real(0.3, 4)));
                }
                if (isArea(e.kind))
                    e.outlines.push_back(pointsOf(coin() ? polygonPath(corners) : refitted(polygonPath(corners), 3, 1)));
                opens = opens || e.kind == EditKind::Open;
            }
            const TouchedUp up = touchUp(fitted, edits, ground);
            RC_ASSERT(up.outcomes.size() == edits.size());
            for (const Path& path : up.paths) {
                RC_ASSERT((path.closed || opens) && !path.segments.empty());
                RC_ASSERT(!path.closed || path.segments.back().end == path.start);
            }
            std::vector<Polyline> lines;
            std::vector<bool> closed;
            for (const Path& path : up.paths) {
                lines.push_back(flatten(path, 0.005));
                closed.push_back(path.closed);
            }
            RC_ASSERT(crossingsAmong(lines, closed).empty());
            for (Edit& e : edits)
                e.on = false;
            const TouchedUp none = touchUp(fitted, edits, ground);
            RC_ASSERT(none.paths.size() == fitted.size() && areaOf(none.paths) == areaOf(fitted) && nodesOf(none.paths) == nodesOf(fitted));
        })));
    }

    // Edits by hand and changes of numbers, in any order, and then all of it taken back and done again: at each step
    // the file cut is byte for byte what it was, though what was remembered on the way is used.
    void theWayBackGivesTheSameBytes()
    {
        static const Picture picture = [] {
            Rgba8 px(90, 70, {0, 0, 0, 0});
            for (int y = 0; y < 70; ++y)
                for (int x = 0; x < 90; ++x)
                    if (std::hypot(x - 35.5, y - 34.5) < 24 + 3 * std::cos(5 * std::atan2(y - 34.5, x - 35.5)) || std::hypot(x - 76, y - 20) < 7)
                        px.at(x, y) = {200, 60, 40, 255};
            return pictureFromBytes(encodePng(px), "crumbs.png");
        }();
        QVERIFY(holds(rc::check("byte for byte", [] {
            Job job;
            Piece& piece = job.pieces.emplace_back();
            piece.artwork.picture = picture;
            piece.artwork.setWidth(45_mm);
            piece.lines()[0].offset = 1500_um;
            giveIds(job);
            StepCache cache(coin() ? std::size_t(1) << 16 : std::size_t(64) << 20); // also one that forgets
            const auto bytes = [&](const Job& of, Derived& derived) {
                derived = derive(of, cache, {}, Want::Lines);
                return writeSvg(drawPiece(of, of.pieces[0], derived.pieces[0], Content::Cut));
            };
            std::vector<Job> history;
            std::vector<Bytes> written;
            for (int step = whole(2, 7);; --step) {
                Derived derived;
                written.push_back(bytes(job, derived));
                history.push_back(job);
                if (step == 0)
                    break;
                Piece& p = job.pieces[0];
                LineSpec& line = p.lines()[0];
                const PieceResult& made = derived.pieces[0];
                const int what = whole(0, 9);
                if (what < 6 && made.whole() && !made.layer().lines[0].paths->empty()) {
                    const CutLine& on = made.layer().lines[0];
                    const EditGround ground{made.sourceToMm, on.offset.mm()};
                    const KeptEdge kept(made.layer().parts->contours, made.pxPerMm);
                    const Path& path = on.paths->front();
                    const PathPlace at = along(path, {0, 0, path.start}, real(0, 1) * length(path));
                    Edit& e = line.edits.emplace_back();
                    const auto names = namesOf(EditKind{});
                    e.kind = names[std::size_t(whole(0, int(names.size()) - 1))].value;
                    e.offset = on.offset;
                    e.from = anchorOf(at.at, kept, ground);
                    e.to = anchorOf(along(path, at, real(0.5, 6)).at, kept, ground);
                    e.size = Length::mm(real(0.2, 4));
                    e.hole = Length::mm(real(0, 2));
                    if (e.kind == EditKind::Stretch)
                        e.shape = {{0.3, real(-0.4, 0.4)}, {0.7, real(-0.4, 0.4)}, {1, 0}};
                    if (isArea(e.kind))
                        e.outlines.push_back(pointsOf(transformed(ellipseFigure(at.at, real(0.3, 3), real(0.3, 3)), made.sourceToMm.inverse())));
                } else if (what == 6) {
                    line.offset = Length::mm(real(-1, 4));
                } else if (what == 7) {
                    p.artwork.setWidth(Length::mm(real(30, 60)));
                } else if (what == 8 && !line.edits.empty()) {
                    Edit& e = line.edits[std::size_t(whole(0, int(line.edits.size()) - 1))];
                    e.on = !e.on;
                } else {
                    p.artwork.mirrorAcross();
                }
                giveIds(job);
            }
            Derived derived;
            for (std::size_t k = history.size(); k-- > 0;)
                RC_ASSERT(bytes(history[k], derived) == written[k]);
            for (std::size_t k = 0; k < history.size(); ++k)
                RC_ASSERT(bytes(history[k], derived) == written[k]);
        })));
    }

    void jobsComeBackAsTheyWere()
    {
        static const Picture picture = pictureFromBytes(encodePng(Rgba8(40, 30, {10, 200, 30, 255})), "tile.png");
        QVERIFY(holds(rc::check("by value, whatever is in it", [] {
            FromRapidCheck draw;
            const Job job = randomJob(draw, picture);
            const Bytes first = writeProject(job);
            const Job back = readProject(first, "job");
            RC_ASSERT(back == job);
            RC_ASSERT(writeProject(back) == first);
        })));
    }

    // What a step reads is known by its digest: any field that is not just a label changes it,
    // and so does a change of length in a list of lists.
    void everyFieldIsDigested()
    {
        static const Picture picture = pictureFromBytes(encodePng(Rgba8(40, 30, {10, 200, 30, 255})), "tile.png");
        QVERIFY(holds(rc::check("lines and keeps", [] {
            FromRapidCheck numbers;
            Randomly draw(numbers, picture);
            LineSpec a, b;
            LineSpec::fields(a, draw);
            LineSpec::fields(b, draw);
            b.kind = a.kind; // labels
            b.cutLength = a.cutLength;
            b.gapLength = a.gapLength;
            b.clipsPrint = a.clipsPrint;
            b.bridges = a.bridges;
            b.bridgeWidth = a.bridgeWidth;
            RC_ASSERT((keyOf(a) == keyOf(b)) == (a == b));
            KeepSpec k, l;
            KeepSpec::fields(k, draw);
            l = k;
            RC_ASSERT(keyOf(k) == keyOf(l));
            l.onlyInside.push_back({});
            RC_ASSERT(keyOf(k) != keyOf(l));
        })));
    }

    // A number out of its range is refused by its name and its place.
    void whatIsOutOfRangeIsNamed()
    {
        Job job;
        job.pieces.resize(2);
        for (Piece& p : job.pieces)
            p.artwork.picture = pictureFromBytes(encodePng(Rgba8(20, 20, {1, 2, 3, 255})), "tile.png");
        job.pieces[1].lines().resize(2);
        job.pieces[1].lines()[1].offset = 700_mm;
        try {
            readProject(writeProject(job), "job.yokai");
            QFAIL("read an offset of 700 mm");
        } catch (const Error& e) {
            const QString line = e.what();
            QVERIFY2(line.contains("pieces[1].layers[0].cut_lines[1].offset is 700.00 mm, out of -500.00 mm to 500.00 mm"), e.what());
        }
    }

    // Whatever bytes arrive: a picture, a job, or one clear line; never anything else.
    void damagedFilesGiveOneLine_data()
    {
        QTest::addColumn<QString>("file");
        for (const char* name : {"kettle-badger.jpg", "moon-rabbit.png", "job"})
            QTest::newRow(name) << name;
    }
    void damagedFilesGiveOneLine()
    {
        QFETCH(QString, file);
        const bool project = file == "job";
        Bytes whole;
        if (project) {
            Job job;
            job.pieces.emplace_back();
            job.pieces[0].artwork.picture = pictureFromBytes(encodePng(Rgba8(20, 20, {1, 2, 3, 255})), "tile.png");
            whole = writeProject(job);
        } else {
            whole = readFile((QString(YOKAI_DEMO_PICTURES "/") + file).toStdString());
        }
        QVERIFY(holds(rc::check("read or refused", [&] {
            Bytes bytes = whole;
            for (int k = *rc::gen::inRange(0, 8); k > 0; --k)
                bytes[std::size_t(*rc::gen::inRange(0, int(bytes.size())))] = std::uint8_t(*rc::gen::inRange(0, 256));
            if (coin())
                bytes.resize(std::size_t(*rc::gen::inRange(0, int(bytes.size()))));
            try {
                if (project) {
                    readProject(bytes, "job");
                } else {
                    const Picture picture = pictureFromBytes(bytes, "picture");
                    const SharedRgba pixels = decodePicture(picture);
                    RC_ASSERT(pixels->width() == picture.info.width && pixels->height() == picture.info.height);
                }
            } catch (const Error& e) {
                const std::string line = e.what();
                RC_ASSERT(!line.empty() && line.find('\n') == std::string::npos);
                RC_ASSERT(e.kind() == ErrorKind::Input);
            }
        })));
    }

    void lengthsReadBackAsWritten()
    {
        QVERIFY(holds(rc::check("micrometres and thousandths", [] {
            const Length um = Length::um(whole(-2'000'000, 2'000'000)),
                         thou = Length::ticks(std::int64_t(whole(-80'000, 80'000)) * (Length::ticksPerInch / 1000));
            RC_ASSERT(parseLength(plainNumber(um.mm(), 3) + "mm") == um);
            RC_ASSERT(parseLength(plainNumber(thou.inches(), 3) + "in") == thou);
            RC_ASSERT(parseLength(plainNumber(um.mm(), 3) + "mm + " + plainNumber(thou.inches(), 3) + "in") == um + thou);
        })));
    }
};

QTEST_APPLESS_MAIN(TestProperties)
#include "test_properties.moc"
