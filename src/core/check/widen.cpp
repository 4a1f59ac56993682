#include "check/widen.h"

#include "check/widths.h"
#include "path/cut.h"
#include "path/swept.h"

#include <algorithm>
#include <map>
#include <optional>

namespace yokai {

namespace {

// How many places of a kind are left with the strip; none where it cannot be put together.
std::optional<std::size_t> leftWith(const Paths& paths, const Paths& strip, Facing side, double limit, double spacing, Combine how)
{
    const auto whole = combined(paths, strip, how);
    if (!whole)
        return std::nullopt;
    std::size_t left = 0;
    for (const PathSet& group : together(std::make_shared<const Paths>(*whole), limit))
        left += narrowPlaces(Trace(group, spacing, limit), side, limit).size();
    return left;
}

} // namespace

Paths widening(const std::shared_ptr<const Paths>& paths, Facing side, double limit, std::span<const Point> at, Combine how, const Work& work)
{
    constexpr double closely = 10; // as the check looks
    std::vector<Polyline> middles;
    Paths touched; // the groups of paths in which they lie
    std::multimap<std::size_t, Point> byPath;
    for (const Point p : at)
        if (const auto near = nearestPlace(*paths, p))
            byPath.emplace(near->path, p);
    for (const PathSet& set : together(paths, limit)) {
        std::vector<Point> here;
        for (const std::size_t path : set.which)
            for (auto [from, end] = byPath.equal_range(path); from != end; ++from)
                here.push_back(from->second);
        if (here.empty())
            continue;
        work.check();
        const Trace trace(set, limit / closely, limit);
        for (const Point p : here)
            for (Polyline& middle : narrowMiddles(trace, side, limit, p))
                middles.push_back(std::move(middle));
        for (std::size_t k = 0; k < set.size(); ++k)
            touched.push_back(set[k]);
    }
    // A little more, so that the check is content. Where a strip would touch a side without crossing it, or leave a
    // sliver beside it, a little more still; else what leaves the fewest.
    Paths best;
    std::optional<std::size_t> least;
    for (const double wider : {1.04, 1.08, 1.13, 1.2, 1.3}) {
        work.check();
        Paths strip = swept(middles, wider * limit / 2, work);
        const auto left = strip.empty() ? std::nullopt : leftWith(touched, strip, side, limit, limit / closely, how);
        if (!left || (least && *left >= *least))
            continue;
        least = left;
        best = std::move(strip);
        if (*left == 0)
            break;
    }
    return best;
}

} // namespace yokai
