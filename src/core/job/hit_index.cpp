#include "job/hit_index.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace yokai {

namespace {

constexpr double flatness = 0.03; // mm: finer than a pointer can tell at any zoom one drags at
constexpr int cellsAcross = 64;   // of the longer side: some hundred parts of thousands a cell

double squaredTo(Point p, Point a, Point b)
{
    const Point d = b - a;
    const double t = std::clamp(dot(p - a, d) / std::max(1e-300, dot(d, d)), 0.0, 1.0);
    const Point off = p - (a + d * t);
    return dot(off, off);
}

double gapTo(const Rect& box, Point p)
{
    return std::hypot(std::max({box.x0 - p.x, p.x - box.x1, 0.0}), std::max({box.y0 - p.y, p.y - box.y1, 0.0}));
}

} // namespace

HitIndex::HitIndex(const PieceResult& piece, const LayerResult& layer, const Work& work) : pxPerMm_(piece.pxPerMm)
{
    edge_ = layer.edge;
    parts_ = layer.parts;
    for (const CutLine& line : layer.lines) {
        work.check();
        lines_.emplace_back();
        for (const Path& path : *line.paths) {
            Polyline points = flatten(path, flatness);
            const Rect box = bounds(points);
            lines_.back().push_back({std::move(points), box});
        }
    }
    if (!parts_ || !edge_)
        return;
    cell_ = std::max(piece.width, piece.height) / cellsAcross;
    across_ = std::max(1, int(std::ceil(piece.width / cell_)));
    down_ = std::max(1, int(std::ceil(piece.height / cell_)));
    cells_.resize(std::size_t(across_) * std::size_t(down_));
    for (std::size_t i = 0; i < parts_->all.size(); ++i) {
        const Rect& box = parts_->all[i].box;
        const auto column = [&](double x) { return std::clamp(int(x / cell_), 0, across_ - 1); };
        const auto row = [&](double y) { return std::clamp(int(y / cell_), 0, down_ - 1); };
        for (int y = row(box.y0); y <= row(box.y1); ++y)
            for (int x = column(box.x0); x <= column(box.x1); ++x)
                cells_[std::size_t(y) * std::size_t(across_) + std::size_t(x)].push_back(int(i));
    }
}

int HitIndex::partAt(Point at, double reach) const
{
    if (!parts_ || !edge_ || cells_.empty())
        return -1;
    // What lies within another has the smaller box; a ring's own area may be less than its opening's.
    const auto size = [this](int part) { const Rect& b = parts_->all[std::size_t(part)].box; return b.width() * b.height(); };
    int inside = -1, near = -1;
    double least = reach;
    const int x0 = std::clamp(int((at.x - reach) / cell_), 0, across_ - 1), x1 = std::clamp(int((at.x + reach) / cell_), 0, across_ - 1);
    const int y0 = std::clamp(int((at.y - reach) / cell_), 0, down_ - 1), y1 = std::clamp(int((at.y + reach) / cell_), 0, down_ - 1);
    for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x)
            for (const int i : cells_[std::size_t(y) * std::size_t(across_) + std::size_t(x)]) {
                const Part& part = parts_->all[std::size_t(i)];
                const double gap = gapTo(part.box, at);
                if (gap == 0 && part.contour >= 0 && (inside < 0 || size(i) < size(inside)) &&
                    contains((*edge_)[std::size_t(part.contour)].points, at * pxPerMm_))
                    inside = i;
                // A crumb is smaller than a finger; large shapes are met only on themselves.
                if (part.box.width() < 2 * reach && part.box.height() < 2 * reach && gap < least) {
                    least = gap;
                    near = i;
                }
            }
    return near >= 0 && (inside < 0 || size(near) < size(inside)) ? near : inside;
}

std::optional<HitIndex::OnLine> HitIndex::lineAt(Point at, double reach) const
{
    std::optional<OnLine> found;
    double least = reach * reach;
    for (std::size_t k = 0; k < lines_.size(); ++k)
        for (const Shape& shape : lines_[k]) {
            if (gapTo(shape.box, at) > reach)
                continue;
            const std::size_t n = shape.points.size();
            for (std::size_t i = 0; i < n; ++i)
                if (const double d = squaredTo(at, shape.points[i], shape.points[around(i + 1, n)]); d < least) {
                    least = d;
                    found = OnLine{k, std::sqrt(d)};
                }
        }
    return found;
}

bool HitIndex::within(const std::vector<Shape>& shapes, Point at) const
{
    bool inside = false;
    for (const Shape& shape : shapes)
        if (shape.box.contains(at))
            inside ^= contains(shape.points, at);
    return inside;
}

double HitIndex::distanceTo(std::size_t line, Point at) const
{
    constexpr double nowhere = 1e9;
    if (line >= lines_.size() || lines_[line].empty())
        return nowhere;
    double least = std::numeric_limits<double>::infinity();
    for (const Shape& shape : lines_[line])
        for (std::size_t i = 0, n = shape.points.size(); i < n; ++i)
            least = std::min(least, squaredTo(at, shape.points[i], shape.points[around(i + 1, n)]));
    return within(lines_[line], at) ? -std::sqrt(least) : std::sqrt(least);
}

bool HitIndex::covers(Point at) const
{
    for (const std::vector<Shape>& line : lines_)
        if (within(line, at))
            return true;
    const int part = partAt(at, 0);
    return part >= 0 && parts_->all[std::size_t(part)].kept;
}

} // namespace yokai
