#include "check/trace.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace yokai {

namespace {

constexpr double corner = 10 * std::numbers::pi / 180; // radians: a turn from which a place is seen from all round

Point normalOf(Point along)
{
    const Point u = unit(along);
    return {u.y, -u.x};
}

} // namespace

Trace::Trace(const PathSet& paths, double spacing, double reach) : spacing_(spacing), cell_(reach)
{
    for (std::size_t k = 0; k < paths.size(); ++k)
        add(withoutPoints(paths[k]), spacing);
    for (const Place& p : places_)
        box_.add(p.at);
    if (places_.empty())
        return;
    // No more cells than a few a place, however far apart the paths lie.
    constexpr double mostCells = 4;
    const double area = box_.width() * box_.height();
    cell_ = std::max(cell_, std::sqrt(area / (mostCells * double(places_.size()) + 1)));
    across_ = int(box_.width() / cell_) + 1;
    down_ = int(box_.height() / cell_) + 1;
    begin_.assign(std::size_t(across_) * std::size_t(down_) + 1, 0);
    for (const Place& p : places_)
        ++begin_[cellOf(p.at) + 1];
    for (std::size_t c = 1; c < begin_.size(); ++c)
        begin_[c] += begin_[c - 1];
    order_.resize(places_.size());
    std::vector<int> at(begin_.begin(), begin_.end() - 1);
    for (std::size_t k = 0; k < places_.size(); ++k)
        order_[std::size_t(at[cellOf(places_[k].at)]++)] = int(k);
}

std::size_t Trace::cellOf(Point p) const
{
    return std::size_t((p.y - box_.y0) / cell_) * std::size_t(across_) + std::size_t((p.x - box_.x0) / cell_);
}

// A corner as one place seen in several directions.
void Trace::fan(Point at, Point in, Point out, double along, int path)
{
    const double turn = std::atan2(cross(in, out), dot(in, out));
    const int steps = int(std::abs(turn) / corner) + 1;
    for (int k = 0; k <= steps; ++k)
        places_.push_back({at, Affine::turn(turn * k / steps)(normalOf(in)), along, path, turn > 0 ? 1 : -1});
}

void Trace::add(const Path& path, double spacing)
{
    const int id = int(ranges_.size()), first = int(places_.size());
    const std::size_t n = path.segments.size();
    Point from = path.start;
    double along = 0;
    for (std::size_t k = 0; k < n; ++k) {
        const Segment& s = path.segments[k];
        const double control = s.line ? distance(from, s.end) : distance(from, s.c1) + distance(s.c1, s.c2) + distance(s.c2, s.end);
        const int steps = std::max(1, int(std::ceil(control / spacing)));
        Point last = from;
        for (int i = 0; i < steps; ++i) {
            const double t = double(i) / steps;
            const Point p = pointOn(from, s, t);
            along += distance(last, p);
            last = p;
            const Point tangent = tangentOn(from, s, t);
            if (i == 0 && (k > 0 || path.closed)) {
                const Segment& previous = path.segments[(k + n - 1) % n];
                const Point start = k > 0 ? (k > 1 ? path.segments[k - 2].end : path.start) : (n > 1 ? path.segments[n - 2].end : path.start);
                const Point in = tangentOn(start, previous, 1);
                if (std::abs(std::atan2(cross(in, tangent), dot(in, tangent))) > corner) {
                    fan(p, in, tangent, along, id);
                    continue;
                }
            }
            places_.push_back({p, normalOf(tangent), along, id, 0});
        }
        along += distance(last, s.end);
        from = s.end;
    }
    if (!path.closed && n > 0)
        places_.push_back({from, normalOf(tangentOn(n > 1 ? path.segments[n - 2].end : path.start, path.segments.back(), 1)), along, id, 0});
    ranges_.push_back({first, int(places_.size()), along, path.closed});
}

int Trace::next(int k) const
{
    const Range& r = ranges_[std::size_t(places_[std::size_t(k)].path)];
    return k + 1 < r.end ? k + 1 : r.closed ? r.first : k;
}

int Trace::before(int k) const
{
    const Range& r = ranges_[std::size_t(places_[std::size_t(k)].path)];
    return k > r.first ? k - 1 : r.closed ? r.end - 1 : k;
}

double Trace::apart(int a, int b) const
{
    const Place &p = places_[std::size_t(a)], &q = places_[std::size_t(b)];
    if (p.path != q.path)
        return std::numeric_limits<double>::infinity();
    const Range& r = ranges_[std::size_t(p.path)];
    const double d = std::abs(p.along - q.along);
    return r.closed ? std::min(d, r.length - d) : d;
}

