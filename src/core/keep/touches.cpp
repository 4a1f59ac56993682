#include "base/cover.h"
#include "keep/rules.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

// What a brush stroke covers, within its own box.
struct Stroke {
    int x0 = 0, y0 = 0;
    Gray8 cover;
};

std::vector<Point> mapped(const std::vector<Point>& points, const Affine& map)
{
    std::vector<Point> out;
    out.reserve(points.size());
    for (const Point p : points)
        out.push_back(map(p));
    return out;
}

// The way of a round tip: all that lies within the radius of one of its stretches.
void roundStroke(Stroke& out, const std::vector<Point>& way, double radius, const Work& work)
{
    for (std::size_t i = 0; i < way.size(); ++i) {
        const Point a = way[i], b = way[std::min(i + 1, way.size() - 1)], d = b - a;
        const double length2 = std::max(1e-12, dot(d, d));
        const int left = std::max(0, int(std::min(a.x, b.x) - radius) - 1 - out.x0),
                  right = std::min(out.cover.width(), int(std::max(a.x, b.x) + radius) + 2 - out.x0);
        const int top = std::max(0, int(std::min(a.y, b.y) - radius) - 1 - out.y0),
                  bottom = std::min(out.cover.height(), int(std::max(a.y, b.y) + radius) + 2 - out.y0);
        for (int y = top; y < bottom; ++y) {
            work.check();
            for (int x = left; x < right; ++x) {
                std::uint8_t& c = out.cover.at(x, y);
                if (c == 255)
                    continue;
                const Point p{out.x0 + x + 0.5, out.y0 + y + 0.5};
                const double t = std::clamp(dot(p - a, d) / length2, 0.0, 1.0);
                c = std::max(c, std::uint8_t(std::clamp(radius - distance(p, a + d * t) + 0.5, 0.0, 1.0) * 255 + 0.5));
            }
        }
    }
}

// The way of a square tip: between two places it sweeps the hull of both.
void squareStroke(Stroke& out, const std::vector<Point>& way, double radius, const Work& work)
{
    for (std::size_t i = 0; i < way.size(); ++i) {
        const Point a = way[i], b = way[std::min(i + 1, way.size() - 1)];
        const Point l = a.x <= b.x ? a : b, r = a.x <= b.x ? b : a; // left and right
        const double s = radius;
        std::vector<Point> hull;
        if (l.y <= r.y)
            hull = {{l.x - s, l.y - s}, {l.x + s, l.y - s}, {r.x + s, r.y - s}, {r.x + s, r.y + s}, {r.x - s, r.y + s}, {l.x - s, l.y + s}};
        else
            hull = {{l.x - s, l.y - s}, {r.x - s, r.y - s}, {r.x + s, r.y - s}, {r.x + s, r.y + s}, {l.x + s, l.y + s}, {l.x - s, l.y + s}};
        for (Point& p : hull)
            p = p - Point{double(out.x0), double(out.y0)};
        coverPolygons(
            std::span(&hull, 1), out.cover.width(), out.cover.height(),
            [&](int y, int x0, std::span<const std::uint8_t> cover) {
                std::uint8_t* row = out.cover.row(y) + x0;
                for (std::size_t x = 0; x < cover.size(); ++x)
                    row[x] = std::max(row[x], cover[x]);
            },
            work);
    }
}

} // namespace

Coverage insideOnly(Coverage coverage, const std::vector<Ring>& outlines, const KeepGround& ground, const Work& work)
{
    if (outlines.empty())
        return coverage;
    const Gray8& from = *coverage.pixels;
    Gray8 inside(from.width(), from.height(), 0);
    for (const auto& outline : outlines) {
        const std::vector<Point> polygon = mapped(outline, ground.fromSource);
        coverPolygons(
            std::span(&polygon, 1), from.width(), from.height(),
            [&](int y, int x0, std::span<const std::uint8_t> cover) {
                std::uint8_t* row = inside.row(y) + x0;
                for (std::size_t x = 0; x < cover.size(); ++x)
                    row[x] = std::max(row[x], cover[x]);
            },
            work);
    }
    eachRow(from.height(), from.width(), work, [&](int y) {
        std::uint8_t* to = inside.row(y);
        for (int x = 0; x < from.width(); ++x)
            to[x] = std::min(to[x], from.at(x, y));
    });
    coverage.pixels = std::make_shared<const Gray8>(std::move(inside));
    coverage.opaqueInside = true;
    return coverage;
}

