#include "path/crossings.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace yokai {

namespace {

bool crossing(Point a, Point b, Point c, Point d, Point& at)
{
    if (std::max(a.x, b.x) < std::min(c.x, d.x) || std::max(c.x, d.x) < std::min(a.x, b.x) || std::max(a.y, b.y) < std::min(c.y, d.y) ||
        std::max(c.y, d.y) < std::min(a.y, b.y))
        return false;
    const Point r = b - a, s = d - c;
    const double k = cross(r, s);
    if (k == 0)
        return false;
    const double t = cross(c - a, s) / k, u = cross(c - a, r) / k;
    if (t < 0 || t > 1 || u < 0 || u > 1)
        return false;
    at = a + r * t;
    return true;
}

} // namespace

std::vector<SelfCrossing> selfCrossings(std::span<const Point> line, std::size_t most)
{
    std::vector<SelfCrossing> out;
    const int n = int(line.size());
    if (n < 4)
        return out;
    const auto end = [&](int i) { return line[std::size_t(i + 1 == n ? 0 : i + 1)]; };
    const Rect box = bounds(line);
    // A grid with about as many cells as the line has segments; each cell lists those of the segments so far.
    const double side =
        std::max({1.5 * length(line) / n, std::sqrt(box.width() * box.height() / (4.0 * n)), std::max(box.width(), box.height()) / 30'000, 1e-9});
    const double scale = 1 / side;
    const int w = int(box.width() * scale) + 1, h = int(box.height() * scale) + 1;
    struct Cell {
        int x, y;
    };
    const auto cellOf = [&](Point p) { return Cell{std::min(w - 1, int((p.x - box.x0) * scale)), std::min(h - 1, int((p.y - box.y0) * scale))}; };
    struct Entry {
        int segment, before; // in the same cell; -1: none
    };
    std::vector<int> last(std::size_t(w) * std::size_t(h), -1); // entry of each cell
    std::vector<Entry> entries;
    entries.reserve(2 * std::size_t(n));
    const auto enter = [&](std::size_t cell, int i) {
        for (int k = last[cell]; k >= 0; k = entries[std::size_t(k)].before) {
            const int j = entries[std::size_t(k)].segment;
            Point at;
            if (i - j > 1 && !(j == 0 && i == n - 1) && crossing(line[std::size_t(j)], end(j), line[std::size_t(i)], end(i), at))
                out.push_back({j, i, at});
        }
        entries.push_back({i, last[cell]});
        last[cell] = int(entries.size()) - 1;
    };
    Cell from = cellOf(line[0]);
    for (int i = 0; i < n && out.size() < most; ++i) {
        const Cell to = cellOf(end(i));
        for (int y = std::min(from.y, to.y); y <= std::max(from.y, to.y); ++y)
            for (int x = std::min(from.x, to.x); x <= std::max(from.x, to.x); ++x)
                enter(std::size_t(y) * std::size_t(w) + std::size_t(x), i);
        from = to;
    }
    std::sort(out.begin(), out.end(),
              [](const SelfCrossing& a, const SelfCrossing& b) { return a.first != b.first ? a.first < b.first : a.second < b.second; });
    out.erase(std::unique(out.begin(), out.end(), [](const SelfCrossing& a, const SelfCrossing& b) { return a.first == b.first && a.second == b.second; }),
              out.end());
    return out;
}

bool cutLoops(Polyline& line, std::vector<unsigned char>& tags)
{
    for (int round = 0; round < 8; ++round) {
        const auto crossings = selfCrossings(line, 4096);
        if (crossings.empty())
            return true;
        const int n = int(line.size());
        // Points first+1 .. second lie on one side of a crossing, the rest on the other. Small
        // loops are all cut in one pass; one that holds more than half waits for its turn alone.
        Polyline kept;
        std::vector<unsigned char> keptTags;
        const auto copy = [&](int from, int to) {
            kept.insert(kept.end(), line.begin() + from, line.begin() + to);
            keptTags.insert(keptTags.end(), tags.begin() + from, tags.begin() + to);
        };
        int done = 0;
        for (const auto& [first, second, at] : crossings) {
            if (first + 1 < done || second - first > n / 2)
                continue;
            copy(done, first + 1);
            kept.push_back(at);
            keptTags.push_back(1);
            done = second + 1;
        }
        if (done == 0) {
            const auto& [first, second, at] = crossings.front();
            copy(first + 1, second + 1);
            kept.push_back(at);
            keptTags.push_back(1);
        } else {
            copy(done, n);
        }
        line = std::move(kept);
        tags = std::move(keptTags);
    }
    return selfCrossings(line, 1).empty();
}

} // namespace yokai
