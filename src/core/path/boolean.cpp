#include "path/boolean.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace yokai {

namespace {

constexpr double nothing = 1e-3; // what ends may lie apart that are one node

Rect boxOf(Point from, const Segment& s)
{
    Rect box = Rect::nothing();
    box.add(from);
    if (!s.line) { // the control points' box holds the curve
        box.add(s.c1);
        box.add(s.c2);
    }
    box.add(s.end);
    return box;
}

bool apart(const Rect& a, const Rect& b) { return a.x0 > b.x1 || b.x0 > a.x1 || a.y0 > b.y1 || b.y0 > a.y1; }

double bow(Point from, const Segment& s)
{
    if (s.line)
        return 0;
    const Point a = from + (s.c1 * -2) + s.c2, b = s.c1 + (s.c2 * -2) + s.end;
    return std::max(norm(a), norm(b));
}

// A stretch of a segment under search.
struct Halved {
    Point from;
    Segment s;
    double begin, end;
};

std::array<Halved, 2> halved(const Halved& a)
{
    const double middle = (a.begin + a.end) / 2;
    const Halves h = split(a.from, a.s, 0.5);
    return {Halved{a.from, h.before, a.begin, middle}, Halved{h.before.end, h.after, middle, a.end}};
}

void search(const Halved& a, const Halved& b, int depth, std::vector<Meeting>& out)
{
    if (apart(boxOf(a.from, a.s), boxOf(b.from, b.s)))
        return;
    constexpr double flat = 1e-4;
    constexpr int deepest = 24;
    const double bowA = bow(a.from, a.s), bowB = bow(b.from, b.s);
    if ((bowA < flat && bowB < flat) || depth >= deepest) {
        const Point r = a.s.end - a.from, s = b.s.end - b.from;
        const double k = cross(r, s);
        if (std::abs(k) < 1e-15)
            return;
        const double t = cross(b.from - a.from, s) / k, u = cross(b.from - a.from, r) / k;
        constexpr double over = 1e-9;
        if (t >= -over && t <= 1 + over && u >= -over && u <= 1 + over)
            out.push_back({std::lerp(a.begin, a.end, std::clamp(t, 0.0, 1.0)), std::lerp(b.begin, b.end, std::clamp(u, 0.0, 1.0))});
        return;
    }
    if (bowA >= bowB) {
        for (const Halved& half : halved(a))
            search(half, b, depth + 1, out);
    } else {
        for (const Halved& half : halved(b))
            search(a, half, depth + 1, out);
    }
}

// A piece of an outline between two crossings, or a whole outline.
struct Bounding {
    Path path; // open
    bool used = false;
};

class Shape {
public:
    explicit Shape(const Paths& paths)
    {
        constexpr double flatness = 1e-3;
        for (const Path& path : paths) {
            polygons_.push_back(flatten(path, flatness));
            boxes_.push_back(bounds(polygons_.back()));
        }
    }
    bool holds(Point p) const
    {
        bool inside = false;
        for (std::size_t k = 0; k < polygons_.size(); ++k)
            if (boxes_[k].contains(p) && contains(polygons_[k], p))
                inside = !inside;
        return inside;
    }

private:
    std::vector<Polyline> polygons_;
    std::vector<Rect> boxes_;
};

Point middleOf(const Path& path)
{
    const std::size_t k = path.segments.size() / 2;
    return pointOn(k == 0 ? path.start : path.segments[k - 1].end, path.segments[k], 0.5);
}

using Cuts = std::vector<std::vector<PathPlace>>; // of each path

void cross(const Paths& a, const Paths& b, Cuts& ofA, Cuts& ofB)
{
    for (std::size_t i = 0; i < a.size(); ++i)
        for (std::size_t j = 0; j < b.size(); ++j) {
            if (apart(bounds(a[i]), bounds(b[j])))
                continue;
            Point from = a[i].start;
            for (std::size_t k = 0; k < a[i].segments.size(); ++k) {
                const Segment& s = a[i].segments[k];
                Point other = b[j].start;
                for (std::size_t m = 0; m < b[j].segments.size(); ++m) {
                    for (const Meeting& meeting : meetings(from, s, other, b[j].segments[m])) {
                        const Point at = pointOn(from, s, meeting.onFirst);
                        ofA[i].push_back({k, meeting.onFirst, at});
                        ofB[j].push_back({m, meeting.onSecond, at});
                    }
                    other = b[j].segments[m].end;
                }
                from = s.end;
            }
        }
}

// The pieces of one shape's outlines that lie on the wanted side of the other.
void addPieces(const Paths& paths, Cuts& cuts, const Shape& other, bool within, bool reversed, std::vector<Bounding>& pieces, Paths& whole)
{
    for (std::size_t k = 0; k < paths.size(); ++k) {
        std::vector<PathPlace>& at = cuts[k];
        std::sort(at.begin(), at.end(), [](const PathPlace& x, const PathPlace& y) { return x.segment != y.segment ? x.segment < y.segment : x.t < y.t; });
        // A crossing at a node is met from both of its segments.
        at.erase(std::unique(at.begin(), at.end(), [](const PathPlace& a, const PathPlace& b) { return distance(a.at, b.at) < 1e-7; }), at.end());
        if (at.size() > 1 && distance(at.front().at, at.back().at) < 1e-7)
            at.pop_back();
        if (at.empty()) {
            if (other.holds(middleOf(paths[k])) == within)
                whole.push_back(reversed ? yokai::reversed(paths[k]) : paths[k]);
            continue;
        }
        for (std::size_t c = 0; c < at.size(); ++c) {
            const Path piece = stretchOf(paths[k], at[c], at[(c + 1) % at.size()]);
            if (!piece.segments.empty() && other.holds(middleOf(piece)) == within)
                pieces.push_back({reversed ? yokai::reversed(piece) : piece});
        }
    }
}

// One after another, each at the end of the one before.
std::optional<Paths> joinedUp(std::vector<Bounding>& pieces)
{
    Paths out;
    for (Bounding& first : pieces) {
        if (first.used)
            continue;
        first.used = true;
        Path path = first.path;
        while (distance(path.segments.back().end, path.start) > nothing) {
            Bounding* next = nullptr;
            for (Bounding& piece : pieces)
                if (!piece.used && distance(piece.path.start, path.segments.back().end) < nothing)
                    next = &piece;
            if (!next)
                return std::nullopt;
            next->used = true;
            path.segments.insert(path.segments.end(), next->path.segments.begin(), next->path.segments.end());
            path.corners.insert(path.corners.end(), next->path.corners.begin(), next->path.corners.end());
        }
        path.segments.back().end = path.start;
        path.closed = true;
        out.push_back(std::move(path));
    }
    return out;
}

} // namespace

