#include "check/faults.h"

#include <algorithm>
#include <numeric>

namespace yokai {

void PathSet::digestTo(Digest& digest) const
{
    digest.add(which.size());
    for (std::size_t k = 0; k < size(); ++k) {
        const Path& path = (*this)[k];
        digest.add(path.closed).add(path.start).add(path.segments.size());
        for (std::size_t s = 0; s < path.segments.size(); ++s) {
            const Segment& segment = path.segments[s];
            digest.add(segment.c1).add(segment.c2).add(segment.end).add(segment.line).add(bool(path.corners[s]));
        }
    }
}

std::vector<PathSet> singly(const std::shared_ptr<const Paths>& paths)
{
    std::vector<PathSet> out;
    for (std::size_t k = 0; k < paths->size(); ++k)
        out.push_back({paths, {k}});
    return out;
}

std::vector<PathSet> together(const std::shared_ptr<const Paths>& paths, double reach)
{
    const std::size_t n = paths->size();
    std::vector<Rect> boxes;
    for (const Path& path : *paths)
        boxes.push_back(bounds(path).grown(reach / 2));
    std::vector<std::size_t> order(n), group(n);
    std::iota(order.begin(), order.end(), 0);
    std::iota(group.begin(), group.end(), 0);
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return boxes[a].x0 < boxes[b].x0; });
    const auto root = [&](std::size_t k) {
        while (group[k] != k)
            k = group[k] = group[group[k]];
        return k;
    };
    std::vector<std::size_t> open; // those that reach as far as the present left side
    for (const std::size_t k : order) {
        std::erase_if(open, [&](std::size_t o) { return boxes[o].x1 < boxes[k].x0; });
        for (const std::size_t o : open)
            if (boxes[o].overlaps(boxes[k]))
                group[std::max(root(o), root(k))] = std::min(root(o), root(k));
        open.push_back(k);
    }
    std::vector<PathSet> out;
    std::vector<std::size_t> at(n, n);
    for (std::size_t k = 0; k < n; ++k) {
        const std::size_t r = root(k);
        if (at[r] == n) {
            at[r] = out.size();
            out.push_back({paths, {}});
        }
        out[at[r]].which.push_back(k);
    }
    return out;
}

} // namespace yokai