namespace {

Gray8 copyOf(const Gray8& from, const Work& work)
{
    Gray8 out(from.width(), from.height());
    eachRow(from.height(), from.width(), work, [&](int y) { std::copy_n(from.row(y), from.width(), out.row(y)); });
    return out;
}

// An area of like colour, with its soft rim, or a pale ring would be printed.
bool rubOutLike(Gray8& pixels, const Touch& touch, Point at, const Rgba8& px, const KeepGround& ground, const Work& work)
{
    constexpr double leastTolerance = 0.5;
    constexpr int rimSide = 7, firm = 250;
    const int w = pixels.width(), h = pixels.height(), x = int(std::floor(at.x)), y = int(std::floor(at.y));
    if (x < 0 || y < 0 || x >= w || y >= h)
        return false;
    const Gray8 away = rules::awayFrom(px, rules::differences(px, {px.at(x, y)}, false, work), std::max(leastTolerance, touch.tolerance), rules::Reach::Places,
                                       {at}, ground.lossy, work);
    Gray8 rim(w, h);
    rules::grow(away, rim, rimSide, true, work);
    eachRow(h, w, work, [&](int j) {
        std::uint8_t* to = pixels.row(j);
        for (int i = 0; i < w; ++i)
            to[i] = rim.at(i, j) == 0 && away.at(i, j) > 0 && to[i] < firm ? std::uint8_t(0) : std::min(to[i], away.at(i, j));
    });
    return true;
}

bool brush(Gray8& pixels, const Touch& touch, const std::vector<Point>& way, const KeepGround& ground, const Work& work)
{
    constexpr double leastRadius = 0.3; // pixels: a finer tip would leave nothing
    const int w = pixels.width(), h = pixels.height();
    const double radius = std::max(leastRadius, touch.radius * std::sqrt(std::abs(ground.fromSource.det())));
    const Rect box = bounds(way).grown(radius + 2);
    Stroke stroke;
    stroke.x0 = int(std::clamp(box.x0, 0.0, double(w)));
    stroke.y0 = int(std::clamp(box.y0, 0.0, double(h)));
    const int x1 = int(std::clamp(box.x1 + 1, 0.0, double(w))), y1 = int(std::clamp(box.y1 + 1, 0.0, double(h)));
    if (stroke.x0 >= x1 || stroke.y0 >= y1)
        return false;
    stroke.cover = Gray8(x1 - stroke.x0, y1 - stroke.y0, 0);
    (touch.square ? squareStroke : roundStroke)(stroke, way, radius, work);
    eachRow(stroke.cover.height(), stroke.cover.width(), work, [&](int y) {
        std::uint8_t* to = pixels.row(stroke.y0 + y) + stroke.x0;
        const std::uint8_t* c = stroke.cover.row(y);
        for (int x = 0; x < stroke.cover.width(); ++x)
            to[x] = touch.kind == Touch::Kind::RubOut ? std::min(to[x], std::uint8_t(255 - c[x])) : std::max(to[x], c[x]);
    });
    return true;
}

} // namespace

Coverage touched(const Coverage& before, const Touch& touch, const Rgba8& px, const KeepGround& ground, const Work& work)
{
    if (touch.points.empty())
        return before;
    const std::vector<Point> way = mapped(touch.points, ground.fromSource);
    Gray8 pixels = copyOf(*before.pixels, work);
    const bool any = touch.kind == Touch::Kind::RubOutLike ? rubOutLike(pixels, touch, way[0], px, ground, work) : brush(pixels, touch, way, ground, work);
    if (!any)
        return before;
    Coverage out = before;
    out.pixels = std::make_shared<const Gray8>(std::move(pixels));
    out.opaqueInside = true;
    return out;
}

} // namespace yokai
