#include "path/crossings.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace yokai {

namespace {

bool crossing(Point a, Point b, Point c, Point d, Point& at)
{
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
    // A grid whose cells are about as large as the segments are long.
    double mean = length(line) / n;
    const double largest = std::max({box.width(), box.height(), 1e-9});
    mean = std::max({mean * 1.5, largest / 2000, 1e-9});
    const int w = int(box.width() / mean) + 1, h = int(box.height() / mean) + 1;
    struct Entry {
        std::uint32_t cell;
        int segment;
    };
    std::vector<Entry> entries;
    entries.reserve(std::size_t(n) * 3);
    for (int i = 0; i < n; ++i) {
        const Point a = line[std::size_t(i)], b = end(i);
        const int x0 = int((std::min(a.x, b.x) - box.x0) / mean), x1 = int((std::max(a.x, b.x) - box.x0) / mean);
        const int y0 = int((std::min(a.y, b.y) - box.y0) / mean), y1 = int((std::max(a.y, b.y) - box.y0) / mean);
        for (int y = y0; y <= std::min(y1, h - 1); ++y)
            for (int x = x0; x <= std::min(x1, w - 1); ++x)
                entries.push_back({std::uint32_t(y) * std::uint32_t(w) + std::uint32_t(x), i});
    }
    std::sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) { return a.cell != b.cell ? a.cell < b.cell : a.segment < b.segment; });
    for (std::size_t k = 0; k < entries.size() && out.size() < most; ++k)
        for (std::size_t m = k + 1; m < entries.size() && entries[m].cell == entries[k].cell; ++m) {
            const int i = entries[k].segment, j = entries[m].segment;
            if (j - i <= 1 || (i == 0 && j == n - 1))
                continue;
            Point at;
            if (crossing(line[std::size_t(i)], end(i), line[std::size_t(j)], end(j), at))
                out.push_back({i, j, at});
        }
    std::sort(out.begin(), out.end(), [](const SelfCrossing& a, const SelfCrossing& b) { return a.first != b.first ? a.first < b.first : a.second < b.second; });
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
