#include "check/widen.h"

#include "check/widths.h"
#include "path/boolean.h"
#include "path/cut.h"
#include "path/swept.h"

#include <algorithm>
#include <limits>

namespace yokai {

Paths widening(const std::shared_ptr<const Paths>& paths, Facing side, double limit, Point at)
{
    constexpr double closely = 10; // as the check looks
    const auto near = nearestPlace(*paths, at);
    if (!near)
        return {};
    for (const PathSet& set : together(paths, limit)) {
        if (std::find(set.which.begin(), set.which.end(), near->path) == set.which.end())
            continue;
        const std::vector<Polyline> middles = narrowMiddles(Trace(set, limit / closely, limit), side, limit, at);
        Paths own;
        for (std::size_t k = 0; k < set.size(); ++k)
            own.push_back(set[k]);
        // A little more, so that the check is content. Where the strip would touch a side without crossing it, or leave a
        // sliver beside it, a little more still; else what leaves the fewest.
        Paths best;
        std::size_t least = std::numeric_limits<std::size_t>::max();
        for (const double wider : {1.04, 1.08, 1.13, 1.2}) {
            Paths strip = swept(middles, wider * limit / 2);
            const auto whole = strip.empty() ? std::nullopt : combined(own, strip, Combine::Unite);
            if (!whole)
                continue;
            const auto shared = std::make_shared<const Paths>(*whole);
            std::size_t left = 0;
            for (const PathSet& group : together(shared, limit))
                left += narrowPlaces(Trace(group, limit / closely, limit), side, limit).size();
            if (left < least) {
                least = left;
                best = std::move(strip);
            }
            if (left == 0)
                break;
        }
        return best;
    }
    return {};
}

} // namespace yokai
