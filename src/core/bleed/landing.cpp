#include "bleed/landing.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <random>

namespace yokai {

namespace {

constexpr double between = 0.25; // mm, from one looked at place of a line to the next
constexpr double flat = 0.01;    // mm

std::vector<Point> placesOf(const Paths& lines)
{
    std::vector<Point> out;
    for (const Path& path : lines) {
        const Polyline points = flatten(path, flat);
        for (std::size_t k = 0; k < points.size(); ++k) {
            const Point a = points[k], b = points[(k + 1) % points.size()];
            const int parts = std::max(1, int(distance(a, b) / between));
            for (int i = 0; i < parts; ++i)
                out.push_back(mix(a, b, double(i) / parts));
        }
    }
    return out;
}

// What counts as a fault of a cut that is off.
struct Wanted {
    bool border = true; // between the artwork and the cut: the cut may not enter the artwork
    bool cover = true;  // no bare paper within the cut; else a rim of it is meant
};

Landing measured(const std::vector<Point>& places, Wanted wanted, const KeptEdge& kept, double reach, Point by)
{
    Landing out{by};
    for (const Point p : places) {
        const double away = kept.distanceTo(p + by);
        if (wanted.cover)
            out.paper = std::max(out.paper, away - reach);
        if (wanted.border)
            out.artwork = std::max(out.artwork, -away);
    }
    return out;
}

Wanted wantedOf(const std::vector<Point>& places, const KeptEdge& kept, double reach)
{
    constexpr double barely = 0.05; // mm
    Wanted out;
    for (const Point p : places) {
        const double away = kept.distanceTo(p);
        out.border = out.border && away > barely;
        out.cover = out.cover && away - reach < barely;
    }
    return out;
}

} // namespace

Landing landingOf(const Paths& lines, const KeptEdge& kept, double reach, Point by)
{
    const std::vector<Point> places = placesOf(lines);
    return measured(places, wantedOf(places, kept, reach), kept, reach, by);
}

Landing worstLanding(const Paths& lines, const KeptEdge& kept, double reach, double drift, int tries, std::uint64_t seed)
{
    const std::vector<Point> places = placesOf(lines);
    const Wanted wanted = wantedOf(places, kept, reach);
    // A small way changes a distance by what of it leads straight away from the edge; only the worst is measured.
    std::vector<KeptEdge::Nearest> nearest;
    for (const Point p : places)
        nearest.push_back(kept.nearest(p));
    std::mt19937_64 random(seed);
    const auto unit = [&] { return double(random() >> 11) * 0x1p-53; };
    Point worst;
    double most = -std::numeric_limits<double>::infinity();
    for (int k = 0; k < tries; ++k) {
        const double far = drift * std::sqrt(unit()), heading = 2 * std::numbers::pi * unit();
        const Point by{far * std::cos(heading), far * std::sin(heading)};
        double bad = -std::numeric_limits<double>::infinity();
        for (const KeptEdge::Nearest& n : nearest) {
            const double away = n.away + dot(by, n.out);
            bad = std::max({bad, wanted.cover ? away - reach : bad, wanted.border ? -away : bad});
        }
        if (bad > most) {
            most = bad;
            worst = by;
        }
    }
    return measured(places, wanted, kept, reach, worst);
}

} // namespace yokai
