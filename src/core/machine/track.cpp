#include "machine/track.h"

#include <functional>
#include <numbers>
#include <optional>

namespace yokai {

namespace {

constexpr double radian = std::numbers::pi / 180;
constexpr double nothing = 1e-9; // mm

double turned(Point from, Point to) { return std::atan2(cross(from, to), dot(from, to)); }

// Arcs put together as long as they are of one circle, and lines of one line.
class Joiner {
public:
    Joiner(Track& track, double tolerance) : track_(track), before_(track.start), tolerance_(tolerance) {}
    void add(const Arc& arc)
    {
        const Point at = track_.end();
        if (distance(at, arc.end) < nothing)
            return;
        if (!track_.arcs.empty() && smooth(at, arc))
            if (const auto one = joined(at, arc)) {
                track_.arcs.back() = *one;
                return;
            }
        before_ = at;
        seen_.clear();
        see(at, arc);
        track_.arcs.push_back(arc);
    }

private:
    bool smooth(Point at, const Arc& arc) const
    {
        constexpr double kink = 0.002, bend = 1e-7; // radians: what a joint of arcs, and of lines, may turn by
        const Arc& last = track_.arcs.back();
        return std::abs(turned(tangentOn(before_, last, 1), tangentOn(at, arc, 0))) <= (last.bulge == 0 && arc.bulge == 0 ? bend : kink);
    }
    std::optional<Arc> joined(Point at, const Arc& arc)
    {
        constexpr double most = 0.73; // radians, a quarter of what it turns by: under half a circle, whose chord still says where it goes
        const Arc& last = track_.arcs.back();
        if (last.bulge == 0 && arc.bulge == 0)
            return Arc{arc.end, 0};
        const double angle = std::atan(last.bulge) + std::atan(arc.bulge);
        if (last.bulge * arc.bulge <= 0 || std::abs(angle) > most)
            return std::nullopt;
        const Arc one{arc.end, std::tan(angle)};
        const std::size_t known = seen_.size();
        see(at, arc);
        const Point centre = centreOf(before_, one);
        const double radius = radiusOf(before_, one);
        for (const Point p : seen_)
            if (std::abs(distance(p, centre) - radius) > tolerance_) {
                seen_.resize(known);
                return std::nullopt;
            }
        return one;
    }
    void see(Point at, const Arc& arc)
    {
        for (const double t : {0.25, 0.5, 0.75, 1.0})
            seen_.push_back(pointOn(at, arc, t));
    }
    Track& track_;
    Point before_; // where the last arc begins
    double tolerance_;
    Polyline seen_; // places of the line that the last arc stands for
};

// The part of an arc up to a fraction of it.
Arc upTo(Point from, const Arc& arc, double t) { return {pointOn(from, arc, t), arc.bulge == 0 ? 0 : std::tan(std::atan(arc.bulge) * t)}; }

} // namespace

double lengthOf(const Track& track)
{
    double sum = 0;
    track.each([&](Point from, const Arc& a) { sum += lengthOf(from, a); });
    return sum;
}

Polyline flatten(const Track& track, double tolerance)
{
    Polyline out = {track.start};
    track.each([&](Point from, const Arc& a) { flatten(from, a, tolerance, out); });
    return out;
}

Track trackOf(const Path& path, double tolerance)
{
    Track out{path.start, {}};
    Joiner joiner(out, tolerance / 4);
    for (const Arc& arc : arcsOf(path, tolerance * 0.75))
        joiner.add(arc);
    return out;
}

void overcut(Track& track, const Track& round, double way)
{
    Point from = round.start;
    for (const Arc& arc : round.arcs) {
        const double length = lengthOf(from, arc);
        if (way <= nothing)
            break;
        track.arcs.push_back(way >= length ? arc : upTo(from, arc, way / length));
        way -= length;
        from = arc.end;
    }
}

void leadInAlong(Track& track, const Track& round, double way)
{
    std::vector<Point> begins;
    round.each([&](Point from, const Arc&) { begins.push_back(from); });
    for (std::size_t k = round.arcs.size(); k-- > 0 && way > nothing;) {
        const Arc& arc = round.arcs[k];
        const double length = lengthOf(begins[k], arc), part = std::min(1.0, way / length);
        const double turn = std::atan(arc.bulge) * part;
        track.arcs.insert(track.arcs.begin(), {arc.end, arc.bulge == 0 ? 0 : std::tan(turn)});
        track.start = pointOn(begins[k], arc, 1 - part);
        way -= length;
    }
}

void addLeads(Track& track, double in, double out, bool wasteLeft, const std::function<bool(Point)>& clear)
{
    if (track.arcs.empty())
        return;
    const Point first = tangentOn(track.start, track.arcs.front(), 0);
    Point before = track.start;
    track.each([&](Point from, const Arc&) { before = from; });
    const Point last = tangentOn(before, track.arcs.back(), 1);
    const double corner = turned(last, first); // to the left is positive
    // At a corner that points into the waste both tangents lead into it.
    const bool straight = wasteLeft ? corner < -20 * radian : corner > 20 * radian;
    // `along` points from the line's start into the waste; a quarter round turns towards the waste's side.
    const auto lead = [&](double way, Point along) -> std::optional<Arc> {
        for (int tries = 0; tries < 3; ++tries, way /= 2) {
            Arc arc{track.start + along * way, 0};
            if (!straight) {
                const double radius = way * 2 / std::numbers::pi; // a quarter of it is as long as was asked
                const Point side = wasteLeft ? Point{-first.y, first.x} : Point{first.y, -first.x};
                const bool left = cross(along, side) > 0;
                arc = {track.start + (along + side) * radius, (left ? 1 : -1) * std::tan(std::numbers::pi / 8)};
            }
            bool free = true;
            for (int k = 2; k <= 8 && free; ++k) // nearer to the line no side of it can be told
                free = clear(pointOn(track.start, arc, k / 8.0));
            if (free)
                return arc;
        }
        return std::nullopt;
    };
    const auto begin = in > 0 ? lead(in, first * -1) : std::nullopt, end = out > 0 ? lead(out, straight ? last : first) : std::nullopt;
    if (end && distance(track.start, track.end()) < nothing)
        track.arcs.push_back(*end);
    if (begin) {
        track.arcs.insert(track.arcs.begin(), Arc{track.start, -begin->bulge});
        track.start = begin->end;
    }
}

Track ahead(const Track& track, double offset, double swivelFrom, Point& heading)
{
    if (offset <= 0 || track.arcs.empty())
        return track;
    Track out;
    out.start = track.start + heading * offset;
    const auto swivel = [&](Point tip, Point to) {
        const double by = turned(heading, to);
        // Turned about the tip; half a turn and more in two goes, so that the way round is told.
        if (std::abs(by) > swivelFrom * radian) {
            const int goes = std::abs(by) > 0.9 * std::numbers::pi ? 2 : 1;
            for (int k = 1; k <= goes; ++k)
                out.arcs.push_back({tip + Affine::turn(by * k / goes)(heading) * offset, std::tan(by / goes / 4)});
        } else if (distance(tip + heading * offset, tip + to * offset) > nothing)
            out.arcs.push_back({tip + to * offset, 0});
        heading = to;
    };
    track.each([&](Point from, const Arc& a) {
        swivel(from, tangentOn(from, a, 0));
        const Point tangent = tangentOn(from, a, 1);
        // A tip on a circle has its pivot on a wider one about the same middle, as far round.
        out.arcs.push_back({a.end + tangent * offset, a.bulge});
        heading = tangent;
    });
    return out;
}

Polyline trailing(const Track& track, double offset, double step, Point& heading)
{
    Point tip = track.start - heading * offset;
    Polyline out = {tip};
    track.each([&](Point from, const Arc& a) {
        const int steps = std::max(1, int(std::ceil(lengthOf(from, a) / step)));
        for (int k = 1; k <= steps; ++k) {
            const Point pivot = pointOn(from, a, double(k) / steps);
            if (offset > 0)
                heading = unit(pivot - tip);
            tip = pivot - heading * offset;
            out.push_back(tip);
        }
    });
    return out;
}

} // namespace yokai