std::vector<Meeting> meetings(Point firstFrom, const Segment& first, Point secondFrom, const Segment& second)
{
    std::vector<Meeting> found, out;
    search({firstFrom, first, 0, 1}, {secondFrom, second, 0, 1}, 0, found);
    for (Meeting m : found) {
        constexpr int rounds = 8;
        for (int k = 0; k < rounds; ++k) {
            const Point d = pointOn(secondFrom, second, m.onSecond) - pointOn(firstFrom, first, m.onFirst);
            const double scaleA = first.line ? 1 : 3, scaleB = second.line ? 1 : 3;
            const Point r = tangentOn(firstFrom, first, m.onFirst) * scaleA, s = tangentOn(secondFrom, second, m.onSecond) * scaleB;
            const double det = yokai::cross(r, s);
            if (std::abs(det) < 1e-15)
                break;
            m.onFirst = std::clamp(m.onFirst + yokai::cross(d, s) / det, 0.0, 1.0);
            m.onSecond = std::clamp(m.onSecond + yokai::cross(d, r) / det, 0.0, 1.0);
        }
        constexpr double same = 1e-7;
        const bool met = distance(pointOn(firstFrom, first, m.onFirst), pointOn(secondFrom, second, m.onSecond)) < 1e-6;
        if (met && std::none_of(out.begin(), out.end(), [&](const Meeting& o) { return std::abs(o.onFirst - m.onFirst) < same; }))
            out.push_back(m);
    }
    return out;
}

std::optional<Paths> combined(const Paths& all, const Paths& b, Combine how)
{
    Paths a, open;
    for (const Path& path : all)
        (path.closed ? a : open).push_back(path);
    Cuts ofA(a.size()), ofB(b.size());
    cross(a, b, ofA, ofB);
    std::vector<Bounding> pieces;
    Paths out;
    const Shape shapeA(a), shapeB(b);
    addPieces(a, ofA, shapeB, false, false, pieces, out);
    addPieces(b, ofB, shapeA, how == Combine::TakeAway, how == Combine::TakeAway, pieces, out);
    auto joined = joinedUp(pieces);
    if (!joined)
        return std::nullopt;
    out.insert(out.end(), joined->begin(), joined->end());
    out.insert(out.end(), open.begin(), open.end());
    return out;
}

} // namespace yokai
