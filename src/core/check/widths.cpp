#include "check/widths.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace yokai {

namespace {

struct Narrow {
    int place;
    Trace::Ball ball;
};

// Places one after another, all of them narrow.
struct Narrowing {
    std::vector<Narrow> narrow;
    std::size_t same; // an earlier stretch of the same place, or this one

    const Narrow& narrowest() const
    {
        return *std::min_element(narrow.begin(), narrow.end(), [](const Narrow& a, const Narrow& b) { return a.ball.radius < b.ball.radius; });
    }
    double length() const
    {
        double sum = 0;
        for (std::size_t k = 1; k < narrow.size(); ++k)
            sum += distance(narrow[k].ball.centre, narrow[k - 1].ball.centre);
        return sum;
    }
    double middleWidth() const
    {
        std::vector<double> widths;
        for (const Narrow& n : narrow)
            widths.push_back(2 * n.ball.radius);
        std::nth_element(widths.begin(), widths.begin() + std::ptrdiff_t(widths.size() / 2), widths.end());
        return widths[widths.size() / 2];
    }
};

// `seen`: the least angle in which the sides are seen from the ball's centre, degrees.
std::vector<Narrowing> narrowingsOf(const Trace& trace, Facing side, double limit, double seen)
{
    const double facing = std::cos(seen * std::numbers::pi / 180);
    const int standsOut = side == Facing::Waste ? 1 : -1;
    const auto places = trace.places();
    std::vector<Narrowing> out;
    int before = -2;
    for (int k = 0; k < int(places.size()); ++k) {
        const Trace::Place& place = places[std::size_t(k)];
        if (place.fan != 0 && place.fan != standsOut)
            continue;
        const auto ball = trace.ballAt(k, side, limit / 2);
        if (!ball)
            continue;
        const Point a = place.at - ball->centre, b = places[std::size_t(ball->other)].at - ball->centre;
        if (dot(a, b) > facing * norm(a) * norm(b))
            continue;
        constexpr int missed = 2; // places between two of the same stretch
        if (out.empty() || k - before > missed + 1 || places[std::size_t(before)].path != place.path)
            out.push_back({{}, out.size()});
        out.back().narrow.push_back({k, *ball});
        before = k;
    }
    return out;
}

// Stretches that face each other, and the two ends of one that runs over a path's start, are one place.
void joinFacing(std::vector<Narrowing>& stretches, const Trace& trace)
{
    std::vector<std::size_t> of(trace.places().size(), stretches.size());
    for (std::size_t s = 0; s < stretches.size(); ++s)
        for (const Narrow& n : stretches[s].narrow)
            of[std::size_t(n.place)] = s;
    const auto root = [&](std::size_t s) {
        while (stretches[s].same != s)
            s = stretches[s].same;
        return s;
    };
    const auto join = [&](std::size_t a, std::size_t b) {
        if (a < stretches.size() && b < stretches.size())
            stretches[std::max(root(a), root(b))].same = std::min(root(a), root(b));
    };
    for (std::size_t s = 0; s < stretches.size(); ++s) {
        join(s, of[std::size_t(trace.before(stretches[s].narrow.front().place))]);
        for (const Narrow& n : stretches[s].narrow)
            for (const bool forward : {true, false}) {
                // A corner is several places.
                const Point at = trace.places()[std::size_t(n.ball.other)].at;
                int beside = n.ball.other;
                for (std::size_t k = 0; k < trace.places().size() && trace.places()[std::size_t(beside)].at == at; ++k) {
                    join(s, of[std::size_t(beside)]);
                    beside = forward ? trace.next(beside) : trace.before(beside);
                }
                join(s, of[std::size_t(beside)]);
            }
    }
    for (std::size_t s = 0; s < stretches.size(); ++s)
        stretches[s].same = root(s);
}

// Where the sides of a stretch come nearest to each other; none where they run on to a point.
std::optional<Fault> nearestSides(const Trace& trace, const Narrowing& stretch, double limit)
{
    constexpr double touching = 0.01; // mm: a crossing or a doubled line, which others find
    const Narrow& at = stretch.narrowest();
    const auto across = trace.narrowest(at.place, at.ball.other);
    if (!across || across->width() < touching || across->width() > limit)
        return std::nullopt;
    return Fault{across->middle(), across->width()};
}

} // namespace

Faults narrowPlaces(const Trace& trace, Facing side, double limit)
{
    constexpr double facing = 160;
    std::vector<Narrowing> stretches = narrowingsOf(trace, side, limit, facing);
    joinFacing(stretches, trace);
    // In limits. What falls out hangs together with the wider rest for longer than what stays holds.
    const double slow = side == Facing::Material ? 3 : 6;
    std::vector<std::optional<Fault>> found(stretches.size());
    const auto add = [&](std::size_t place, const Fault& fault) {
        if (!found[place] || fault.value < found[place]->value)
            found[place] = fault;
    };
    for (const Narrowing& stretch : stretches)
        if (const auto nearest = nearestSides(trace, stretch, limit))
            add(stretch.same, *nearest);
    for (const Narrowing& stretch : stretches)
        if (!found[stretch.same] && stretch.length() > slow * limit)
            add(stretch.same, {stretch.narrow[stretch.narrow.size() / 2].ball.centre, stretch.middleWidth()});
    Faults out;
    for (const auto& fault : found)
        if (fault)
            out.push_back(*fault);
    return out;
}

std::vector<Polyline> narrowMiddles(const Trace& trace, Facing side, double limit, Point at)
{
    // On to where it is wide enough, though the sides no longer face each other; not into corners.
    constexpr double facing = 100;
    std::vector<Narrowing> stretches = narrowingsOf(trace, side, limit, facing);
    joinFacing(stretches, trace);
    std::size_t same = stretches.size();
    double least = std::numeric_limits<double>::infinity();
    for (const Narrowing& stretch : stretches)
        for (const Narrow& n : stretch.narrow)
            if (const double away = distance(n.ball.centre, at); away < least) {
                least = away;
                same = stretch.same;
            }
    std::vector<Polyline> out;
    for (const Narrowing& stretch : stretches)
        if (stretch.same == same) {
            out.emplace_back();
            for (const Narrow& n : stretch.narrow)
                out.back().push_back(n.ball.centre);
        }
    return out;
}

} // namespace yokai
