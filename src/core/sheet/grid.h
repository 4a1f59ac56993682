// Copies in rows, each in its box. Private to the sheet room.
#pragma once

#include "sheet/sheet.h"

namespace yokai {

struct GridGround {
    Rect area;
    double gap = 0, gapDown = 0;
    int columns = 0, rows = 0; // at most; 0: as many as fit
    std::vector<Rect> clear;   // stays blank
};

// Fills rows from the top left of an area, round zones that stay clear.
class Rows {
public:
    explicit Rows(GridGround ground);
    // The next place for a box of this size, or nothing.
    std::optional<Point> next(double w, double h);

private:
    void nextRow();
    GridGround g_;
    double x_, y_, rowHeight_ = 0;
    int column_ = 0, row_ = 0;
};

// Rows that are set off by half a step in turn, as close as the shapes allow where a row and the one before it hold one
// kind of piece.
class StaggeredRows {
public:
    explicit StaggeredRows(GridGround ground) : g_(std::move(ground)), x_(g_.area.x0), y_(g_.area.y0) {}
    // `step`: from row to row of this piece.
    std::optional<Point> next(std::size_t piece, double w, double h, double step);

private:
    void nextRow(std::size_t piece, double w, double step);
    GridGround g_;
    double x_, y_, bottom_ = 0;
    std::optional<std::size_t> only_; // the piece that the row holds, while it holds no other
    bool tight_ = false;              // lies closer to the row before than its boxes would
    int column_ = 0, row_ = 0;
};

// How far below a row of these one may lie that is set off by half a step: at most the box and the gap, less where
// round or pointed shapes let it.
double staggerStep(const ToPlace& piece, double gap, double gapDown);

} // namespace yokai