// By shrinking: of the places within the ball the nearest to its centre bounds the next one
// (Ma, Bae and Choi, 3D medial axis point approximation using nearest neighbors and the normal
// field, The Visual Computer 2012).
std::optional<Trace::Ball> Trace::ballAt(int k, Facing side, double most) const
{
    const Place& from = places_[std::size_t(k)];
    const Point normal = side == Facing::Material ? from.normal * -1 : from.normal;
    Ball ball{most, from.at + normal * most, -1};
    constexpr int rounds = 12; // it halves or ends
    constexpr double nothing = 1e-9;
    for (int round = 0; round < rounds; ++round) {
        double nearest = ball.radius * ball.radius * (1 - 1e-6);
        int found = -1;
        const auto column = [&](double x) { return std::clamp(int((x - box_.x0) / cell_), 0, across_ - 1); };
        const auto row = [&](double y) { return std::clamp(int((y - box_.y0) / cell_), 0, down_ - 1); };
        const int x0 = column(ball.centre.x - ball.radius), x1 = column(ball.centre.x + ball.radius);
        const int y0 = row(ball.centre.y - ball.radius), y1 = row(ball.centre.y + ball.radius);
        for (int y = y0; y <= y1; ++y) {
            const std::size_t cells = std::size_t(y) * std::size_t(across_);
            for (int i = begin_[cells + std::size_t(x0)]; i < begin_[cells + std::size_t(x1) + 1]; ++i) {
                const int other = order_[std::size_t(i)];
                const Point d = places_[std::size_t(other)].at - ball.centre;
                if (const double squared = dot(d, d); squared < nearest && other != k) {
                    nearest = squared;
                    found = other;
                }
            }
        }
        if (found < 0)
            break;
        const Point way = places_[std::size_t(found)].at - from.at;
        const double ahead = dot(way, normal);
        if (ahead <= nothing)
            break;
        ball.radius = dot(way, way) / (2 * ahead);
        ball.centre = from.at + normal * ball.radius;
        ball.other = found;
    }
    if (ball.other < 0)
        return std::nullopt;
    return ball;
}

Point Trace::onChord(Point p, int a, int b) const
{
    const Point from = places_[std::size_t(a)].at, d = places_[std::size_t(b)].at - from;
    const double squared = dot(d, d);
    return from + d * (squared > 0 ? std::clamp(dot(p - from, d) / squared, 0.0, 1.0) : 0.0);
}

Point Trace::footAt(Point p, int place) const
{
    const Point a = onChord(p, before(place), place), b = onChord(p, place, next(place));
    return distance(p, a) < distance(p, b) ? a : b;
}

// The nearest point of the path to p, walking from a place on it.
Trace::Foot Trace::footNear(Point p, int place) const
{
    constexpr int farthest = 64; // places
    Foot best{places_[std::size_t(place)].at, place};
    double least = distance(p, best.at);
    for (const bool forward : {true, false}) {
        int at = place, since = 0;
        for (int step = 0; step < farthest && since < 4; ++step) {
            const int to = forward ? next(at) : before(at);
            if (to == at)
                break;
            const Point foot = onChord(p, at, to);
            const double d = distance(p, foot);
            ++since; // over a small rise
            if (d < least - 1e-12) {
                least = d;
                best = {foot, to};
                since = 0;
            }
            at = to;
        }
    }
    return best;
}

std::optional<Trace::Across> Trace::narrowest(int a, int b) const
{
    constexpr int rounds = 100;
    constexpr double still = 3e-4; // mm a round: between round sides the way to go shrinks with each
    Foot p{places_[std::size_t(a)].at, a}, q{places_[std::size_t(b)].at, b};
    for (int round = 0; round < rounds; ++round) {
        const Foot to = footNear(p.at, q.place), back = footNear(to.at, p.place);
        const bool done = distance(to.at, q.at) < still && distance(back.at, p.at) < still;
        q = to;
        p = back;
        if (done)
            return widensFrom(p, q) ? std::optional(Across{p.at, q.at}) : std::nullopt;
    }
    return std::nullopt;
}

// Whether it is nowhere narrower a little to either side. In a slow wedge a way across seems to stay, too.
bool Trace::widensFrom(const Foot& p, const Foot& q) const
{
    constexpr int little = 2;    // places
    constexpr double slow = 0.01; // of the way aside: what is narrower by less is a strip
    const double width = distance(p.at, q.at);
    for (const bool forward : {true, false}) {
        int at = p.place;
        for (double aside = 0; aside < little * spacing_;) {
            const int to = forward ? next(at) : before(at);
            if (to == at)
                break;
            aside += distance(places_[std::size_t(at)].at, places_[std::size_t(to)].at);
            at = to;
        }
        const Point beside = places_[std::size_t(at)].at;
        if (distance(beside, footNear(beside, q.place).at) < width - slow * distance(beside, p.at))
            return false;
    }
    return true;
}

} // namespace yokai
