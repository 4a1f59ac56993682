#include "formats/open_lines.h"

#include "path/cut.h"

#include <map>
#include <optional>

namespace yokai {

namespace {

constexpr double meeting = 0.002; // mm: ends no farther apart are one

class Ends {
public:
    explicit Ends(const CutItems& items)
    {
        for (std::size_t i = 0; i < items.size(); ++i)
            if (!items[i].path.closed)
                for (const Point p : {items[i].path.start, items[i].path.segments.back().end})
                    cells_.emplace(cellOf(p), std::pair(i, p));
    }
    // The one other open line that has an end here; none where several have.
    std::optional<std::size_t> other(Point p, std::size_t self, const CutItems& items, const std::vector<bool>& gone) const
    {
        std::optional<std::size_t> found;
        const auto [x, y] = cellOf(p);
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx) {
                const auto [first, last] = cells_.equal_range({x + dx, y + dy});
                for (auto it = first; it != last; ++it) {
                    const auto& [i, q] = it->second;
                    if (i == self || gone[i] || items[i].kind != items[self].kind || distance(p, q) > meeting || found == i)
                        continue;
                    if (found)
                        return std::nullopt;
                    found = i;
                }
            }
        return found;
    }

private:
    using Cell = std::pair<long, long>;
    static Cell cellOf(Point p) { return {long(std::floor(p.x / meeting)), long(std::floor(p.y / meeting))}; }
    std::multimap<Cell, std::pair<std::size_t, Point>> cells_;
};

void append(Path& path, const Path& more)
{
    path.segments.insert(path.segments.end(), more.segments.begin(), more.segments.end());
    path.corners.resize(path.segments.size() - more.segments.size(), true);
    path.corners.insert(path.corners.end(), more.corners.begin(), more.corners.end());
    path.corners.resize(path.segments.size(), true);
}

} // namespace

void joinOpenLines(CutItems& items)
{
    std::erase_if(items, [](const CutItem& item) { return item.path.segments.empty(); });
    const Ends ends(items);
    std::vector<bool> gone(items.size(), false);
    for (std::size_t i = 0; i < items.size(); ++i) {
        Path& path = items[i].path;
        if (path.closed || gone[i])
            continue;
        // On at its end, then turned round and on at its start.
        for (int side = 0; side < 2; ++side) {
            while (distance(path.start, path.segments.back().end) > meeting) {
                const Point end = path.segments.back().end;
                const auto next = ends.other(end, i, items, gone);
                if (!next)
                    break;
                gone[*next] = true;
                const Path& other = items[*next].path;
                append(path, distance(other.start, end) <= meeting ? other : reversed(other));
            }
            path = reversed(path);
        }
        if (path.segments.size() > 1 && distance(path.start, path.segments.back().end) <= meeting) {
            path.segments.back().end = path.start;
            path.closed = true;
        }
    }
    std::size_t kept = 0;
    for (std::size_t i = 0; i < items.size(); ++i)
        if (!gone[i] && kept++ != i)
            items[kept - 1] = std::move(items[i]);
    items.resize(kept);
}

} // namespace yokai
