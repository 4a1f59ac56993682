#include "path/arcs.h"

#include <cmath>
#include <limits>
#include <numbers>

namespace yokai {

namespace {

constexpr double noBulge = 1e-9;
constexpr double noLength = 1e-12;  // mm; and of what divides

double bulgeFrom(Point tangent, Point chord) { return std::tan(std::atan2(cross(tangent, chord), dot(tangent, chord)) / 2); }

// From a point along a tangent, to another along another; the arcs meet where they leave both as far behind.
std::vector<Arc> biarc(Point a, Point ta, Point b, Point tb)
{
    const Point v = b - a;
    const double along = dot(v, ta + tb), open = 2 * (1 - dot(ta, tb)), square = dot(v, v);
    double d = 0;
    if (open > noLength)
        d = (std::sqrt(along * along + open * square) - along) / open;
    else if (const double both = dot(v, tb); std::abs(both) > noLength)
        d = square / (4 * both);
    const Point joint = (a + ta * d + b - tb * d) * 0.5;
    const auto end = [&](Point from, Point to, Point tangent, bool atStart) {
        const double bulge = atStart ? bulgeFrom(tangent, to - from) : bulgeFrom(to - from, tangent);
        return Arc{to, std::abs(bulge) < noBulge ? 0 : bulge};
    };
    return {end(a, joint, ta, true), end(joint, b, tb, false)};
}

// How far a point lies from an arc's circle, or from its chord's line.
double awayFrom(Point p, Point from, const Arc& arc)
{
    const Point chord = arc.end - from;
    const double length = std::hypot(chord.x, chord.y);
    if (length < noLength)
        return distance(p, from);
    if (arc.bulge == 0)
        return std::abs(cross(chord, p - from)) / length;
    const double radius = length * (1 + arc.bulge * arc.bulge) / (4 * arc.bulge); // signed
    const double sagitta = arc.bulge * length / 2;
    const Point left{-chord.y / length, chord.x / length};
    const Point centre = (from + arc.end) * 0.5 + left * (radius - sagitta);
    return std::abs(distance(p, centre) - std::abs(radius));
}

void append(std::vector<Arc>& out, Point from, const Segment& s, double t0, double t1, double tolerance, int depth)
{
    constexpr int deepest = 12, looks = 12;
    const Point a = pointOn(from, s, t0), b = pointOn(from, s, t1), ta = unit(tangentOn(from, s, t0)), tb = unit(tangentOn(from, s, t1));
    const std::vector<Arc> arcs = biarc(a, ta, b, tb);
    bool near = dot(ta, tb) > 0 && dot(ta, b - a) > 0; // a stretch that turns by less than a right angle
    for (int k = 1; k < looks && near; ++k) {
        const Point p = pointOn(from, s, t0 + (t1 - t0) * k / looks);
        near = std::min(awayFrom(p, a, arcs[0]), awayFrom(p, arcs[0].end, arcs[1])) <= tolerance;
    }
    if (near || depth == deepest || distance(a, b) < tolerance) {
        if (near)
            out.insert(out.end(), arcs.begin(), arcs.end());
        else
            out.push_back({b, 0});
        return;
    }
    const double middle = (t0 + t1) / 2;
    append(out, from, s, t0, middle, tolerance, depth + 1);
    append(out, from, s, middle, t1, tolerance, depth + 1);
}

} // namespace

std::vector<Arc> arcsOf(const Path& path, double tolerance)
{
    std::vector<Arc> out;
    path.each([&](Point from, const Segment& s) {
        if (s.line)
            out.push_back({s.end, 0});
        else
            append(out, from, s, 0, 1, tolerance, 0);
    });
    return out;
}

Path pathOf(Point start, const std::vector<Arc>& arcs, bool closed)
{
    constexpr double bend = 0.01; // radians: where two meet at more, it is a corner
    Path out;
    out.start = start;
    out.closed = closed;
    Point from = start;
    for (std::size_t i = 0; i < arcs.size(); ++i) {
        const Arc& arc = arcs[i];
        bool corner = !closed && i + 1 == arcs.size();
        if (closed || i + 1 < arcs.size()) {
            const Point in = tangentOn(from, arc, 1), next = tangentOn(arc.end, arcs[around(i + 1, arcs.size())], 0);
            corner = std::abs(std::atan2(cross(in, next), dot(in, next))) > bend;
        }
        const double whole = 4 * std::atan(arc.bulge);
        if (arc.bulge == 0) {
            out.lineTo(arc.end, corner);
        } else {
            const int pieces = std::max(1, int(std::ceil(std::abs(whole) / (std::numbers::pi / 4) - 1e-9)));
            const double handle = 4.0 / 3 * std::tan(std::abs(whole) / pieces / 4) * radiusOf(from, arc);
            Point at = from;
            for (int k = 1; k <= pieces; ++k) {
                const Point next = k == pieces ? arc.end : pointOn(from, arc, double(k) / pieces);
                out.curveTo(at + tangentOn(from, arc, double(k - 1) / pieces) * handle, next - tangentOn(from, arc, double(k) / pieces) * handle, next, k == pieces && corner);
                at = next;
            }
        }
        from = arc.end;
    }
    return out;
}

double radiusOf(Point from, const Arc& arc)
{
    if (arc.bulge == 0)
        return std::numeric_limits<double>::infinity();
    return distance(from, arc.end) * (1 + arc.bulge * arc.bulge) / (4 * std::abs(arc.bulge));
}

double lengthOf(Point from, const Arc& arc)
{
    const double chord = distance(from, arc.end);
    return arc.bulge == 0 ? chord : radiusOf(from, arc) * 4 * std::atan(std::abs(arc.bulge));
}

Point centreOf(Point from, const Arc& arc)
{
    // From the chord's middle to its left by what the radius leaves of the sagitta.
    const Point chord = arc.end - from;
    const double k = (1 - arc.bulge * arc.bulge) / (4 * arc.bulge);
    return (from + arc.end) * 0.5 + Point{-chord.y, chord.x} * k;
}

Point pointOn(Point from, const Arc& arc, double t)
{
    if (arc.bulge == 0)
        return mix(from, arc.end, t);
    const Point centre = centreOf(from, arc);
    return centre + Affine::turn(4 * std::atan(arc.bulge) * t)(from - centre);
}

Point tangentOn(Point from, const Arc& arc, double t)
{
    const double whole = 4 * std::atan(arc.bulge);
    return Affine::turn(whole * (t - 0.5))(unit(arc.end - from));
}

void flatten(Point from, const Arc& arc, double tolerance, Polyline& out)
{
    constexpr double most = 0.5; // radians a step, however small the arc
    if (arc.bulge != 0) {
        const double radius = radiusOf(from, arc), whole = 4 * std::atan(std::abs(arc.bulge));
        const double step = std::min(most, 2 * std::acos(std::max(0.0, 1 - tolerance / radius)));
        const int steps = std::max(1, int(std::ceil(whole / std::max(step, 1e-4))));
        for (int k = 1; k < steps; ++k)
            out.push_back(pointOn(from, arc, double(k) / steps));
    }
    out.push_back(arc.end);
}

} // namespace yokai
