#include "machine/waste.h"

#include <numbers>

namespace yokai {

namespace {

constexpr double fromEdge = 1;   // mm: what lies nearer to the sheet's edge curls up
constexpr double flatness = 0.1; // mm
constexpr int nobody = -2;       // no line of its own

} // namespace

Waste::Waste(std::span<const Path> pieces, const Crowded& lines, std::span<const Point> sheet, const Rect& bed) : lines_(lines), sheet_(sheet.begin(), sheet.end()), bed_(bed)
{
    for (const Path& path : pieces) {
        outlines_.push_back(flatten(path, flatness));
        boxes_.push_back(bounds(outlines_.back()));
    }
}

bool Waste::clear(Point p) const
{
    if (!bed_.contains(p) || !contains(sheet_, p) || !lines_.clear(p, nobody))
        return false;
    for (int k = 0; k < 4; ++k)
        if (!contains(sheet_, p + Affine::turn(k * std::numbers::pi / 2)({fromEdge, 0})))
            return false;
    for (std::size_t k = 0; k < outlines_.size(); ++k)
        if (boxes_[k].contains(p) && contains(outlines_[k], p))
            return false;
    return true;
}

std::optional<Track> Waste::alignment(Point near, Point heading, double leg) const
{
    constexpr double step = 0.2; // mm along the legs, under what lines are kept clear of
    const Rect box = bounds(sheet_);
    const double farthest = std::hypot(box.width(), box.height());
    const double apart = leg + leadClearance; // of the rings that are tried round it
    for (double r = apart; r < farthest; r += apart) {
        const int tries = std::clamp(int(2 * std::numbers::pi * r / apart), 8, 48);
        for (int k = 0; k < tries; ++k) {
            const Point end = near + Affine::turn(2 * std::numbers::pi * k / tries)(heading) * r, corner = end - heading * leg;
            for (const double side : {1.0, -1.0}) {
                const Point start = corner + Point{-heading.y, heading.x} * (side * leg);
                bool free = true;
                for (const auto& [from, to] : {std::pair(start, corner), std::pair(corner, end)})
                    for (double way = 0; way <= leg && free; way += step)
                        free = clear(from + unit(to - from) * way);
                if (free && clear(end))
                    return Track{start, {{corner, 0}, {end, 0}}};
            }
        }
    }
    return std::nullopt;
}

} // namespace yokai
