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

// Of n segments from(i) to(i), those that cross each other but for pairs that are `joined`. A grid has about as
// many cells as there are segments; each cell lists those of the segments so far.
template <class From, class To, class Joined>
std::vector<SelfCrossing> crossingsOf(int n, const Rect& box, double length, From from, To to, Joined joined, std::size_t most)
{
    std::vector<SelfCrossing> out;
    const double side = std::max({1.5 * length / n, std::sqrt(box.width() * box.height() / (4.0 * n)), std::max(box.width(), box.height()) / 30'000, 1e-9});
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
            if (!joined(j, i) && crossing(from(j), to(j), from(i), to(i), at))
                out.push_back({j, i, at});
        }
        entries.push_back({i, last[cell]});
        last[cell] = int(entries.size()) - 1;
    };
    for (int i = 0; i < n && out.size() < most; ++i) {
        const Cell a = cellOf(from(i)), b = cellOf(to(i));
        for (int y = std::min(a.y, b.y); y <= std::max(a.y, b.y); ++y)
            for (int x = std::min(a.x, b.x); x <= std::max(a.x, b.x); ++x)
                enter(std::size_t(y) * std::size_t(w) + std::size_t(x), i);
    }
    std::sort(out.begin(), out.end(),
              [](const SelfCrossing& a, const SelfCrossing& b) { return a.first != b.first ? a.first < b.first : a.second < b.second; });
    out.erase(std::unique(out.begin(), out.end(), [](const SelfCrossing& a, const SelfCrossing& b) { return a.first == b.first && a.second == b.second; }),
              out.end());
    return out;
}

} // namespace

std::vector<SelfCrossing> selfCrossings(std::span<const Point> line, std::size_t most)
{
    const int n = int(line.size());
    if (n < 4)
        return {};
    return crossingsOf(
        n, bounds(line), length(line), [&](int i) { return line[std::size_t(i)]; }, [&](int i) { return line[std::size_t(i + 1 == n ? 0 : i + 1)]; },
        [&](int j, int i) { return i - j <= 1 || (j == 0 && i == n - 1); }, most);
}

std::vector<LineCrossing> crossingsAmong(std::span<const Polyline> lines, const std::vector<bool>& closed, std::size_t most)
{
    struct Piece {
        int line, at;
    };
    std::vector<Piece> pieces;
    Rect box = Rect::nothing();
    double whole = 0;
    for (std::size_t l = 0; l < lines.size(); ++l) {
        const int n = int(lines[l].size()) - (closed[l] ? 0 : 1);
        for (int k = 0; k < n; ++k)
            pieces.push_back({int(l), k});
        box.add(bounds(lines[l]));
        whole += length(lines[l]);
    }
    if (pieces.empty())
        return {};
    const auto point = [&](const Piece& p, int on) {
        const Polyline& line = lines[std::size_t(p.line)];
        return line[std::size_t(around(p.at + on, int(line.size())))];
    };
    const auto of = [&](int i) -> const Piece& { return pieces[std::size_t(i)]; };
    std::vector<LineCrossing> out;
    for (const SelfCrossing& c : crossingsOf(
             int(pieces.size()), box, whole, [&](int i) { return point(of(i), 0); }, [&](int i) { return point(of(i), 1); },
             [&](int j, int i) {
                 const int n = int(lines[std::size_t(of(i).line)].size());
                 return of(i).line == of(j).line && (i - j <= 1 || (closed[std::size_t(of(i).line)] && of(j).at == 0 && of(i).at == n - 1));
             },
             most))
        out.push_back({of(c.first).line, of(c.second).line, c.at});
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
