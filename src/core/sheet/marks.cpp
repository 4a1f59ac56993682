#include "sheet/marks.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

class Placer {
public:
    explicit Placer(const SheetSpec& spec) : spec_(spec.marks), w_(spec.width()), h_(spec.height()) {}

    void add(Point at, bool orientation = false)
    {
        // Arms of brackets point to the middle of the sheet.
        const Point inwards{at.x < w_ / 2 ? 1.0 : -1.0, at.y < h_ / 2 ? 1.0 : -1.0};
        // What tells the way up looks like no other bracket: it has no corner to sit in.
        const MarkStyle style = orientation && spec_.style == MarkStyle::Brackets ? MarkStyle::Crosses : spec_.style;
        marks.push_back({at, spec_.size.mm(), orientation, style, spec_.weight.mm(), inwards});
    }

    void corners()
    {
        const double in = spec_.inset.mm();
        const Point all[] = {{in, in}, {w_ - in, in}, {w_ - in, h_ - in}, {in, h_ - in}};
        for (int k = 0; k < std::min(spec_.count, 4); ++k)
            add(all[k]);
        if (spec_.count > 4)
            wayUp(h_ - 2 * in);
        // Half way along the sides, the long ones first.
        const bool upright = h_ >= w_;
        const Point halfway[] = {upright ? Point{in, h_ / 2} : Point{w_ / 2, in}, upright ? Point{w_ - in, h_ / 2} : Point{w_ / 2, h_ - in},
                                 upright ? Point{w_ / 2, h_ - in} : Point{in, h_ / 2}};
        for (int k = 5; k < spec_.count; ++k)
            add(halfway[k - 5]);
    }

    void bands()
    {
        const double in = spec_.inset.mm(), along = std::max(w_, h_) - 2 * in;
        const int steps = std::max(1, int(std::ceil(along / spec_.bandGap.mm() - 1e-9)));
        for (int k = 0; k <= steps; ++k) {
            const double at = in + along * k / steps;
            add(h_ >= w_ ? Point{in, at} : Point{at, in});
            add(h_ >= w_ ? Point{w_ - in, at} : Point{at, h_ - in});
        }
        wayUp(along / steps);
    }

    std::vector<Mark> marks;

private:
    // Off the middle, so that a mirrored sheet shows; far enough from the sides and the diagonals of
    // the four to bear witness, near enough to the edge to leave the middle of the sheet alone.
    void wayUp(double band)
    {
        constexpr double across = 0.4, down = 0.15;
        const double in = spec_.inset.mm();
        if (spec_.bandGap > Length() && w_ > h_)
            add({in + down * band, in + across * (h_ - 2 * in)}, true);
        else
            add({in + across * (w_ - 2 * in), in + down * band}, true);
    }

    const MarkSpec& spec_;
    double w_, h_;
};

Path circle(Point c, double r)
{
    // Four cubics; the handle length is the usual 4/3 (sqrt 2 - 1).
    const double k = r * 0.5522847498;
    Path path;
    path.start = {c.x + r, c.y};
    path.curveTo({c.x + r, c.y + k}, {c.x + k, c.y + r}, {c.x, c.y + r});
    path.curveTo({c.x - k, c.y + r}, {c.x - r, c.y + k}, {c.x - r, c.y});
    path.curveTo({c.x - r, c.y - k}, {c.x - k, c.y - r}, {c.x, c.y - r});
    path.curveTo({c.x + k, c.y - r}, {c.x + r, c.y - k}, {c.x + r, c.y});
    return path;
}

Path lines(std::initializer_list<Point> points)
{
    Path path;
    path.closed = false;
    path.start = *points.begin();
    for (const Point* p = points.begin() + 1; p != points.end(); ++p)
        path.lineTo(*p);
    return path;
}

} // namespace

std::vector<Mark> marksOf(const SheetSpec& spec)
{
    Placer placer(spec);
    if (spec.marks.style == MarkStyle::None)
        return {};
    if (spec.marks.style == MarkStyle::InPicture) {
        for (const MarkPlace& place : spec.marks.places)
            placer.add({place.x.mm(), place.y.mm()});
        return placer.marks;
    }
    if (spec.marks.bandGap > Length())
        placer.bands();
    else
        placer.corners();
    for (std::size_t k = 0; k < std::min(placer.marks.size(), spec.marks.places.size()); ++k)
        placer.marks[k].centre = {spec.marks.places[k].x.mm(), spec.marks.places[k].y.mm()};
    return placer.marks;
}

Paths inkOf(const Mark& m)
{
    const double r = m.diameter / 2;
    const Point c = m.centre;
    switch (m.style) {
    case MarkStyle::None:
    case MarkStyle::InPicture:
        return {};
    case MarkStyle::Dots:
        return {circle(c, r)};
    case MarkStyle::Crosses:
        return {lines({{c.x - r, c.y}, {c.x + r, c.y}}), lines({{c.x, c.y - r}, {c.x, c.y + r}})};
    case MarkStyle::Brackets:
        return {lines({{c.x + m.inwards.x * m.diameter, c.y}, c, {c.x, c.y + m.inwards.y * m.diameter}})};
    }
    return {};
}

Rect clearOf(const Mark& m, double clear)
{
    const Point c = m.centre;
    if (m.style != MarkStyle::Brackets)
        return Rect{c.x, c.y, c.x, c.y}.grown(m.diameter / 2 + clear);
    Rect ink{c.x, c.y, c.x, c.y};
    ink.add(c + m.inwards * m.diameter);
    return ink.grown(m.weight / 2 + clear);
}

std::vector<DoubtedMark> doubtsOf(const SheetSpec& spec, const std::vector<Mark>& marks)
{
    std::vector<DoubtedMark> out;
    if (marks.empty())
        return out;
    const double print = spec.printMargin.mm(), w = spec.width(), h = spec.height();
    double closest = std::numeric_limits<double>::infinity(), farthest = 0;
    Point closestAt;
    std::pair<Point, Point> ends;
    for (const Mark& m : marks) {
        const Rect ink = clearOf(m, 0);
        const double past = std::max({print - ink.x0, print - ink.y0, ink.x1 - (w - print), ink.y1 - (h - print)});
        constexpr double exactly = 0.01; // mm
        if (past > exactly && isPrinted(m))
            out.push_back({MarkDoubt::OutsidePrint, m.centre, past, 0});
        for (const Mark& other : marks)
            if (&other != &m) {
                const double d = distance(m.centre, other.centre);
                if (d < closest)
                    closestAt = m.centre;
                closest = std::min(closest, d);
                if (d > farthest) {
                    farthest = d;
                    ends = {m.centre, other.centre};
                }
            }
    }
    constexpr double diametersBetween = 4; // marks nearer than this could be taken for one another
    const double least = diametersBetween * spec.marks.size.mm();
    if (closest < least)
        out.push_back({MarkDoubt::TooClose, closestAt, closest, least});
    double off = 0;
    const Point along = unit(ends.second - ends.first);
    for (const Mark& m : marks)
        off = std::max(off, std::abs(cross(along, m.centre - ends.first)));
    constexpr double breadth = 0.1; // of their length: less, and the turn across them is a guess
    if (marks.size() > 2 && off < breadth * farthest) // two are always in a line
        out.push_back({MarkDoubt::InLine, ends.first, off, breadth * farthest});
    constexpr int enough = 4; // for size and turn with one to spare
    if (int(marks.size()) < enough)
        out.push_back({MarkDoubt::NoneToSpare, marks.front().centre, double(marks.size()), double(enough)});
    return out;
}

} // namespace yokai
