#include "check/overlaps.h"

#include "check/trace.h"
#include "path/crossings.h"

#include <algorithm>
#include <cmath>

namespace yokai {

namespace {

constexpr double onEachOther = 0.02; // mm: as exactly as lines are fitted
constexpr double onePlace = 0.1;     // mm

Faults crossingsIn(const PathSet& paths)
{
    constexpr double flatness = 0.005;
    std::vector<Polyline> lines;
    std::vector<bool> closed;
    for (std::size_t k = 0; k < paths.size(); ++k) {
        lines.push_back(flatten(paths[k], flatness));
        closed.push_back(paths[k].closed);
    }
    Faults out;
    for (const LineCrossing& c : crossingsAmong(lines, closed))
        if (std::none_of(out.begin(), out.end(), [&](const Fault& f) { return distance(f.at, c.at) < onePlace; }))
            out.push_back({c.at, 0, c.first});
    return out;
}

// What runs beside one place of a path, along it.
struct Beside {
    int path = -1;
    Point foot;
    double away = 0;
};

// A stretch of places beside the same path.
struct Alongside {
    int first, last; // places
    int other;
    double length = 0;
    double least;
    Point at; // where it comes nearest

    Fault by(const Trace& trace, double value) const { return {at, value, trace.places()[std::size_t(first)].path}; }
};

// Each stretch of a path along which `beside` finds another one.
template <class Find> std::vector<Alongside> alongside(const Trace& trace, Find beside)
{
    const auto places = trace.places();
    std::vector<Alongside> out;
    const auto join = [](Alongside& to, const Alongside& next) {
        if (next.least < to.least) {
            to.least = next.least;
            to.at = next.at;
        }
        to.length += next.length;
        to.last = next.last;
    };
    for (int k = 0; k < int(places.size()); ++k)
        if (const std::optional<Beside> other = beside(k)) {
            const Point at = places[std::size_t(k)].at;
            Alongside here{k, k, other->path, 0, other->away, mix(at, other->foot, 0.5)};
            if (!out.empty() && out.back().other == other->path && out.back().last + 1 == k && trace.before(k) == k - 1) {
                here.length = distance(at, places[std::size_t(k - 1)].at);
                join(out.back(), here);
            } else {
                out.push_back(here);
            }
        }
    // One that runs over its path's start.
    for (std::size_t a = 0; a < out.size(); ++a)
        for (std::size_t b = 0; b < a; ++b)
            if (out[a].other == out[b].other && trace.next(out[a].last) == out[b].first) {
                join(out[a], out[b]);
                out.erase(out.begin() + std::ptrdiff_t(b));
                --a;
                break;
            }
    return out;
}

// The nearest stretch that runs along the path at a place, among those that `may` be it.
template <class May> std::optional<Beside> nearestBeside(const Trace& trace, int k, double within, May may)
{
    const Trace::Place& place = trace.places()[std::size_t(k)];
    constexpr double along = 0.2; // the sine between two that run beside each other, at most
    Beside best{-1, {}, within};
    trace.eachNear(place.at, [&](int o) {
        const Trace::Place& other = trace.places()[std::size_t(o)];
        if (std::abs(cross(place.normal, other.normal)) > along || !may(o))
            return;
        const Point foot = trace.footAt(place.at, o);
        if (const double away = distance(place.at, foot); away < best.away)
            best = {other.path, foot, away};
    });
    return best.path >= 0 ? std::optional(best) : std::nullopt;
}

} // namespace

Overlaps overlapsOf(const PathSet& paths, const std::vector<int>& line, double gap)
{
    Overlaps out;
    out.crossings = crossingsIn(paths);
    constexpr double apart = 0.25, shortest = 1; // mm: between places; of a stretch that is worth a word
    const Trace trace(paths, apart, std::max(gap, apart) + apart);
    const auto places = trace.places();
    const auto lineOf = [&](int k) { return line[std::size_t(places[std::size_t(k)].path)]; };
    // Of two that lie on each other the later one is the double.
    const auto doubles = [&](int k) {
        return nearestBeside(trace, k, onEachOther, [&](int o) {
            const int own = places[std::size_t(k)].path, other = places[std::size_t(o)].path;
            return other < own || (other == own && o < k && trace.apart(o, k) > shortest);
        });
    };
    for (const Alongside& a : alongside(trace, doubles))
        if (a.length >= shortest)
            out.doubled.push_back(a.by(trace, a.length));
    const auto others = [&](int k) { return nearestBeside(trace, k, gap, [&](int o) { return lineOf(o) < lineOf(k); }); };
    for (const Alongside& a : alongside(trace, others))
        if (a.least > onEachOther)
            out.close.push_back(a.by(trace, a.least));
    return out;
}

} // namespace yokai
