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
    // A grid with about as many cells as the line has segments; each cell lists its own, in order.
    const double side =
        std::max({1.5 * length(line) / n, std::sqrt(box.width() * box.height() / (4.0 * n)), std::max(box.width(), box.height()) / 30'000, 1e-9});
    const double scale = 1 / side;
    const int w = int(box.width() * scale) + 1, h = int(box.height() * scale) + 1;
    const auto eachCell = [&](int i, auto&& visit) {
        const Point a = line[std::size_t(i)], b = end(i);
        const int x0 = int((std::min(a.x, b.x) - box.x0) * scale), x1 = std::min(w - 1, int((std::max(a.x, b.x) - box.x0) * scale));
        const int y0 = int((std::min(a.y, b.y) - box.y0) * scale), y1 = std::min(h - 1, int((std::max(a.y, b.y) - box.y0) * scale));
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x)
                visit(std::size_t(y) * std::size_t(w) + std::size_t(x));
    };
    std::vector<int> begin(std::size_t(w) * std::size_t(h) + 2, 0); // of each cell, two places on while they are counted
    for (int i = 0; i < n; ++i)
        eachCell(i, [&](std::size_t cell) { ++begin[cell + 2]; });
    for (std::size_t c = 2; c < begin.size(); ++c)
        begin[c] += begin[c - 1];
    std::vector<int> segments(std::size_t(begin.back()));
    for (int i = 0; i < n; ++i)
        eachCell(i, [&](std::size_t cell) { segments[std::size_t(begin[cell + 1]++)] = i; });
    for (std::size_t cell = 0; cell + 2 < begin.size() && out.size() < most; ++cell)
        for (int k = begin[cell]; k < begin[cell + 1]; ++k)
            for (int m = k + 1; m < begin[cell + 1]; ++m) {
                const int i = segments[std::size_t(k)], j = segments[std::size_t(m)];
                if (j - i <= 1 || (i == 0 && j == n - 1))
                    continue;
                Point at;
                if (crossing(line[std::size_t(i)], end(i), line[std::size_t(j)], end(j), at))
                    out.push_back({i, j, at});
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
