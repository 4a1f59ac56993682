#include "sheet/grid.h"

#include "sheet/nest/body.h"

#include <limits>

namespace yokai {

namespace {
constexpr double slack = 1e-9; // mm: what arithmetic may lose
}

Rows::Rows(GridGround ground) : g_(std::move(ground)), x_(g_.area.x0), y_(g_.area.y0) {}

std::optional<Point> Rows::next(double w, double h)
{
    if (w > g_.area.width() + slack || h > g_.area.height() + slack)
        return std::nullopt;
    for (;;) {
        const Rect at{x_, y_, x_ + w, y_ + h};
        if (at.y1 > g_.area.y1 + slack || (g_.rows > 0 && row_ >= g_.rows))
            return std::nullopt;
        if (at.x1 > g_.area.x1 + slack || (g_.columns > 0 && column_ >= g_.columns)) {
            nextRow();
            continue;
        }
        double shifted = x_;
        for (const Rect& zone : g_.clear)
            if (zone.overlaps(at))
                shifted = std::max(shifted, zone.x1);
        if (shifted > x_) {
            x_ = shifted;
            continue;
        }
        rowHeight_ = std::max(rowHeight_, h);
        x_ += w + g_.gap;
        ++column_;
        return Point{at.x0, at.y0};
    }
}

void Rows::nextRow()
{
    // A row that zones alone keep empty goes on just below the nearest of them.
    double down = y_ + rowHeight_ + g_.gapDown;
    if (rowHeight_ == 0) {
        down = std::numeric_limits<double>::infinity();
        for (const Rect& zone : g_.clear)
            if (zone.y1 > y_)
                down = std::min(down, zone.y1);
    } else {
        ++row_;
    }
    y_ = down;
    x_ = g_.area.x0;
    rowHeight_ = 0;
    column_ = 0;
}

void StaggeredRows::nextRow(std::size_t piece, double w, double step)
{
    tight_ = only_ == piece;
    y_ = tight_ ? y_ + step : std::max(bottom_ + g_.gapDown, y_);
    only_ = piece;
    column_ = 0;
    ++row_;
    x_ = g_.area.x0 + (row_ % 2) * (w + g_.gap) / 2;
}

std::optional<Point> StaggeredRows::next(std::size_t piece, double w, double h, double step)
{
    if (w > g_.area.width() + slack || h > g_.area.height() + slack)
        return std::nullopt;
    if (column_ == 0)
        only_ = piece;
    for (;;) {
        if (only_ != piece && tight_)
            nextRow(piece, w, step);
        if (y_ + h > g_.area.y1 + slack || (g_.rows > 0 && row_ >= g_.rows))
            return std::nullopt;
        const Rect at{x_, y_, x_ + w, y_ + h};
        if (at.x1 > g_.area.x1 + slack || (g_.columns > 0 && column_ >= g_.columns)) {
            nextRow(piece, w, step);
            continue;
        }
        ++column_;
        x_ += w + g_.gap;
        if (std::any_of(g_.clear.begin(), g_.clear.end(), [&](const Rect& zone) { return zone.overlaps(at); }))
            continue;
        if (only_ != piece)
            only_.reset();
        bottom_ = std::max(bottom_, at.y1);
        return Point{at.x0, at.y0};
    }
}

double staggerStep(const ToPlace& piece, double gap, double gapDown)
{
    const double most = piece.box.height() + gapDown, pitch = piece.box.width() + gap;
    if (!piece.shape || piece.shape->rings.empty())
        return most;
    const double need = std::max({gap, piece.shape->reach});
    const nesting::Body body(piece.shape->rings, piece.shape->reach, need + 1);
    // Rows with one between them lie straight below each other.
    constexpr double fineness = 0.1; // mm
    for (double step = most / 2; step < most; step += fineness) {
        bool fits = true;
        for (const double side : {-0.5, 0.5}) {
            nesting::Apart apart;
            fits = fits && !nesting::apart(body, {{side * pitch, step}, 0, false}, body, {}, need, apart);
        }
        if (fits)
            return step;
    }
    return most;
}

} // namespace yokai
