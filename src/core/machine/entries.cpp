#include "machine/entries.h"

#include "path/cut.h"

#include <algorithm>
#include <numbers>

namespace yokai {

namespace {

constexpr std::size_t mostEntries = 16; // that are compared for a short way

std::vector<std::size_t> spread(const std::vector<std::size_t>& all)
{
    std::vector<std::size_t> out;
    const std::size_t count = std::min(mostEntries, all.size());
    for (std::size_t k = 0; k < count; ++k)
        out.push_back(all[k * all.size() / count]);
    return out;
}

// Each segment in two: a straight side between two corners has a middle then.
Path halved(const Path& path)
{
    Path out;
    out.start = path.start;
    Point from = path.start;
    for (std::size_t k = 0; k < path.segments.size(); ++k) {
        const Segment& s = path.segments[k];
        const Halves halves = split(from, s, 0.5);
        out.segments.push_back(halves.before);
        out.segments.push_back(halves.after);
        out.corners.push_back(false);
        out.corners.push_back(k < path.corners.size() && path.corners[k]);
        from = s.end;
    }
    return out;
}

} // namespace

Entries cornerEntries(const Path& path)
{
    constexpr double corner = 20 * std::numbers::pi / 180;
    std::vector<std::size_t> corners, all;
    for (std::size_t k = 0; k < path.segments.size(); ++k)
        (turnAt(path, k) > corner ? corners : all).push_back(k);
    return {path, spread(corners.empty() ? all : corners)};
}

Entries smoothEntries(const Path& path, double clear)
{
    constexpr double corner = 5 * std::numbers::pi / 180; // a blade that is let down on less of one hardly turns
    Entries out{halved(path), {}};
    const std::size_t n = out.path.segments.size();
    std::vector<double> ways(n); // to the end of each segment
    std::vector<std::size_t> corners;
    double whole = 0;
    Point from = out.path.start;
    for (std::size_t k = 0; k < n; ++k) {
        const Segment& s = out.path.segments[k];
        Path one;
        one.closed = false;
        one.start = from;
        one.segments = {s};
        ways[k] = whole += length(one);
        from = s.end;
        if (turnAt(out.path, k) > corner)
            corners.push_back(k);
    }
    std::vector<double> away(n, whole); // to the nearest corner, along the line
    for (std::size_t k = 0; k < n && !corners.empty(); ++k) {
        const auto next = std::lower_bound(corners.begin(), corners.end(), k);
        const double after = (next == corners.end() ? ways[corners.front()] + whole : ways[*next]) - ways[k];
        const auto before = next != corners.end() && *next == k ? next : next == corners.begin() ? corners.end() - 1 : next - 1;
        const double back = ways[k] - ways[*before];
        away[k] = std::min(after, back < 0 ? back + whole : back);
    }
    const double wanted = std::min(clear, 0.9 * *std::max_element(away.begin(), away.end()));
    std::vector<std::size_t> found;
    for (std::size_t k = 0; k < n; ++k)
        if (away[k] >= wanted)
            found.push_back(k);
    out.starts = spread(found);
    return out;
}

Path begunAfter(const Path& path, std::size_t segment)
{
    Path out = path;
    out.start = path.segments[segment].end;
    const auto turn = [&](auto& list) { std::rotate(list.begin(), list.begin() + std::ptrdiff_t(segment) + 1, list.end()); };
    turn(out.segments);
    if (out.corners.size() == out.segments.size())
        turn(out.corners);
    return out;
}

} // namespace yokai
