#include "outline/kept_edge.h"

#include <algorithm>
#include <cmath>

namespace yokai {

KeptEdge::KeptEdge(const Contours& contours, double pxPerMm) : pxPerMm_(pxPerMm), box_(Rect::nothing())
{
    for (const Contour& c : contours) {
        box_.add(bounds(c.points));
        for (std::size_t k = 0; k < c.points.size(); ++k)
            sides_.push_back({c.points[k], c.points[k + 1 == c.points.size() ? 0 : k + 1]});
    }
    if (sides_.empty())
        return;
    constexpr double most = 4096; // cells along one edge
    constexpr double least = 1e-3; // px
    cell_ = std::max({std::sqrt(box_.width() * box_.height() / double(sides_.size())), box_.width() / most, box_.height() / most, least});
    columns_ = int(box_.width() / cell_) + 1;
    rows_ = int(box_.height() / cell_) + 1;
    sort();
    findMiddles();
}

KeptEdge::Cell KeptEdge::cellOf(Point px) const
{
    return {std::clamp(int(std::floor((px.x - box_.x0) / cell_)), 0, columns_ - 1), std::clamp(int(std::floor((px.y - box_.y0) / cell_)), 0, rows_ - 1)};
}

// Not quite in the middle: no outline is likely to have a corner in line with it.
Point KeptEdge::middleOf(Cell c) const { return {box_.x0 + (c.x + 0.4371) * cell_, box_.y0 + (c.y + 0.5613) * cell_}; }

template <class F>
void KeptEdge::eachCellOf(const Side& side, F&& f) const
{
    const double slack = cell_ * 1e-6; // so that none is missed by rounding
    const Point up = side.from.y < side.to.y ? side.from : side.to, low = side.from.y < side.to.y ? side.to : side.from;
    const Cell first = cellOf({up.x, up.y - slack}), last = cellOf({low.x, low.y + slack});
    for (int y = first.y; y <= last.y; ++y) {
        const auto at = [&](double edge) { // of the side, where it enters or leaves the row
            const double whole = low.y - up.y, t = whole > 0 ? std::clamp((edge - up.y) / whole, 0.0, 1.0) : 0;
            return up.x + (low.x - up.x) * t;
        };
        const double a = first.y == last.y ? up.x : at(box_.y0 + y * cell_ - slack), b = first.y == last.y ? low.x : at(box_.y0 + (y + 1) * cell_ + slack);
        for (int x = cellOf({std::min(a, b) - slack, 0}).x; x <= cellOf({std::max(a, b) + slack, 0}).x; ++x)
            f(std::size_t(y) * std::size_t(columns_) + std::size_t(x));
    }
}

template <class F>
void KeptEdge::eachSideIn(int column, int row, F&& f) const
{
    const std::size_t cell = std::size_t(row) * std::size_t(columns_) + std::size_t(column);
    for (std::uint32_t k = starts_[cell]; k < starts_[cell + 1]; ++k)
        f(sides_[ids_[k]]);
}

void KeptEdge::sort()
{
    starts_.assign(std::size_t(columns_) * std::size_t(rows_) + 1, 0);
    for (const Side& side : sides_)
        eachCellOf(side, [&](std::size_t cell) { ++starts_[cell + 1]; });
    for (std::size_t k = 1; k < starts_.size(); ++k)
        starts_[k] += starts_[k - 1];
    ids_.resize(starts_.back());
    std::vector<std::uint32_t> next(starts_.begin(), starts_.end() - 1);
    for (std::size_t s = 0; s < sides_.size(); ++s)
        eachCellOf(sides_[s], [&](std::size_t cell) { ids_[next[cell]++] = std::uint32_t(s); });
}

namespace {

bool between(double at, double a, double b) { return at > std::min(a, b) && at <= std::max(a, b); }

} // namespace

// A row at a time: what lies right of them is crossed an odd number of times.
void KeptEdge::findMiddles()
{
    middles_.resize(std::size_t(columns_) * std::size_t(rows_));
    std::vector<std::uint32_t> touching;
    std::vector<double> crossings;
    for (int row = 0; row < rows_; ++row) {
        const std::size_t first = std::size_t(row) * std::size_t(columns_);
        touching.assign(ids_.begin() + starts_[first], ids_.begin() + starts_[first + std::size_t(columns_)]);
        std::sort(touching.begin(), touching.end());
        touching.erase(std::unique(touching.begin(), touching.end()), touching.end());
        const double y = middleOf({0, row}).y;
        crossings.clear();
        for (const std::uint32_t id : touching)
            if (const Side& s = sides_[id]; (s.from.y > y) != (s.to.y > y))
                crossings.push_back(s.from.x + (y - s.from.y) / (s.to.y - s.from.y) * (s.to.x - s.from.x));
        std::sort(crossings.begin(), crossings.end());
        std::size_t passed = 0;
        for (int x = 0; x < columns_; ++x) {
            while (passed < crossings.size() && crossings[passed] <= middleOf({x, row}).x)
                ++passed;
            middles_[first + std::size_t(x)] = (crossings.size() - passed) % 2 != 0;
        }
    }
}

// As its cell's middle is, but for the sides crossed on the way there: along, then up or down.
bool KeptEdge::inside(Point p) const
{
    if (!(p.x >= box_.x0 && p.x <= box_.x1 && p.y >= box_.y0 && p.y <= box_.y1))
        return false;
    const Cell cell = cellOf(p);
    const Point middle = middleOf(cell);
    bool in = middles_[std::size_t(cell.y) * std::size_t(columns_) + std::size_t(cell.x)] != 0;
    eachSideIn(cell.x, cell.y, [&](const Side& s) {
        const Point d = s.to - s.from;
        if ((s.from.y > p.y) != (s.to.y > p.y) && between(s.from.x + (p.y - s.from.y) / d.y * d.x, p.x, middle.x))
            in = !in;
        if ((s.from.x > middle.x) != (s.to.x > middle.x) && between(s.from.y + (middle.x - s.from.x) / d.x * d.y, p.y, middle.y))
            in = !in;
    });
    return in;
}

KeptEdge::Nearest KeptEdge::nearest(Point mm) const
{
    const Point p = mm * pxPerMm_;
    if (sides_.empty())
        return {std::numeric_limits<double>::infinity(), mm, {0, -1}};
    double nearest = std::numeric_limits<double>::infinity(); // squared
    Point at, along;
    const auto look = [&](const Side& s) {
        const Point d = s.to - s.from;
        const double squared = dot(d, d), t = squared > 0 ? std::clamp(dot(p - s.from, d) / squared, 0.0, 1.0) : 0;
        const Point foot = s.from + d * t, way = p - foot;
        if (dot(way, way) < nearest) {
            nearest = dot(way, way);
            at = foot;
            along = d;
        }
    };
    // Ring by ring round its own cell, or round the one nearest to it, as long as one may hold what is nearer.
    const Cell own = cellOf(p);
    const Point in{std::clamp(p.x, box_.x0, box_.x1), std::clamp(p.y, box_.y0, box_.y1)};
    const double beyond = dot(p - in, p - in);
    for (int ring = 0, rings = std::max(columns_, rows_); ring < rings; ++ring) {
        const double least = std::max(0, ring - 1) * cell_;
        if (beyond + least * least >= nearest)
            break;
        for (int y = std::max(0, own.y - ring); y <= std::min(rows_ - 1, own.y + ring); ++y) {
            const bool whole = std::abs(y - own.y) == ring;
            for (int x = own.x - ring; x <= own.x + ring; x += whole ? 1 : 2 * ring)
                if (x >= 0 && x < columns_)
                    eachSideIn(x, y, look);
        }
    }
    const double away = std::sqrt(nearest);
    const bool kept = inside(p);
    // On the edge itself its own direction tells; off it, the way to it.
    constexpr double off = 1e-6; // px
    const Point out = away > off ? (p - at) * ((kept ? -1 : 1) / away) : unit({along.y, -along.x});
    return {(kept ? -away : away) / pxPerMm_, at * (1 / pxPerMm_), out};
}

} // namespace yokai
