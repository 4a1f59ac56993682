// A corner rounded to a radius: the tangent-arc construction, for sides of any shape.
#include "touchup/round.h"

#include "touchup/kinds.h"

#include <cmath>
#include <numbers>

namespace yokai {

namespace {

constexpr double sharpTurn = 10 * std::numbers::pi / 180; // radians

// How long a corner's side is: to the next corner, at most half the path.
double sideOf(const Path& path, std::size_t node, bool forward)
{
    const std::size_t n = path.segments.size();
    const double half = length(path) / 2;
    double way = 0;
    std::size_t k = forward ? (node + 1) % n : node;
    for (std::size_t step = 0; step < n && way < half; ++step) {
        Path alone;
        alone.closed = false;
        alone.start = startOf(path, k);
        alone.segments = {path.segments[k]};
        way += length(alone);
        const std::size_t end = forward ? k : (k + n - 1) % n;
        if (end != node && turnAt(path, end) > sharpTurn)
            break;
        k = forward ? (k + 1) % n : (k + n - 1) % n;
    }
    return std::min(way, half);
}

} // namespace

std::optional<Path> rounded(const Path& path, std::size_t node, double radius)
{
    const std::size_t n = path.segments.size();
    if (!path.closed || n < 2 || radius <= 0)
        return std::nullopt;
    const PathPlace at{node, 1, path.segments[node].end};
    const Point in = tangentOn(startOf(path, node), path.segments[node], 1), out = tangentOn(at.at, path.segments[(node + 1) % n], 0);
    const double turn = std::atan2(cross(in, out), dot(in, out));
    if (std::abs(turn) < sharpTurn)
        return std::nullopt;
    const double before = sideOf(path, node, false), after = sideOf(path, node, true);
    const Paths side{stretchOf(path, at, along(path, at, after))};
    const auto centreAt = [&](const PathPlace& p) {
        const Point t = unit(tangentOn(startOf(path, p.segment), path.segments[p.segment], p.t));
        return p.at + Point{-t.y, t.x} * std::copysign(radius, turn);
    };
    // Farther back along the one side the arc's centre moves away from the other.
    const auto past = [&](double way) { return nearestPlace(side, centreAt(along(path, at, -way)))->away - radius; };
    constexpr int looks = 24;
    double low = 0, high = -1;
    for (int look = 1; look <= looks && high < 0; ++look) {
        const double way = before * look / looks;
        if (past(way) >= 0)
            high = way;
        else
            low = way;
    }
    if (high < 0)
        return std::nullopt;
    constexpr int rounds = 40;
    for (int round = 0; round < rounds; ++round) {
        const double middle = (low + high) / 2;
        (past(middle) >= 0 ? high : low) = middle;
    }
    const PathPlace from = along(path, at, -high);
    const Point centre = centreAt(from);
    const NearestPlace foot = *nearestPlace(side, centre);
    constexpr double exactly = 1e-3; // mm
    const bool atItsEnd = foot.segment + 1 == side[0].segments.size() && foot.t > 1 - 1e-6;
    if (std::abs(foot.away - radius) > exactly || atItsEnd)
        return std::nullopt;
    const std::size_t segment = (node + 1 + foot.segment) % n;
    // The stretch's last curve may be cut short; the place is found again on the whole one.
    const auto whole = nearestPlace({stretchOf(path, at, {segment, 1, path.segments[segment].end})}, foot.at);
    const PathPlace to{segment, whole->segment == foot.segment ? whole->t : foot.t, foot.at};
    Path result = stretchOf(path, to, from);
    result.closed = true;
    if (!result.corners.empty())
        result.corners.back() = false;
    result.arcTo(centre, to.at, turn > 0);
    result.segments.back().end = result.start;
    return result;
}

double largestRadius(const Path& path, std::size_t node, double atMost)
{
    double low = 0, high = atMost;
    constexpr int rounds = 20;
    for (int round = 0; round < rounds; ++round) {
        const double middle = (low + high) / 2;
        (rounded(path, node, middle) ? low : high) = middle;
    }
    return low;
}

EditFate roundCorner(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    const Point wanted = placeOf(edit.from, ground);
    const double reach = reachOf(edit, ground);
    double least = reach;
    std::optional<std::pair<std::size_t, std::size_t>> found; // path, node
    for (std::size_t p = 0; p < paths.size(); ++p)
        for (std::size_t k = 0; k < paths[p].segments.size(); ++k)
            if (const double away = distance(paths[p].segments[k].end, wanted); away <= least && paths[p].closed && turnAt(paths[p], k) > sharpTurn) {
                least = away;
                found = {p, k};
            }
    if (!found) {
        // A bar of its size, where it was.
        const double arm = edit.size.mm() / 2;
        out.ghost = {wanted - Point{arm, 0}, wanted + Point{arm, 0}};
        return EditFate::NoPlace;
    }
    const auto& [p, node] = *found;
    out.at = paths[p].segments[node].end;
    if (auto result = rounded(paths[p], node, edit.size.mm())) {
        paths[p] = std::move(*result);
        return EditFate::Held;
    }
    out.largest = largestRadius(paths[p], node, edit.size.mm());
    return EditFate::DoesNotFit;
}

EditFate roundInside(const Edit& edit, const EditGround& ground, Paths& paths, EditOutcome& out)
{
    out.at = placeOf(edit.from, ground);
    const double radius = edit.size.mm();
    if (radius <= 0)
        return EditFate::DoesNotFit;
    for (Path& path : paths) {
        if (!path.closed)
            continue;
        std::vector<Point> corners; // by where they are: the nodes' numbers change
        for (std::size_t k = 0; k < path.segments.size(); ++k) {
            const Point at = path.segments[k].end;
            const Point in = tangentOn(startOf(path, k), path.segments[k], 1), next = tangentOn(at, path.segments[(k + 1) % path.segments.size()], 0);
            if (std::atan2(cross(in, next), dot(in, next)) < -sharpTurn)
                corners.push_back(at);
        }
        for (const Point corner : corners) {
            std::size_t node = 0;
            for (std::size_t k = 1; k < path.segments.size(); ++k)
                if (distance(path.segments[k].end, corner) < distance(path.segments[node].end, corner))
                    node = k;
            auto result = path.segments[node].end == corner ? rounded(path, node, radius) : std::nullopt;
            if (result)
                path = std::move(*result);
            ++(result ? out.rounded : out.left);
        }
    }
    return EditFate::Held;
}

} // namespace yokai
