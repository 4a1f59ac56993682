#include "check/widen.h"

#include "check/widths.h"
#include "path/cut.h"
#include "path/swept.h"

#include <algorithm>

namespace yokai {

Paths widening(const std::shared_ptr<const Paths>& paths, Facing side, double limit, Point at)
{
    constexpr double closely = 10, wider = 1.04; // as the check looks; so that it is content
    const auto near = nearestPlace(*paths, at);
    if (!near)
        return {};
    for (const PathSet& set : together(paths, limit)) {
        if (std::find(set.which.begin(), set.which.end(), near->path) == set.which.end())
            continue;
        const std::vector<Polyline> middles = narrowMiddles(Trace(set, limit / closely, limit), side, limit, at);
        return swept(middles, wider * limit / 2);
    }
    return {};
}

} // namespace yokai
